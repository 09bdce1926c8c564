import type { Fix } from '../fix/fix.js';
import { distanceBetween } from '../geodesy/distance.js';
import { CLOCK_SLACK, isInStep } from './freshness.js';

/** Maximum plausible speed in m/s: above that of an airliner with tail wind (about 340), below that of an outlier. */
export const FASTEST = 350;
/** Minimum duration of a step in seconds: platform clocks are not more exact. */
export const MIN_STEP = 1;
/**
 * Number of questionable fixes in a row that agree with one another and are then accepted: the user or the clock has
 * jumped.
 */
const WITNESSES = 3;

/** Problem of a fix in relation to the fix before it. */
type OrderProblem = 'duplicate' | 'backwards' | 'outlier';

/** Verdict on a fix in relation to the fix before it. */
export interface Verdict {
  /** `undefined` for a fix without a problem. */
  readonly mark: OrderProblem | undefined;
  /** What has jumped before an accepted fix that does not continue the path, so that the path in between is unknown. */
  readonly jump?: 'place' | 'clock';
}

const SOUND: Verdict = { mark: undefined };
const JUMPS = {
  outlier: { mark: undefined, jump: 'place' },
  backwards: { mark: undefined, jump: 'clock' },
} as const;

/**
 * Finds fixes that cannot follow the fix before them: `duplicate` (same time and place), `backwards` (older), `outlier`
 * (implies more than 350 m/s, even with both 95 % radii subtracted).
 *
 * One bad fix does not make all later ones bad: three outliers that agree with one another are a jump; three older
 * fixes that agree are a corrected clock, if the fix before is from the future, or if they arrive as far apart as their
 * times say.
 */
export class FixOrder {
  #last: Fix | undefined;
  #doubted: { fix: Fix; mark: OrderProblem; now: number; count: number; inStep: boolean } | undefined;

  /** @param now milliseconds since 1970 UTC, the time of delivery. */
  judge(fix: Fix, now: number): Verdict {
    const last = this.#last;
    if (last === undefined) return this.#accept(fix, SOUND);
    if (fix.time === last.time && fix.lat === last.lat && fix.lon === last.lon) {
      return { mark: 'duplicate' };
    }
    const mark = problem(last, fix);
    if (mark === undefined) return this.#accept(fix, SOUND);
    const before = this.#doubted;
    const agrees =
      before?.mark === mark && fix.time > before.fix.time && problem(before.fix, fix) === undefined;
    const count = agrees ? before.count + 1 : 1;
    const inStep =
      !agrees || (before.inStep && isInStep({ time: before.fix.time, now: before.now }, fix.time, now));
    this.#doubted = { fix, mark, now, count, inStep };
    const believed = count >= WITNESSES && (mark === 'outlier' || inStep || last.time > now + CLOCK_SLACK);
    return believed ? this.#accept(fix, JUMPS[mark]) : { mark };
  }

  /** Accepts a questionable fix after all, because no later fix contradicts it. */
  accept(fix: Fix): void {
    this.#accept(fix, JUMPS.outlier);
  }

  /** Starts a new segment: the next fix is not compared with the one before. */
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
  return isTooFar(from, to) ? 'outlier' : undefined;
}

/** Whether a step implies more than 350 m/s, even with both 95 % radii subtracted. */
export function isTooFar(from: Fix, to: Fix): boolean {
  const metres =
    distanceBetween(from.lat, from.lon, to.lat, to.lon) - (from.accuracy ?? 0) - (to.accuracy ?? 0);
  return metres > FASTEST * Math.max(MIN_STEP, (to.time - from.time) / 1000);
}

/** Whether a fix is marked as one that no readout, fence or statistic should use. */
export function isUnsound(fix: Fix): boolean {
  return (
    fix.marks?.some(
      (mark) => mark === 'outlier' || mark === 'backwards' || mark === 'duplicate' || mark === 'stale',
    ) === true
  );
}
