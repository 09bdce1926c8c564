import { boundsAround, type Bounds } from '../geodesy/bounds.js';
import type { Fence } from './fence.js';
import { shapeOf } from './shape.js';

/** The box around fences; `undefined` without any. @throws {InputError} for an invalid fence. */
export function fencesBounds(fences: Iterable<Fence>): Bounds | undefined {
  return boundsAround(Array.from(fences, (fence) => shapeOf(fence).bounds));
}
