import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';

/** Finds what has bounds near a place. */
export interface FenceFinder<Item> {
  add(bounds: Bounds, item: Item): void;
  remove(item: Item): void;
  /** All whose bounds come within so many metres of a place, and perhaps others. */
  near(at: Position, metres: number): Iterable<Item>;
}

/** Gives all there are: for a few hundred, that is the quickest. */
export class FenceList<Item> implements FenceFinder<Item> {
  readonly #items = new Set<Item>();

  add(_bounds: Bounds, item: Item): void {
    this.#items.add(item);
  }

  remove(item: Item): void {
    this.#items.delete(item);
  }

  near(): Iterable<Item> {
    return this.#items;
  }
}
