import { isolated, type OnListenerError } from './listener.js';
import { atTurnsEnd } from './turn.js';

/** What happens, told by one object with a kind to switch on. */
export interface KindOfEvent {
  readonly kind: string;
}

/**
 * Tells its listeners each event, in the order in which they were added, once the change that it belongs to is
 * complete. Each is isolated: one that throws is reported once, and the others are called all the same. A listener that
 * is removed is not called any more, also for an event that is just being told; one that is added then is called from
 * the next event on.
 */
export class Emitter<Event extends KindOfEvent> {
  readonly #report: OnListenerError;
  /** Replaced by another list with each change, so that an event goes to those who listened when it was told. */
  #entries: readonly Subscription<Event>[] = [];

  /** @param report gets what a listener throws. */
  constructor(report: OnListenerError) {
    this.#report = report;
  }

  /** How many listen. */
  get size(): number {
    return this.#entries.length;
  }

  /** Calls back with each event from now on. Returns the function that ends that; calling it twice is harmless. */
  onEvent(listener: (event: Event) => void): () => void {
    // Each addition is an entry of its own, so a function that was added twice is called twice and removed one at a time.
    const entry: Subscription<Event> = { call: isolated(listener, this.#report), listens: true };
    this.#entries = [...this.#entries, entry];
    return () => {
      if (!entry.listens) return;
      entry.listens = false;
      this.#entries = this.#entries.filter((each) => each !== entry);
    };
  }

  emit(event: Event): void {
    const entries = this.#entries;
    if (entries.length === 0) return;
    atTurnsEnd(() => {
      for (const entry of entries) if (entry.listens) entry.call(event);
    });
  }

  /** Tells what was told already, and nothing more. */
  finish(): void {
    this.#entries = [];
  }

  /** Nobody hears anything any more, not even what is just being told. */
  clear(): void {
    for (const entry of this.#entries) entry.listens = false;
    this.#entries = [];
  }
}

interface Subscription<Event> {
  readonly call: (event: Event) => void;
  listens: boolean;
}
