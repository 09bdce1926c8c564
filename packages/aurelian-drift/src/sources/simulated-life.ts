import { Listeners, warnOfListener } from '../live/listeners.js';
import { consoleWarn } from '../live/warn.js';
import type { Life, LifeEvent } from '../receiver/life.js';

/** What the pretend system does with the app, told to whoever listens. */
export class SimulatedLife implements Life {
  readonly #listeners = new Listeners<[event: LifeEvent]>(warnOfListener('a life', consoleWarn));
  #hidden = false;

  get hidden(): boolean {
    return this.#hidden;
  }

  on(listener: (event: LifeEvent) => void): () => void {
    return this.#listeners.add(listener);
  }

  tell(event: LifeEvent): void {
    this.#hidden = event !== 'shown' && event !== 'restored';
    this.#listeners.tell(event);
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
