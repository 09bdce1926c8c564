import { checkFence } from './check.js';
import { circleShape } from './circle.js';
import { corridorShape } from './corridor.js';
import type { Fence, FenceShape } from './fence.js';
import { polygonShape } from './polygon.js';

const MAKERS = { circle: circleShape, corridor: corridorShape, polygon: polygonShape };

/**
 * The geometry of a fence, which is checked.
 *
 * @throws {InputError} for a fence that cannot be.
 */
export function shapeOf(fence: Fence): FenceShape {
  checkFence(fence);
  return MAKERS[fence.kind](fence as never);
}
