import type { Warn } from '../receiver/warn.js';

/** Who is called back with each event. One that throws takes nothing from the others: that is warned of. */
export class Listeners<Event> {
  readonly #owner: string;
  readonly #warn: Warn;
  readonly #all = new Set<(event: Event) => void>();

  /** @param owner what they listen to, in words for the developer. */
  constructor(owner: string, warn: Warn) {
    this.#owner = owner;
    this.#warn = warn;
  }

  /** Returns what ends it. */
  add(listener: (event: Event) => void): () => void {
    this.#all.add(listener);
    return () => void this.#all.delete(listener);
  }

  tell(event: Event): void {
    for (const listener of [...this.#all]) {
      try {
        listener(event);
      } catch (error) {
        this.#warn(`a listener of a ${this.#owner} threw: ${String(error)}`, error);
      }
    }
  }
}
