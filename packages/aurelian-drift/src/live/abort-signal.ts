/**
 * A signal that ends what it was given to, by its shape: an `AbortSignal` of the platform, of another frame, or of a
 * polyfill.
 */
export interface AbortSignalLike {
  readonly aborted: boolean;
  /** What those who wait are rejected with. */
  readonly reason?: unknown;
  addEventListener(type: 'abort', listener: () => void): void;
  removeEventListener(type: 'abort', listener: () => void): void;
}

/** Calls a function once a signal aborts, at once when it has aborted already. Returns what calls that off. */
export function whenAborted(signal: AbortSignalLike | undefined, action: () => void): () => void {
  if (signal?.aborted === true) action();
  else signal?.addEventListener('abort', action);
  return () => signal?.removeEventListener('abort', action);
}

/** @throws the reason of a signal that has aborted. */
export function throwIfAborted(signal: AbortSignalLike | undefined): void {
  if (signal?.aborted === true) throw signal.reason;
}
