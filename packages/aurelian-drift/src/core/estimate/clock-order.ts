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
   * Takes the time of the next fix, in milliseconds since 1970 UTC. `older` fixes are to be ignored; after `set-back`
   * the fix begins a new run, in which nothing before it counts.
   */
  judge(time: number): 'forward' | 'older' | 'set-back' {
    if (time >= this.#last) {
      this.#accept(time);
      return 'forward';
    }
    this.#count = time > this.#older ? this.#count + 1 : 1;
    this.#older = time;
    if (this.#count < WITNESSES) return 'older';
    this.#accept(time);
    return 'set-back';
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
