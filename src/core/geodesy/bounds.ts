import type { Position } from './position.js';
import { wrapLongitude } from './wgs84.js';

/**
 * The smallest box around positions: [west, south, east, north] in degrees. Where west > east the box
 * spans the date line.
 */
export type Bounds = readonly [west: number, south: number, east: number, north: number];

/** Gathers positions, one at a time and in the order walked, into `Bounds`. */
export class BoundsGatherer {
  #west = NaN;
  #east = NaN;
  #south = NaN;
  #north = NaN;

  add(lat: number, lon: number): void {
    if (Number.isNaN(this.#west)) {
      this.#west = this.#east = lon;
      this.#south = this.#north = lat;
      return;
    }
    if (lat < this.#south) this.#south = lat;
    if (lat > this.#north) this.#north = lat;
    const width = this.#east - this.#west;
    // Longitudes are kept unwrapped and each new one is taken on the side where the box grows least.
    const eastward = lon + 360 * Math.ceil((this.#west - lon) / 360);
    const westward = eastward - 360;
    if (eastward - this.#west <= width) return;
    if (eastward - this.#east <= this.#west - westward) this.#east = eastward;
    else this.#west = westward;
  }

  /** `undefined` as long as nothing was added. */
  get bounds(): Bounds | undefined {
    if (Number.isNaN(this.#west)) return undefined;
    if (this.#east - this.#west >= 360) return [-180, this.#south, 180, this.#north];
    return [wrapLongitude(this.#west), this.#south, wrapLongitude(this.#east), this.#north];
  }
}

/** The bounds of some positions; `undefined` for none. */
export function boundsOf(positions: Iterable<Position>): Bounds | undefined {
  const gatherer = new BoundsGatherer();
  for (const { lat, lon } of positions) gatherer.add(lat, lon);
  return gatherer.bounds;
}

/** Whether a position lies in the box or on its edge. */
export function boundsContain(bounds: Bounds, { lat, lon }: Position): boolean {
  const [west, south, east, north] = bounds;
  if (!(lat >= south && lat <= north)) return false;
  return west <= east ? lon >= west && lon <= east : lon >= west || lon <= east;
}
