import type { Position } from '../geodesy/position.js';
import { FLAT, LONG, flatDistance, type Scale } from './plane.js';

/** Width of a search in relation to the radius that is asked for, so that it serves several searches. */
const WIDER = 4;

/** Caches the items near one user: one wide search serves until the user has left its middle. */
export class Surrounding<Item> {
  readonly #find: (at: Position, metres: number) => readonly Item[];
  readonly #edition: () => number;
  #centre: Position = { lat: 0, lon: 0 };
  #radius = 0;
  #items: readonly Item[] = [];
  #of = -1;

  /** @param edition changes whenever items are added or removed. */
  constructor(find: (at: Position, metres: number) => readonly Item[], edition: () => number) {
    this.#find = find;
    this.#edition = edition;
  }

  /** Items within a number of metres; it may include others. */
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
