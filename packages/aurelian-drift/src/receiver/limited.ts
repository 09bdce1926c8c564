import type { Clock } from './clock.js';

/**
 * The outcome of a promise, or what `late` gives if it has not settled after so many seconds. What `late` throws is
 * thrown. The promise itself goes on; its outcome is then ignored.
 */
export function limited<T, Late>(
  clock: Clock,
  seconds: number,
  promise: Promise<T>,
  late: () => Late,
): Promise<T | Late> {
  return new Promise<T | Late>((resolve, reject) => {
    const cancel = clock.after(seconds, () => {
      // In a promise of its own, so that what `late` throws rejects.
      new Promise<Late>((give) => give(late())).then(resolve, reject);
    });
    promise.then(cancel, cancel);
    promise.then(resolve, reject);
  });
}
