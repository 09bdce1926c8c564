import { checkFence } from './check.js';
import type { Fence, FenceShape } from './fence.js';
import { FENCE_KINDS } from './kinds.js';

/**
 * The geometry of a fence, which is checked.
 *
 * @throws {InputError} for a fence that cannot be.
 */
export function shapeOf(fence: Fence): FenceShape {
  checkFence(fence);
  return FENCE_KINDS[fence.kind].shape(fence as never);
}
