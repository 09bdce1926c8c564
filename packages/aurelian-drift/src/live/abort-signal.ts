/**
 * A signal that cancels, recognised by its shape: an `AbortSignal` of the platform, of another frame, or of a polyfill.
 */
export interface AbortSignalLike {
  readonly aborted: boolean;
  /** The reason: pending calls are rejected with it. */
  readonly reason?: unknown;
  addEventListener(type: 'abort', listener: () => void): void;
  removeEventListener(type: 'abort', listener: () => void): void;
}

/**
 * Calls a function when a signal aborts, or at once when it has aborted already. Returns the function that removes the
 * call.
 */
export function whenAborted(signal: AbortSignalLike | undefined, action: () => void): () => void {
  if (signal?.aborted === true) action();
  else signal?.addEventListener('abort', action);
  return () => signal?.removeEventListener('abort', action);
}

/** @throws the reason of a signal that has aborted. */
export function throwIfAborted(signal: AbortSignalLike | undefined): void {
  if (signal?.aborted === true) throw signal.reason;
}
