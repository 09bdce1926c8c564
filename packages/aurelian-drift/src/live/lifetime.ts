import { whenAborted, type AbortSignalLike } from './abort-signal.js';
import type { OnListenerError } from './listener.js';

/**
 * The time from the making of an object to its end, and what must be released then. To what the object waits for it is
 * a signal that aborts when the object ends.
 */
export class Lifetime implements AbortSignalLike {
  readonly #report: OnListenerError;
  readonly #ends = new Set<() => unknown>();
  /** Listeners of the signal: unlike what must be released, each is removed by its function. */
  readonly #listeners = new Map<() => void, () => void>();
  #over: { readonly reason: unknown } | undefined;
  /** Releases that take their time. */
  #releasing: Promise<unknown> = Promise.resolve();

  /** @param report gets what a release throws: the others are released all the same. */
  constructor(report: OnListenerError) {
    this.#report = report;
  }

  get aborted(): boolean {
    return this.#over !== undefined;
  }

  get reason(): unknown {
    return this.#over?.reason;
  }

  /** Resolves once all that was to be released is; what failed on the way was reported. */
  get released(): Promise<void> {
    return this.#releasing.then(() => undefined);
  }

  /**
   * Calls a function once, at the end; at once when it is over. It may take its time, by a promise. Returns what calls
   * that off.
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

  /** Ends with a signal, at once when it has aborted already. Returns what calls that off. */
  endWith(signal: AbortSignalLike | undefined): () => void {
    return this.add(whenAborted(signal, () => void this.end(signal?.reason)));
  }

  /** Releases everything, what came last first. Returns whether it was not over yet. */
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
