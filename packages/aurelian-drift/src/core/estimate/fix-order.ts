import type { Fix } from '../fix/fix.js';
import { distanceBetween } from '../geodesy/distance.js';

/**
 * Metres a second: faster than any airliner with the wind behind it (about 340), slower than what a wild fix implies.
 */
export const FASTEST = 350;
/** Seconds that a step counts for at the least: the clocks of platforms are not finer than that at heart. */
export const MIN_STEP = 1;
/** So many questionable fixes in a row that agree with one another are believed: the user, or the clock, has jumped. */
const WITNESSES = 3;
/** Milliseconds by which clocks may differ without one of them being wrong. */
const CLOCK_SLACK = 10_000;

/** What may be wrong with a fix beside its predecessor. */
type OrderProblem = 'duplicate' | 'backwards' | 'outlier';

/** What a fix is beside its predecessor. */
export interface Verdict {
  /** `undefined` for a sound fix. */
  readonly mark: OrderProblem | undefined;
  /** A sound fix that does not join on to its predecessor: the path between is not known. */
  readonly jump: boolean;
}

const SOUND: Verdict = { mark: undefined, jump: false };
const JUMP: Verdict = { mark: undefined, jump: true };

/**
 * Tells fixes that cannot follow on their predecessor: `duplicate` (same time and place), `backwards` (older), `outlier`
 * (implies more than 350 m/s, both 95 % radii granted).
 *
 * It does not get stuck on a bad predecessor: three wild fixes that follow on one another are a jump; three older
 * fixes that follow on one another are a clock put right, if the predecessor is from the future.
 */
export class FixOrder {
  #last: Fix | undefined;
  #doubted: { fix: Fix; mark: OrderProblem; count: number } | undefined;

  /** @param now milliseconds since 1970 UTC, the time of delivery. */
  judge(fix: Fix, now: number): Verdict {
    const last = this.#last;
    if (last === undefined) return this.#accept(fix, SOUND);
    if (fix.time === last.time && fix.lat === last.lat && fix.lon === last.lon) {
      return { mark: 'duplicate', jump: false };
    }
    const mark = problem(last, fix);
    if (mark === undefined) return this.#accept(fix, SOUND);
    const before = this.#doubted;
    const agrees =
      before?.mark === mark && fix.time > before.fix.time && problem(before.fix, fix) === undefined;
    const count = agrees ? before.count + 1 : 1;
    this.#doubted = { fix, mark, count };
    const estimated = count >= WITNESSES && (mark === 'outlier' || last.time > now + CLOCK_SLACK);
    return estimated ? this.#accept(fix, JUMP) : { mark, jump: false };
  }

  /** Takes a fix that was doubted for sound after all: nothing has contradicted it. */
  accept(fix: Fix): void {
    this.#accept(fix, JUMP);
  }

  /** The next fix follows on nothing. */
  forget(): void {
    this.#last = this.#doubted = undefined;
  }

  #accept(fix: Fix, verdict: Verdict): Verdict {
    this.#last = fix;
    this.#doubted = undefined;
    return verdict;
  }
}

function problem(from: Fix, to: Fix): 'backwards' | 'outlier' | undefined {
  if (to.time < from.time) return 'backwards';
  const metres =
    distanceBetween(from.lat, from.lon, to.lat, to.lon) - (from.accuracy ?? 0) - (to.accuracy ?? 0);
  return metres > FASTEST * Math.max(MIN_STEP, (to.time - from.time) / 1000) ? 'outlier' : undefined;
}

/** Whether a fix is one that no readout, fence or statistic should take. */
export function isUnsound(fix: Fix): boolean {
  return (
    fix.marks?.some((mark) => mark === 'outlier' || mark === 'backwards' || mark === 'duplicate') === true
  );
}
