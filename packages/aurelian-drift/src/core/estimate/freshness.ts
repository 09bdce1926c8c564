/** Milliseconds by which the time of a new fix may differ from the clock. */
export const CLOCK_SLACK = 10_000;
/** Seconds after which a fix with an odd date is believed if its platform vouches for it and gives no other. */
export const UNANSWERED = 5;
/** Milliseconds by which two fixes of one clock may arrive more or less apart than their times say. */
const STEP_SLACK = 2_000;
/** Minimum milliseconds between the arrivals of fixes that come as they are measured. */
const STEP_MIN = 100;
/** Doubtful fixes in a row, arriving as far apart as their times say, after which the clocks differ. */
const WITNESSES = 3;

/** Result for one fix: `clocks-differ` for a new one by a clock that differs from the clock before. */
export type FreshnessVerdict = 'fresh' | 'stale' | 'clocks-differ';

/**
 * Tells a new fix from one that the platform had stored: dated before the watch began, or in the future. A device whose
 * clock is wrong gives such times always; its fixes arrive as far apart as their times say, and the third is believed.
 */
export class Freshness {
  /** Usual milliseconds from the time of a fix to its arrival. */
  #delay = 0;
  #doubted: { readonly time: number; readonly now: number; readonly count: number } | undefined;

  /** @param since beginning of the watch. All times are milliseconds since 1970 UTC; `now` is that of the delivery. */
  judge(time: number, now: number, since: number): FreshnessVerdict {
    const delay = now - time;
    if (Math.abs(delay) <= CLOCK_SLACK)
      return this.#believe(this.#delay === 0 ? 'fresh' : 'clocks-differ', 0);
    const isUsual = Math.abs(delay - this.#delay) <= CLOCK_SLACK;
    const isHeldBack = delay > this.#delay && time + this.#delay >= since;
    if (isUsual || isHeldBack) return this.#believe('fresh', this.#delay);
    const count = isInStep(this.#doubted, time, now) ? (this.#doubted?.count ?? 0) + 1 : 1;
    this.#doubted = { time, now, count };
    return count < WITNESSES ? 'stale' : this.#believe('clocks-differ', delay);
  }

  #believe(verdict: FreshnessVerdict, delay: number): FreshnessVerdict {
    this.#delay = delay;
    this.#doubted = undefined;
    return verdict;
  }
}

/** An arrival: the time of a fix and the time at which it came, milliseconds since 1970 UTC. */
export interface Arrival {
  readonly time: number;
  readonly now: number;
}

/** Whether a fix came as long after another one as their times say, so that both were measured as they came. */
export function isInStep(before: Arrival | undefined, time: number, now: number): boolean {
  if (before === undefined) return false;
  const elapsed = now - before.now;
  return elapsed >= STEP_MIN && Math.abs(time - before.time - elapsed) <= STEP_SLACK;
}
