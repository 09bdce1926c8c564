import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import type { Life, LifeEvent } from '../receiver/life.js';

/** Life cycle of the app under the control of the pretend system. */
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

  /** A new run of the app: in front, without the listeners of the old one. */
  begin(): void {
    this.end();
    this.#hidden = false;
  }

  /** Removes all listeners, after pending events are delivered. */
  end(): void {
    this.#events.finish();
  }
}
