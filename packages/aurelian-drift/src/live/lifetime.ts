import { whenAborted, type AbortSignalLike } from './abort-signal.js';
import type { OnListenerError } from './listener.js';

/**
 * The lifetime of an object: holds what must be released at its end, and is a signal that aborts at the end for
 * anything that the object waits for.
 */
export class Lifetime implements AbortSignalLike {
  readonly #report: OnListenerError;
  readonly #ends = new Set<() => unknown>();
  /** Listeners of the signal. Unlike releases, each is removed by its function. */
  readonly #listeners = new Map<() => void, () => void>();
  #over: { readonly reason: unknown } | undefined;
  /** Pending asynchronous releases. */
  #releasing: Promise<unknown> = Promise.resolve();

  /** @param report takes the errors of releases; the other releases still run. */
  constructor(report: OnListenerError) {
    this.#report = report;
  }

  get aborted(): boolean {
    return this.#over !== undefined;
  }

  get reason(): unknown {
    return this.#over?.reason;
  }

  /** Resolves when all releases are complete, including failed ones, which were reported. */
  get released(): Promise<void> {
    return this.#releasing.then(() => undefined);
  }

  /**
   * Calls a function once at the end, or at once when the lifetime is over. The function may return a promise. Returns
   * the function that removes the call.
   */
  add(end: () => unknown): () => void {
    if (this.#over !== undefined) {
      this.#call(end);
      return () => {};
    }
    const entry = () => end();
    this.#ends.add(entry);
    return () => void this.#ends.delete(entry);
  }

  /** Ends when a signal aborts, or at once when it has aborted already. Returns the function that removes this link. */
  endWith(signal: AbortSignalLike | undefined): () => void {
    return this.add(whenAborted(signal, () => void this.end(signal?.reason)));
  }

  /** Releases everything, in reverse order. Returns false when the lifetime was over already. */
  end(reason: unknown): boolean {
    if (this.#over !== undefined) return false;
    this.#over = { reason };
    for (const end of [...this.#ends].reverse()) {
      this.#ends.delete(end);
      this.#call(end);
    }
    return true;
  }

  addEventListener(_type: 'abort', listener: () => void): void {
    if (!this.#listeners.has(listener)) this.#listeners.set(listener, this.add(listener));
  }

  removeEventListener(_type: 'abort', listener: () => void): void {
    this.#listeners.get(listener)?.();
    this.#listeners.delete(listener);
  }

  #call(end: () => unknown): void {
    try {
      const result = end();
      if (typeof result !== 'object') return;
      const done = Promise.resolve(result).catch(this.#report);
      this.#releasing = Promise.all([this.#releasing, done]);
    } catch (error) {
      this.#report(error);
    }
  }
}
