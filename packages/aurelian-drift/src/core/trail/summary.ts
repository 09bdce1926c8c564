import { BoundsGatherer, type Bounds } from '../geodesy/bounds.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { WayOfMoving } from '../estimate/way-of-moving.js';
import type { Fix } from '../fix/fix.js';
import { ClimbCounter } from './climb.js';
import {
  DistanceCounter,
  type MeasureOptions,
  type MeasuredPath,
  type Unsmoothed,
} from '../distance/distance-counter.js';
import type { Stop } from '../distance/stops.js';

/**
 * A time for which the trail has no data: between two segments, or a silence, which is long in relation to the usual
 * steps between fixes.
 */
export interface Gap {
  /** Milliseconds since 1970 UTC. */
  readonly start: number;
  readonly end: number;
}

/**
 * Figures of a trail in SI units; unknown figures are absent. Before the first fix there are only the counts,
 * `distance`, `rawDistance`, `path`, `gaps` and `stops`, all zero or empty. Before the second fix `duration` is 0, and
 * averages, top speed and climb are absent.
 */
export interface Summary {
  readonly fixes: number;
  /** Runs of fixes; a clock that was set back begins one too. */
  readonly segments: number;
  /** Times of the first and the last fix, milliseconds since 1970 UTC; absent before the first accepted fix. */
  readonly start?: number;
  readonly end?: number;
  /**
   * Seconds that have passed from fix to fix, including pauses: from start to end, unless the clock was set back
   * meanwhile. Absent before the first accepted fix.
   */
  readonly duration?: number;
  /** Seconds of `duration` in motion, at 0.4 m/s or more, without gaps. Absent when `duration` is. */
  readonly moving?: number;
  /** Seconds of `duration` that are neither `moving` nor in a gap. Absent when `duration` is. */
  readonly resting?: number;
  /** Metres along `path`. */
  readonly distance: number;
  /** Metres summed up from fix to fix, including the noise. */
  readonly rawDistance: number;
  /**
   * What `distance` was measured on, without rests. `filtered`: the filtered path, where fixes state their speed.
   * `smoothed`: the smoothed path, where they do not. `fixes`: from fix to fix. The last of these three that was used.
   */
  readonly path: MeasuredPath;
  /** Why `path` is `fixes`; absent where it is not, or where it was asked for. */
  readonly unsmoothed?: Unsmoothed;
  /** The likely way of moving, or the given one; absent where `path` is `fixes`. */
  readonly wayOfMoving?: WayOfMoving;
  /**
   * Time of a fix, milliseconds since 1970 UTC, after which distance, time in motion, top speed and stops may still
   * change: a minute before the last fix at most, unless fixes are more than a few seconds apart. Absent when all is
   * final, as after the end of a segment.
   */
  readonly provisionalSince?: number;
  /** Metres per second: distance divided by duration, and by moving time; absent while that time is 0. */
  readonly averageSpeed?: number;
  readonly movingSpeed?: number;
  /**
   * Greatest speed in m/s that two consecutive fixes report. If none report a speed: the greatest speed over two
   * consecutive moves, which is also reached on average from the start of the first to the end of the second. A single
   * outlier has no effect.
   */
  readonly topSpeed?: number;
  /**
   * Climb and descent in metres, of smoothed heights; absent before two altitudes. Swings below 5 to 14 m, as the noise
   * of the heights demands, do not count. Heights that are fewer than 12 in a minute, or over 30 s apart, are not
   * smoothed: of these, swings of 3 m count, or of 2.5 times the stated accuracy.
   */
  readonly climb?: number;
  readonly descent?: number;
  readonly gaps: readonly Gap[];
  /** Rests of a minute or more, with their positions. */
  readonly stops: readonly Stop[];
  readonly bounds?: Bounds;
  /** Number of parts that a veil has cut out of the trail: the figures are those of the rest. */
  readonly veiled?: number;
}

/**
 * Sums up fixes one by one, at a constant cost. `summary()` may be read at any time, and equals the summary of the
 * fixes so far. Fixes marked `outlier`, `backwards`, `duplicate` or `stale` are counted and otherwise ignored.
 */
export class RunningSummary {
  #fixes = 0;
  #segments = 0;
  #start: number | undefined;
  #end: number | undefined;
  #broken = true;
  /** Whether no fix of the segment was used yet. */
  #afterGap = false;
  readonly #gaps: Gap[] = [];
  readonly #bounds = new BoundsGatherer();
  readonly #distance: DistanceCounter;
  readonly #climb = new ClimbCounter();
  #topReported: number | undefined;
  /** Speed that the fix before reported, in the same segment. */
  #reported: number | undefined;
  /** Milliseconds. */
  #inGaps = 0;
  #elapsed = 0;

  constructor(options?: MeasureOptions) {
    this.#distance = new DistanceCounter(options);
  }

  take(fix: Fix): void {
    this.#fixes++;
    if (this.#broken) this.#beginSegment();
    if (isUnsound(fix)) return;
    const continuation = this.#distance.add(fix);
    if (continuation === 'older') return;
    if (continuation === 'clock-set') {
      if (!this.#afterGap && this.#end !== undefined) this.#segments++;
      this.#end = undefined; // the time since then is unknown
    }
    if (this.#afterGap || continuation === 'gap') this.#gapUntil(fix.time);
    this.#afterGap = false;
    if (continuation !== 'continues') {
      this.#climb.breakSegment();
      this.#reported = undefined;
    }
    this.#elapsed += Math.max(0, fix.time - (this.#end ?? fix.time));
    this.#start ??= fix.time;
    this.#end = fix.time;
    this.#bounds.add(fix.lat, fix.lon);
    this.#climb.add(fix);
    if (fix.speed !== undefined && this.#reported !== undefined)
      this.#topReported = Math.max(this.#topReported ?? 0, Math.min(this.#reported, fix.speed));
    this.#reported = fix.speed;
  }

  #beginSegment(): void {
    this.#segments++;
    this.#broken = false;
    this.#afterGap = true;
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
  }

  summary(): Summary {
    const { rawDistance, path, now, unsmoothed, provisionalSince } = this.#distance;
    const { distance, moving, topSpeed } = now;
    const start = this.#start;
    const end = this.#end;
    const duration = start === undefined ? undefined : this.#elapsed / 1000;
    const wayOfMoving = this.#distance.wayOfMoving(duration ?? 0);
    const top = this.#topReported ?? topSpeed;
    const bounds = this.#bounds.bounds;
    const [gaps, gapCount] = [this.#gaps, this.#gaps.length];
    const stops = now.stops.snapshot();
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
      ...(unsmoothed !== undefined && start !== undefined && { unsmoothed }),
      ...(wayOfMoving !== undefined && { wayOfMoving }),
      ...(provisionalSince !== undefined && { provisionalSince }),
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

/** Summary of fixes in segments. */
export function summarise(trail: InSegments): Summary {
  return runningSummaryOf(trail).summary();
}

/** A running summary of all fixes of a trail, with the break at its end if there is one. */
export function runningSummaryOf(trail: InSegments): RunningSummary {
  const running = new RunningSummary();
  const { segments, broken = true } = trail;
  segments.forEach((segment, s) => {
    for (const fix of trail.fixesOf(segment)) running.take(fix);
    if (broken || s + 1 < segments.length) running.breakSegment();
  });
  return running;
}
