import { FixFilter } from '../core/estimate/fix-filter.js';
import type { Fix } from '../core/fix/fix.js';
import type { Clock } from './clock.js';
import type { FollowStep } from './follow-state.js';

/** Seconds without a fix after which a follow counts as silent: several fixes of any source have been missed. */
export const SILENT_AFTER = 15;

/** Tells a user who stays from a device that has fallen silent. */
export class Liveliness {
  readonly #clock: Clock;
  readonly #silentAfter: number;
  readonly #change: (step: FollowStep) => void;
  /** The path, by which rest is told from motion. */
  readonly filter = new FixFilter();
  #arrived = 0;
  /** Seconds for which no fix is expected, by plan. */
  #spared = 0;
  #cancel: (() => void) | undefined;

  /** @param silentAfter seconds. */
  constructor(clock: Clock, silentAfter: number, change: (step: FollowStep) => void) {
    this.#clock = clock;
    this.#silentAfter = silentAfter;
    this.#change = change;
  }

  /** A sound fix has arrived. */
  add(fix: Fix): void {
    this.#arrived = this.#clock.now();
    this.#spared = 0;
    this.filter.take(fix);
    const since = this.filter.rest?.since;
    this.#change(since === undefined ? { step: 'moves' } : { step: 'rests', since });
    // One alarm for many fixes: it looks when it rings whether it has to wait longer.
    this.#cancel ??= this.#clock.after(this.#silentAfter, () => this.#look());
  }

  /** The receiver is left off for so many seconds, by plan: that is no silence. */
  spare(seconds: number): void {
    this.#spared = seconds;
  }

  /** No judgement until the next fix. */
  rest(): void {
    this.#cancel?.();
    this.#cancel = undefined;
    this.forget();
  }

  /** The next fix follows on nothing. */
  forget(): void {
    this.filter.breakSegment();
  }

  #look(): void {
    const left = this.#silentAfter + this.#spared - (this.#clock.now() - this.#arrived) / 1000;
    if (left > 0.001) {
      this.#cancel = this.#clock.after(left, () => this.#look());
    } else {
      this.#cancel = undefined;
      this.forget();
      this.#change({ step: 'falls-silent', since: this.#arrived });
    }
  }
}
