import type { Clock } from './clock.js';

/**
 * Resolves with a promise, or with the result of `late` if the promise has not settled after a number of seconds. An
 * error of `late` rejects. The promise itself continues; its outcome is then ignored.
 */
export function limited<T, Late>(
  clock: Clock,
  seconds: number,
  promise: Promise<T>,
  late: () => Late,
): Promise<T | Late> {
  return new Promise<T | Late>((resolve, reject) => {
    const cancel = clock.after(seconds, () => {
      // In a promise of its own, so that an error of `late` rejects.
      new Promise<Late>((give) => give(late())).then(resolve, reject);
    });
    promise.then(cancel, cancel);
    promise.then(resolve, reject);
  });
}
