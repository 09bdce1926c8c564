import { isTooFar } from '../estimate/fix-order.js';
import { usualAccuracy } from '../estimate/usual-accuracy.js';
import { WAYS, type GivenWay } from '../estimate/way-of-moving.js';
import type { Fix } from '../fix/fix.js';
import { FEW, MIN_FIXES, countsAsDense } from './density.js';
import { FixMeter } from './fix-meter.js';
import type { Meter } from './meter.js';
import { countPath, type CountState } from './path-count.js';
import { PositionWindow } from './position-window.js';
import type { Tally } from './tally.js';
import { VelocityMeter } from './velocity-meter.js';
import { WindowEstimator, noExperience, type Experience } from './window-estimate.js';

/** Seconds behind the last fix at which figures become final, and how often. */
const LAG = 30;
const EVERY = 30;
/** Fixes before the final figures that are kept for smoothing, and limits of that in seconds. */
const PAST_FIXES = 70;
const PAST_MIN = 70;
const PAST_MAX = 90;
/** Seconds between two looks while an excursion from a rest is undecided, and its length in metres. */
const SOON = 10;
const UNDECIDED = 25;

/** How a run of fixes is measured, and why not otherwise. */
export type Decision = 'undecided' | 'smoothed' | 'sparse' | 'few-fixes';

/**
 * Measures fixes that state no speed, from their positions and times, and their accuracy where it is stated.
 *
 * A window of some two minutes is smoothed at three scales. The differences between them show the noise, whatever its
 * kind. The path at the finest scale is measured, less what noise adds to it, and plus what smoothing takes from
 * corners: as much as the next scale takes from it. Rest is told from motion by the speed of a path that is smooth
 * enough; nothing counts at rest. Displaced fixes have no weight.
 *
 * Figures are final half a minute to a minute after their fix. Where fixes are too few or too far apart, they are
 * measured from fix to fix; those with an accuracy, by the filter.
 */
export class PositionMeter implements Meter {
  readonly #tally: Tally;
  readonly #window = new PositionWindow();
  readonly #estimator: WindowEstimator;
  #experience: Experience;
  #state: CountState;
  #decision: Decision = 'undecided';
  /** Whether an earlier run was smoothed. */
  #experienced = false;
  #stated = false;
  /** Usual 95 % radius of the fixes; NaN when none is stated. */
  #accuracy = NaN;
  #fallback: Meter | undefined;
  /** Time of the next look. */
  #next = NaN;
  /** A fix that is too far from the one before. */
  #doubted: Fix | undefined;

  /** @param given the way of moving, when it is known. */
  constructor(tally: Tally, given?: GivenWay) {
    this.#tally = tally;
    const figures = WAYS.find(({ name }) => name === given);
    this.#estimator = new WindowEstimator(figures);
    this.#experience = noExperience(figures);
    this.#state = { until: -Infinity, rest: undefined, usual: this.#experience.usual };
  }

  /** How the run is measured. */
  get decision(): Decision {
    return this.#decision === 'undecided' && this.#enough ? 'smoothed' : this.#decision;
  }

  /** What the run is measured on. */
  get path(): 'fixes' | 'filtered' | 'smoothed' {
    if (this.decision === 'smoothed') return 'smoothed';
    return this.#stated ? 'filtered' : 'fixes';
  }

