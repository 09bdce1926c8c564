import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Plot } from './field.js';

/** A fence that is too small for the fixes to settle: no crossing of it can be reported. */
export interface TooSmallFence {
  /** Id and name of the fence. */
  readonly fence: string;
  readonly name: string;
  /**
   * `accuracy-known`: found when the accuracy of the fixes was known, or when the fence was added after that.
   * `undecided`: the user was near it for a minute, and the fixes could not tell the side.
   */
  readonly when: 'accuracy-known' | 'undecided';
  /** 95 % radius of the fixes, metres. */
  readonly accuracy: number;
  /** Size of the fence in metres: its radius, half its width, or the radius of a circle of its area. */
  readonly size: number;
  /** Least size in metres that fixes of this accuracy can settle. */
  readonly needed: number;
  /** The same in words, for the developer. */
  readonly text: string;
}

/** Accepted fixes after which the accuracy of the receiver counts as known. */
const KNOWN_AFTER = 10;
/** Metres: digits beyond are errors of rounding. */
const ROUNDING = 1e-6;
/** Milliseconds near a fence without a certain side, after which it counts as undecided. */
const UNDECIDED_AFTER = 60_000;

/**
 * Least radius in metres of a circle that fixes of an accuracy can settle: the smallest that holds the share
 * `certainty` of their spread, r = σ √(−2 ln(1 − certainty)) (Rayleigh distribution). At a certainty of 0.95 it is the
 * accuracy itself.
 *
 * @param accuracy 95 % radius in metres. @param certainty 0.5…1 (1 excluded), default 0.95.
 */
export function smallestFence(accuracy: number, certainty = 0.95): number {
  return (accuracy / RADIUS_IN_DEVIATIONS) * Math.sqrt(-2 * Math.log(1 - certainty));
}

/** Finds the fences of a watch that are too small for its fixes; each is told once. */
export class SizeCheck {
  readonly found: TooSmallFence[] = [];
  readonly #certainty: number;
  readonly #report: ((fence: TooSmallFence) => void) | undefined;
  readonly #told = new Set<Plot>();
  /** Times since which the side of a fence that is too small is not certain. */
  readonly #undecided = new Map<Plot, number>();
  #fixes = 0;

  /** @param certainty of fences without their own. */
  constructor(certainty: number, report: ((fence: TooSmallFence) => void) | undefined) {
    this.#certainty = certainty;
    this.#report = report;
  }

  /** Counts a fix. Returns whether the accuracy is known from this fix on. */
  count(): boolean {
    return ++this.#fixes === KNOWN_AFTER;
  }

  /** Checks a fence against the accuracy, if that is known. */
  check(plot: Plot, accuracy: number | undefined): void {
    if (this.#fixes >= KNOWN_AFTER) this.#tell(plot, accuracy, 'accuracy-known');
  }

  /** A fix has been compared with a fence. @param settled whether its side is certain. @param time of the fix. */
  compared(plot: Plot, accuracy: number | undefined, settled: boolean, time: number): void {
    if (settled || accuracy === undefined || plot.shape.size >= accuracy) {
      if (this.#undecided.size > 0) this.#undecided.delete(plot);
      return;
    }
    const since = this.#undecided.get(plot);
    if (since === undefined || since > time) this.#undecided.set(plot, time);
    else if (time - since >= UNDECIDED_AFTER) this.#tell(plot, accuracy, 'undecided');
  }

  /** The fence is no longer watched. */
  forget(plot: Plot): void {
    this.#told.delete(plot);
    this.#undecided.delete(plot);
  }

  #tell(plot: Plot, accuracy: number | undefined, when: TooSmallFence['when']): void {
    const { fence, shape } = plot;
    const needed = smallestFence(accuracy ?? 0, fence.certainty ?? this.#certainty);
    if (shape.size >= needed || accuracy === undefined || this.#told.has(plot)) return;
    this.#told.add(plot);
    const least = rounded(needed - ROUNDING, Math.ceil);
    const [size, radius] = [rounded(shape.size), rounded(accuracy)];
    const found: TooSmallFence = {
      fence: fence.id,
      name: fence.name,
      when,
      accuracy,
      size: shape.size,
      needed,
      text:
        `fence "${fence.name}" of ${size} m is too small for fixes of ±${radius} m: they cannot tell whether the ` +
        `user is inside; make its radius or half its width ${least} m at least`,
    };
    this.found.push(found);
    this.#report?.(found);
  }
}

/** Metres with one decimal below 10. @param round `Math.round`, or `Math.ceil` for a least value. */
function rounded(metres: number, round = Math.round): string {
  return String(metres < 10 ? round(metres * 10) / 10 : round(metres));
}
