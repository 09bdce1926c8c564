import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import type { Scale } from './plane.js';

declare const opaque: unique symbol;

/**
 * An index of fences for `FenceWatch` and `sharedFences`: `fenceIndex()` makes one. It belongs to one of them, which
 * fills it.
 */
export interface FenceIndex {
  readonly [opaque]?: never;
}

/** Finds what has bounds near a place. */
export interface FenceSearch<Item> {
  add(bounds: Bounds, item: Item): void;
  remove(item: Item): void;
  /** All whose bounds come within so many metres of a place, and perhaps others. */
  near(at: Position, metres: number): readonly Item[];
  /** The same for one user, who is not far from one time to the next. */
  around(): Around<Item>;
}

/**
 * Gives all whose bounds come within so many metres of a place, and perhaps others; metres a degree there are known.
 */
export type Around<Item> = (at: Position, metres: number, scale: Scale) => readonly Item[];

/** The finder that an index is. */
export function finderOf<Item>(index: FenceIndex | undefined): FenceSearch<Item> | undefined {
  return index as FenceSearch<Item> | undefined;
}
