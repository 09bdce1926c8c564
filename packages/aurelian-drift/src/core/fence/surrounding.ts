import type { Position } from '../geodesy/position.js';
import { FLAT, LONG, flatDistance, type Scale } from './plane.js';

/** So many times as wide is the surrounding for which they are looked up at once. */
const WIDER = 4;

/** What is near one user, looked up for a wider surrounding that is then good for a while. */
export class Surrounding<Item> {
  readonly #find: (at: Position, metres: number) => readonly Item[];
  readonly #edition: () => number;
  #centre: Position = { lat: 0, lon: 0 };
  #radius = 0;
  #items: readonly Item[] = [];
  #of = -1;

  /** @param edition another number after each change of what there is to be found. */
  constructor(find: (at: Position, metres: number) => readonly Item[], edition: () => number) {
    this.#find = find;
    this.#edition = edition;
  }

  /** All within so many metres, and perhaps others. */
  near({ lat, lon }: Position, metres: number, scale: Scale): readonly Item[] {
    const edition = this.#edition();
    const reach = metres + flatDistance(this.#centre, { lat, lon }, scale);
    if (edition !== this.#of || reach > this.#radius * FLAT) {
      const radius = WIDER * metres;
      this.#items = this.#find({ lat, lon }, radius);
      this.#centre = { lat, lon };
      this.#radius = radius > LONG ? 0 : radius;
      this.#of = edition;
    }
    return this.#items;
  }
}
