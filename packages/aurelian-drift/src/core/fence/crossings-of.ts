import { passThrough } from '../trail/part.js';
import type { Trail } from '../trail/trail.js';
import type { Crossing } from './crossing.js';
import type { Fence } from './fence.js';
import type { SharedFences } from './shared-fences.js';
import { FenceWatch, type FenceWatchOptions } from './watch.js';

/**
 * The fence crossings of a finished trail, in the order in which they became certain.
 *
 * @throws {InputError} for an invalid fence or option.
 */
export function crossingsOf(
  trail: Trail,
  fences: Iterable<Fence> | SharedFences,
  options: FenceWatchOptions = {},
): Crossing[] {
  const watch = new FenceWatch(fences, options);
  const crossings: Crossing[] = [];
  passThrough(trail, {
    take: (fix) => void crossings.push(...watch.take(fix)),
    breakSegment: () => watch.breakSegment(),
  });
  return crossings;
}
