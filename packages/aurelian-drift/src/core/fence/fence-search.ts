import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import type { Scale } from './plane.js';

declare const opaque: unique symbol;

/**
 * An index of fences for `FenceWatch` or `sharedFences`, made by `fenceIndex()`. It belongs to the one that it was
 * given to, which fills it.
 */
export interface FenceIndex {
  readonly [opaque]?: never;
}

/** Searches items by their bounds. */
export interface FenceSearch<Item> {
  add(bounds: Bounds, item: Item): void;
  remove(item: Item): void;
  /** Items whose bounds come within a number of metres of a position; it may include others. */
  near(at: Position, metres: number): readonly Item[];
  /** The same for one user, whose position changes little between searches. */
  around(): Around<Item>;
}

/**
 * Items whose bounds come within a number of metres of a position, where the metres per degree are known; it may
 * include others.
 */
export type Around<Item> = (at: Position, metres: number, scale: Scale) => readonly Item[];

/** The search behind an index. */
export function finderOf<Item>(index: FenceIndex | undefined): FenceSearch<Item> | undefined {
  return index as FenceSearch<Item> | undefined;
}
