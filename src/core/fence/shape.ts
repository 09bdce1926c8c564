import { checkFence } from './check.js';
import { circleShape } from './circle.js';
import { corridorShape } from './corridor.js';
import type { Fence, FenceShape } from './fence.js';
import { polygonShape } from './polygon.js';

const MAKERS = { circle: circleShape, corridor: corridorShape, polygon: polygonShape };
const SHAPES = new WeakMap<Fence, FenceShape>();

/**
 * The geometry of a fence, checked and made once: a fence is a value, and the watches of thousands of users share its shape.
 *
 * @throws {InputError} for a fence that cannot be.
 */
export function shapeOf(fence: Fence): FenceShape {
  let shape = SHAPES.get(fence);
  if (shape === undefined) {
    checkFence(fence);
    SHAPES.set(fence, (shape = MAKERS[fence.kind](fence as never)));
  }
  return shape;
}
