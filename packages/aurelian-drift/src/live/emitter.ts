import { isolated, type OnListenerError } from './listener.js';
import { atTurnsEnd } from './turn.js';

/** An event: an object with a `kind`. */
export interface KindOfEvent {
  readonly kind: string;
}

/**
 * Passes events to its listeners, in the order in which they were added, when the current change is complete. Listeners
 * are isolated: an error of one is reported once, and the others are called. A removed listener is not called again,
 * not even for the current event; a new listener is called from the next event on.
 */
export class Emitter<Event extends KindOfEvent> {
  readonly #report: OnListenerError;
  /** Replaced by a new list on each change, so that an event goes to the listeners at the time of the event. */
  #entries: readonly Subscription<Event>[] = [];

  /** @param report takes the errors of listeners. */
  constructor(report: OnListenerError) {
    this.#report = report;
  }

  /** Number of listeners. */
  get size(): number {
    return this.#entries.length;
  }

  /**
   * Calls the listener with each event from now on. Returns the function that unsubscribes; calling it twice is
   * harmless.
   */
  onEvent(listener: (event: Event) => void): () => void {
    // Each addition is an entry of its own, so a function that was added twice is called twice and removed one at a
    // time.
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

  /** Delivers pending events, and none after them. */
  finish(): void {
    this.#entries = [];
  }

  /** Removes all listeners; pending events are dropped. */
  clear(): void {
    for (const entry of this.#entries) entry.listens = false;
    this.#entries = [];
  }
}

interface Subscription<Event> {
  readonly call: (event: Event) => void;
  listens: boolean;
}
