import { isolated, type ListenerFault } from './listener.js';
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
  readonly #report: ListenerFault;
  /**
   * Each addition is an entry of its own, so a function that was added twice is called twice and removed one at a time.
   */
  readonly #entries = new Set<(event: Event) => void>();

  /** @param report gets what a listener throws. */
  constructor(report: ListenerFault) {
    this.#report = report;
  }

  /** How many listen. */
  get size(): number {
    return this.#entries.size;
  }

  /** Calls back with each event from now on. Returns the function that ends that; calling it twice is harmless. */
  onEvent(listener: (event: Event) => void): () => void {
    const entry = isolated(listener, this.#report);
    this.#entries.add(entry);
    return () => void this.#entries.delete(entry);
  }

  tell(event: Event): void {
    const entries = [...this.#entries];
    if (entries.length === 0) return;
    atTurnsEnd(() => {
      for (const entry of entries) if (this.#entries.has(entry)) entry(event);
    });
  }

  clear(): void {
    this.#entries.clear();
  }
}
