import type { Warn } from './warn.js';

/** Takes what a listener threw. Must not throw itself. */
export type ListenerFault = (error: unknown) => void;

/** Reports what a listener throws as a warning. @param owner the object that was listened to, for the message. */
export function warnOfListener(owner: string, warn: Warn): ListenerFault {
  return (error) => warn(`a listener of ${owner} threw: ${String(error)}`, error);
}

/**
 * Functions that are called with each event, in the order in which they were added. Each is isolated: one that throws
 * is reported, and the others are called all the same. A listener that is removed while an event is told is not
 * called for it any more; one that is added then is called from the next event on.
 */
export class Listeners<Arguments extends readonly unknown[]> {
  readonly #report: ListenerFault;
  /** Each addition is an entry of its own, so a function that was added twice is called twice and removed one at a time. */
  readonly #entries = new Set<{ readonly listener: (...args: Arguments) => void }>();

  /** @param report gets what a listener throws. */
  constructor(report: ListenerFault) {
    this.#report = report;
  }

  /** How many there are. */
  get size(): number {
    return this.#entries.size;
  }

  /** Returns the function that removes the listener; calling it twice is harmless. */
  add(listener: (...args: Arguments) => void): () => void {
    const entry = { listener };
    this.#entries.add(entry);
    return () => void this.#entries.delete(entry);
  }

  tell(...args: Arguments): void {
    for (const entry of [...this.#entries]) {
      if (!this.#entries.has(entry)) continue;
      try {
        entry.listener(...args);
      } catch (error) {
        this.#report(error);
      }
    }
  }

  clear(): void {
    this.#entries.clear();
  }
}
