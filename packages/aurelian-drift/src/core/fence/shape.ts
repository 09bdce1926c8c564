import { checkFence } from './check.js';
import type { Fence, FenceShape } from './fence.js';
import { FENCE_KINDS } from './kinds.js';

/**
 * Geometry of a fence, which is checked.
 *
 * @throws {InputError} for an impossible fence.
 */
export function shapeOf(fence: Fence): FenceShape {
  checkFence(fence);
  return FENCE_KINDS[fence.kind].shape(fence as never);
}
