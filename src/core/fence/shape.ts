import { circleShape } from './circle.js';
import type { Fence, FenceShape } from './fence.js';
import { polygonShape } from './polygon.js';

/** The geometry of a fence. */
export function shapeOf(fence: Fence): FenceShape {
  return fence.kind === 'circle' ? circleShape(fence) : polygonShape(fence);
}
