import { FixFilter } from '../core/estimate/fix-filter.js';
import type { Fix } from '../core/fix/fix.js';
import type { Clock } from './clock.js';
import type { FollowStep } from './follow-state.js';

/** Seconds without a fix after which a follow is silent: several fixes of any source are missing. */
export const SILENT_AFTER = 15;

/** Tells a user at rest from a device that is silent: that has fallen silent, or has not given a fix yet. */
export class Liveliness {
  readonly #clock: Clock;
  readonly #silentAfter: number;
  readonly #change: (step: FollowStep) => void;
  /** The filtered path, which tells rest from motion. */
  readonly filter = new FixFilter();
  #arrived = 0;
  /** Seconds for which no fix is expected, by plan. */
  #spared = 0;
  #cancel: (() => void) | undefined;

  /** @param silentAfter seconds without a fix. */
  constructor(clock: Clock, silentAfter: number, change: (step: FollowStep) => void) {
    this.#clock = clock;
    this.#silentAfter = silentAfter;
    this.#change = change;
  }

  /** Fixes are expected from now on. */
  begin(): void {
    this.#arrived = this.#clock.now();
    this.#spared = 0;
    // One alarm serves many fixes: when it rings, it checks whether to wait longer.
    this.#cancel ??= this.#clock.after(this.#silentAfter, () => this.#look());
  }

  /** An accepted fix has arrived. */
  add(fix: Fix): void {
    this.begin();
    this.filter.take(fix);
    const since = this.filter.rest?.since;
    this.#change(since === undefined ? { step: 'moves' } : { step: 'rests', since });
  }

  /** The receiver is off for a number of seconds, by plan: that is not a silence. */
  spare(seconds: number): void {
    this.#spared = seconds;
  }

  /** Suspends the judgement until fixes are expected again. */
  rest(): void {
    this.#cancel?.();
    this.#cancel = undefined;
    this.forget();
  }

  /** Starts a new segment. */
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
