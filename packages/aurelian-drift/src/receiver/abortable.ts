import type { AbortSignalLike } from '../live/abort-signal.js';

/** Resolves with the promise, or rejects with the reason of the signal when it aborts first. */
export function abortable<T>(promise: Promise<T>, signal: AbortSignalLike | undefined): Promise<T> {
  if (signal === undefined) return promise;
  return new Promise((resolve, reject) => {
    // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- the reason is the caller's own
    const abort = () => reject(signal.reason);
    if (signal.aborted) abort();
    else signal.addEventListener('abort', abort);
    promise.then(resolve, reject).finally(() => signal.removeEventListener('abort', abort));
  });
}
