import type { Life, LifeEvent } from '../receiver/life.js';

/** What the pretend system does with the app, told to whoever listens. */
export class SimulatedLife implements Life {
  readonly #listeners = new Set<(event: LifeEvent) => void>();
  #hidden = false;

  get hidden(): boolean {
    return this.#hidden;
  }

  on(listener: (event: LifeEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  tell(event: LifeEvent): void {
    this.#hidden = event !== 'shown' && event !== 'restored';
    for (const listener of [...this.#listeners]) listener(event);
  }

  /** A new run of the app: in front, and nobody of the old one listens. */
  begin(): void {
    this.#listeners.clear();
    this.#hidden = false;
  }

  /** Nobody listens any more. */
  end(): void {
    this.#listeners.clear();
  }
}
