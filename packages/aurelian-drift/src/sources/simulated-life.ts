import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import type { Life, LifeEvent } from '../receiver/life.js';

/** What the pretend system does with the app, told to whoever listens. */
export class SimulatedLife implements Life {
  readonly #events = new Emitter<LifeEvent>(warnOfListener('a life', consoleWarn));
  #hidden = false;

  get hidden(): boolean {
    return this.#hidden;
  }

  onEvent(listener: (event: LifeEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  report(kind: LifeEvent['kind']): void {
    this.#hidden = kind !== 'shown' && kind !== 'restored';
    this.#events.emit({ kind });
  }

  /** A new run of the app: in front, and nobody of the old one listens. */
  begin(): void {
    this.end();
    this.#hidden = false;
  }

  /** Nobody listens any more, once what is being told is told. */
  end(): void {
    this.#events.finish();
  }
}
