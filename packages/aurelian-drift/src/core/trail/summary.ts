import { BoundsGatherer, type Bounds } from '../geodesy/bounds.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { Fix } from '../fix/fix.js';
import { ClimbCounter } from './climb.js';
import { DistanceCounter } from './honest-distance.js';
import { StopGatherer, type Stop } from './stops.js';

/**
 * A time of which the trail says nothing: between two segments, or a silence, long beside the steps between its fixes.
 */
export interface Gap {
  /** Milliseconds since 1970 UTC. */
  readonly start: number;
  readonly end: number;
}

/**
 * What a trail comes to. SI units; what is not known is absent. Before the first fix only the counts, `distance`,
 * `rawDistance`, `path`, `gaps` and `stops` are there, none of them above zero; before the second, `duration` is 0 and
 * the averages, the top speed and the climb are absent.
 */
export interface Summary {
  readonly fixes: number;
  readonly segments: number;
  /** Times of the first and the last fix, milliseconds since 1970 UTC; absent before the first sound fix. */
  readonly start?: number;
  readonly end?: number;
  /** Seconds from start to end, pauses included; absent before the first sound fix. */
  readonly duration?: number;
  /** Seconds of `duration` in which the user moved at 0.4 m/s or more; gaps do not count. Absent when `duration` is. */
  readonly moving?: number;
  /** Seconds of `duration` that are neither `moving` nor in a gap. Absent when `duration` is. */
  readonly resting?: number;
  /** Metres along `path`. */
  readonly distance: number;
  /** Metres summed from fix to fix, noise and all. */
  readonly rawDistance: number;
  /**
   * What `distance` was measured on: `filtered`, the path with the noise taken out and rests left out; `fixes`, every
   * one as it stands, when no fix states its accuracy.
   */
  readonly path: 'fixes' | 'filtered';
  /** Metres a second: distance over duration, and distance over moving time; absent as long as that time is 0. */
  readonly averageSpeed?: number;
  readonly movingSpeed?: number;
  /**
   * The greatest speed that two fixes in a row report; where none does, the greatest held over two counted moves in a
   * row, and from the beginning of the first to the end of the second. One wild fix makes neither.
   */
  readonly topSpeed?: number;
  /**
   * Metres up and down; absent before two altitudes. Swings below 3 m, or 2.5 times the stated altitude accuracy, do
   * not count.
   */
  readonly climb?: number;
  readonly descent?: number;
  readonly gaps: readonly Gap[];
  /** Rests of a minute or more, each with its place. */
  readonly stops: readonly Stop[];
  readonly bounds?: Bounds;
  /** How often something was cut out of the trail by a veil: distance and times are of what is left. */
  readonly veiled?: number;
}

/**
 * Adds fixes up one by one, at a flat cost each; `summary()` may be read at any time and equals the
 * summary of the fixes so far. Fixes marked wild, backwards or duplicate are counted and otherwise left out.
 */
export class RunningSummary {
  #fixes = 0;
  #segments = 0;
  #start: number | undefined;
  #end: number | undefined;
  #broken = true;
  readonly #gaps: Gap[] = [];
  readonly #bounds = new BoundsGatherer();
  readonly #distance: DistanceCounter;
  readonly #climb = new ClimbCounter();
  readonly #stops = new StopGatherer();
  #topReported: number | undefined;
  /** Reported by the fix before, of the same segment. */
  #reported: number | undefined;
  /** Milliseconds. */
  #inGaps = 0;

  /** @param path `fixes` measures every fix as it stands, whatever accuracy it states. */
  constructor(path?: 'fixes') {
    this.#distance = new DistanceCounter(path);
  }

  take(fix: Fix): void {
    this.#fixes++;
    if (this.#broken) {
      this.#segments++;
      this.#gapUntil(fix.time);
      this.#broken = false;
    }
    if (isUnsound(fix)) return;
    if (this.#distance.add(fix)) {
      this.#gapUntil(fix.time);
      this.#climb.breakSegment();
      this.#stops.breakSegment();
      this.#reported = undefined;
    }
    this.#stops.add(this.#distance.rest, fix.time);
    this.#start ??= fix.time;
    this.#end = fix.time;
    this.#bounds.add(fix.lat, fix.lon);
    this.#climb.add(fix);
    if (fix.speed !== undefined && this.#reported !== undefined)
      this.#topReported = Math.max(this.#topReported ?? 0, Math.min(this.#reported, fix.speed));
    this.#reported = fix.speed;
  }

  #gapUntil(time: number): void {
    const start = this.#end;
    if (start === undefined || !(time > start)) return;
    this.#gaps.push({ start, end: time });
    this.#inGaps += time - start;
  }

  breakSegment(): void {
    this.#broken = true;
    this.#reported = undefined;
    this.#distance.breakSegment();
    this.#climb.breakSegment();
    this.#stops.breakSegment();
  }

  summary(): Summary {
    const { rawDistance, topSpeed, path } = this.#distance;
    const { distance, moving } = this.#distance.totals;
    const start = this.#start;
    const end = this.#end;
    const duration = start === undefined || end === undefined ? undefined : (end - start) / 1000;
    const top = this.#topReported ?? topSpeed;
    const bounds = this.#bounds.bounds;
    const [gaps, gapCount] = [this.#gaps, this.#gaps.length];
    const stops = this.#stops.snapshot();
    return {
      fixes: this.#fixes,
      segments: this.#segments,
      ...(start !== undefined && { start }),
      ...(end !== undefined && { end }),
      ...(duration !== undefined && {
        duration,
        moving,
        resting: Math.max(0, duration - moving - this.#inGaps / 1000),
      }),
      distance,
      rawDistance,
      path,
      ...(duration !== undefined && duration > 0 && { averageSpeed: distance / duration }),
      ...(moving > 0 && { movingSpeed: distance / moving }),
      ...(top !== undefined && { topSpeed: top }),
      ...this.#climb.totals,
      // Made when they are read: a long list is not copied for each fix.
      get gaps() {
        return gaps.slice(0, gapCount);
      },
      get stops() {
        return stops();
      },
      ...(bounds !== undefined && { bounds }),
    };
  }
}

interface InSegments {
  readonly segments: readonly { readonly start: number; readonly end: number }[];
  fixesOf(segment: { start: number; end: number }): Iterable<Fix>;
  /** Whether a break stands at the end. Default true. */
  readonly broken?: boolean;
}

/** The summary of fixes in segments. */
export function summarise(trail: InSegments): Summary {
  return runningSummaryOf(trail).summary();
}

/** A running summary that has had all fixes of a trail, and the break after them if there is one. */
export function runningSummaryOf(trail: InSegments): RunningSummary {
  const running = new RunningSummary();
  const { segments, broken = true } = trail;
  segments.forEach((segment, s) => {
    for (const fix of trail.fixesOf(segment)) running.take(fix);
    if (broken || s + 1 < segments.length) running.breakSegment();
  });
  return running;
}
