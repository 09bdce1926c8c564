import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import { FLAT, flatDistance, type Scale } from './calm.js';
import type { FenceFinder } from './finder.js';

/** So many times as wide is the surrounding for which they are looked up at once. */
const WIDER = 4;
/** Metres beyond which a plane does not do, so that nothing is kept. */
export const LONG = 20_000;

/** What is near, looked up for a wider surrounding that is then good for a while. */
export class Surrounding<Item> {
  readonly #finder: FenceFinder<Item>;
  #centre: Position = { lat: 0, lon: 0 };
  #radius = 0;
  #items: readonly Item[] = [];

  constructor(finder: FenceFinder<Item>) {
    this.#finder = finder;
  }

  /** The finder has changed. */
  forget(): void {
    this.#radius = 0;
  }

  /** All within so many metres and perhaps others. */
  near({ lat, lon }: Position, metres: number, scale: Scale): readonly Item[] {
    if (metres + flatDistance(this.#centre, { lat, lon }, scale) > this.#radius * FLAT) {
      const radius = WIDER * metres;
      this.#items = [...this.#finder.near({ lat, lon }, radius)];
      this.#centre = { lat, lon };
      this.#radius = radius > LONG ? 0 : radius;
    }
    return this.#items;
  }
}

/** Metres from a place to a box, in a plane; 0 eastwards where that is not easily told. */
export function gapTo(bounds: Bounds, { lat, lon }: Position, scale: Scale): number {
  const [west, south, east, north] = bounds;
  const up = (lat < south ? south - lat : lat > north ? lat - north : 0) * scale.north;
  if (west > east || Math.abs(lon - west) > 180) return up * FLAT;
  const right = (lon < west ? west - lon : lon > east ? lon - east : 0) * scale.east;
  return Math.sqrt(up * up + right * right) * FLAT;
}
