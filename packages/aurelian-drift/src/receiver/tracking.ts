import { liveValue, type LiveValue } from '../live/live-value.js';
import type { OnListenerError } from '../live/listener.js';

/** Whether positions are being followed, at which level, and since when: for an indicator on the screen. */
export type Tracking =
  | { readonly active: false }
  | { readonly active: true; readonly level: 'foreground' | 'background'; readonly since: number };

const OFF: Tracking = Object.freeze({ active: false });

/** Keeps track of the running follows. */
export class TrackingSign {
  readonly #now: () => number;
  readonly #tracking;
  readonly #follows = new Map<object, { background: boolean; since: number }>();

  constructor(now: () => number, report: OnListenerError) {
    this.#now = now;
    this.#tracking = liveValue<Tracking>(OFF, report);
  }

  get $tracking(): LiveValue<Tracking> {
    return this.#tracking;
  }

  get count(): number {
    return this.#follows.size;
  }

  begin(follow: object, background: boolean): void {
    this.#follows.set(follow, { background, since: this.#now() });
    this.#report();
  }

  end(follow: object): void {
    if (this.#follows.delete(follow)) this.#report();
  }

  #report(): void {
    const all = [...this.#follows.values()];
    this.#tracking.set(
      all.length === 0
        ? OFF
        : {
            active: true,
            level: all.some(({ background }) => background) ? 'background' : 'foreground',
            since: Math.min(...all.map(({ since }) => since)),
          },
    );
  }
}