  get finalUntil(): number | undefined {
    if (this.#fallback !== undefined || this.#window.length === 0) return undefined;
    return this.#state.until === -Infinity ? this.#window.first : this.#state.until;
  }

  add(fix: Fix): void {
    if (this.#fallback !== undefined) {
      this.#fallback.add(fix);
      return;
    }
    if (this.#isOutlier(fix)) return;
    this.#learnAccuracy(fix);
    const window = this.#window;
    if (window.length > 0 && !(fix.time > window.last)) return; // one of the same time says nothing about motion
    window.add(fix);
    if (Number.isNaN(this.#next)) this.#next = fix.time + (LAG + EVERY) * 1000;
    if (fix.time < this.#next || !this.#decide(false)) return;
    this.#measure(fix.time - LAG * 1000, this.#tally, true);
    const { until } = this.#state;
    this.#next = Math.max(fix.time + SOON * 1000, until + (LAG + EVERY) * 1000);
    const step = (window.last - window.first) / (window.length - 1);
    const past = Math.min(PAST_MAX * 1000, Math.max(PAST_MIN * 1000, PAST_FIXES * step));
    window.forgetBefore(until - past);
  }

  end(): void {
    if (this.#decide(true)) {
      this.#measure(Infinity, this.#tally, true);
      this.#tally.stops.breakSegment();
    }
    this.#fallback?.end();
    this.#fallback = undefined;
    this.#decision = 'undecided';
    this.#state = { ...this.#state, until: -Infinity, rest: undefined };
    this.#next = NaN;
    this.#doubted = undefined;
    this.#window.clear();
  }

  provisional(copy: Tally): void {
    if (this.#fallback !== undefined) this.#fallback.provisional(copy);
    else if (this.#decision === 'smoothed' || this.#enough) this.#measure(Infinity, copy, false);
    else this.#coarser(copy).provisional(copy);
  }

  /** Whether a fix is an outlier. Two that agree with each other are none: a new run starts with them. */
  #isOutlier(fix: Fix): boolean {
    const last = this.#window.fixes.at(-1);
    const doubted = this.#doubted;
    this.#doubted = undefined;
    if (last === undefined || !isTooFar(last, fix)) return false;
    if (doubted === undefined || isTooFar(doubted, fix)) {
      this.#doubted = fix;
      return true;
    }
    this.end();
    this.add(doubted);
    return false;
  }

  #learnAccuracy({ accuracy }: Fix): void {
    if (accuracy === undefined) return;
    this.#stated = true;
    this.#accuracy = usualAccuracy(this.#accuracy, accuracy);
  }

  /** Whether there are fixes enough to know the noise. */
  get #enough(): boolean {
    const { fixes } = this.#window;
    return countsAsDense(fixes.length, fixes[0], fixes.at(-1), this.#experienced ? FEW : MIN_FIXES);
  }

  /** Decides how the run is measured. Returns whether it is smoothed. @param ends whether no more fixes follow. */
  #decide(ends: boolean): boolean {
    const { length } = this.#window;
    if (this.#fallback !== undefined || length === 0) return false;
    if (this.#decision === 'smoothed') return true;
    if (this.#enough) {
      this.#decision = 'smoothed';
      this.#experienced = true;
      return true;
    }
    if (!ends && length < MIN_FIXES) return false;
    this.#decision = length < MIN_FIXES ? 'few-fixes' : 'sparse';
    this.#fallback = this.#coarser(this.#tally);
    return false;
  }

  /** A meter for what cannot be smoothed, with the fixes so far. */
  #coarser(tally: Tally): Meter {
    const meter = this.#stated ? new VelocityMeter(tally) : new FixMeter(tally);
    for (const fix of this.#window.fixes) meter.add(fix);
    return meter;
  }

  /** Adds the window up to a time to a tally. @param keep whether it is final. */
  #measure(to: number, tally: Tally, keep: boolean): void {
    const window = this.#window;
    if (window.length < 2) return;
    window.unfold(this.#accuracy);
    const { usual } = this.#state;
    const estimate = this.#estimator.estimate(window, { ...this.#experience, usual });
    const end = this.#undecidedFrom(estimate.moving, to);
    const state = countPath(window, estimate, this.#state, end, tally);
    if (!keep) return;
    const { way, level, noise } = estimate;
    this.#experience = { way, level, noise, usual: state.usual };
    this.#state = state;
  }

  /**
   * The time, or the start of an excursion from a rest that is under way then: whether it leads anywhere shows when it
   * is over.
   */
  #undecidedFrom(moving: Uint8Array, to: number): number {
    const { times, east, north, length } = this.#window;
    const last = length - 1;
    if (!(to < (times[last] as number))) return to;
    let k = last;
    while (k > 0 && (times[k] as number) > to) k--;
    if (moving[k] === 0) return to;
    while (k > 0 && moving[k] === 1) k--;
    const started = times[k] as number;
    if (moving[k] === 1 || to - started > (LAG - SOON) * 1000) return to;
    const far = Math.hypot(
      (east[last] as number) - (east[k] as number),
      (north[last] as number) - (north[k] as number),
    );
    return far < UNDECIDED ? Math.max(this.#state.until, started) : to;
  }
}
