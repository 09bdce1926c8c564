import type { Fix } from '../fix/fix.js';

/** Older fixes in a row, each newer than the one before, after which the clock counts as set back. */
const WITNESSES = 3;

/**
 * Tells a fix that is older than the one before from a clock that was set back: after that all fixes are older, and
 * their own times go forward.
 */
export class ClockOrder {
  #last = -Infinity;
  #older = NaN;
  #count = 0;

  /**
   * Takes the next fix. `older` fixes are to be ignored. `set`: the clock was put back, or forward if the fix is marked
   * so; the fix begins a new run, and the time before it is unknown.
   */
  judge({ time, marks }: Pick<Fix, 'time' | 'marks'>): 'forward' | 'older' | 'set' {
    if (marks?.includes('clock-set') === true) {
      this.#accept(time);
      return 'set';
    }
    if (time >= this.#last) {
      this.#accept(time);
      return 'forward';
    }
    this.#count = time > this.#older ? this.#count + 1 : 1;
    this.#older = time;
    if (this.#count < WITNESSES) return 'older';
    this.#accept(time);
    return 'set';
  }

  /** Starts a new run: the next fix is not compared with the one before. */
  forget(): void {
    this.#accept(-Infinity);
  }

  #accept(time: number): void {
    this.#last = time;
    this.#older = NaN;
    this.#count = 0;
  }
}
