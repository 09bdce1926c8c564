import { BoundsGatherer, type Bounds } from '../geodesy/bounds.js';
import { isUnsound } from '../estimate/order.js';
import type { Fix } from '../fix/fix.js';
import { ClimbCounter } from './climb.js';
import { DistanceCounter } from './honest-distance.js';

/** A silence between two segments. */
export interface Gap {
  /** Milliseconds since 1970 UTC. */
  readonly start: number;
  readonly end: number;
}

/** What a trail comes to. SI units; what is not known is absent. */
export interface Summary {
  readonly fixes: number;
  readonly segments: number;
  /** Times of the first and the last fix, milliseconds since 1970 UTC. */
  readonly start?: number;
  readonly end?: number;
  /** Seconds from start to end, pauses included. */
  readonly duration?: number;
  /** Seconds of `duration` in which the user moved at 0.4 m/s or more; gaps do not count. */
  readonly moving?: number;
  /** Metres along `path`. */
  readonly distance: number;
  /** Metres summed from fix to fix, noise and all. */
  readonly rawDistance: number;
  /**
   * What `distance` was measured on: `fixes`, every one as it stands, when no fix states its accuracy;
   * `beyond-accuracy`, only moves longer than the fix's own 95 % radius.
   */
  readonly path: 'fixes' | 'beyond-accuracy';
  /** Metres a second: distance over duration, and distance over moving time. */
  readonly averageSpeed?: number;
  readonly movingSpeed?: number;
  /** The greatest speed reported, or where none is, the greatest from one counted move to the next. */
  readonly topSpeed?: number;
  /** Metres up and down; swings below 3 m, or 2.5 times the stated altitude accuracy, do not count. */
  readonly climb?: number;
  readonly descent?: number;
  readonly gaps: readonly Gap[];
  readonly bounds?: Bounds;
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
  readonly #distance = new DistanceCounter();
  readonly #climb = new ClimbCounter();
  #topReported: number | undefined;

  add(fix: Fix): void {
    this.#fixes++;
    if (this.#broken) {
      this.#segments++;
      if (this.#end !== undefined && fix.time > this.#end)
        this.#gaps.push({ start: this.#end, end: fix.time });
      this.#broken = false;
    }
    if (isUnsound(fix)) return;
    this.#start ??= fix.time;
    this.#end = fix.time;
    this.#bounds.add(fix.lat, fix.lon);
    this.#distance.add(fix);
    this.#climb.add(fix);
    if (fix.speed !== undefined) this.#topReported = Math.max(this.#topReported ?? 0, fix.speed);
  }

  breakSegment(): void {
    this.#broken = true;
    this.#distance.breakSegment();
    this.#climb.breakSegment();
  }

  summary(): Summary {
    const { distance, rawDistance, moving, topSpeed, path } = this.#distance;
    const start = this.#start;
    const end = this.#end;
    const duration = start === undefined || end === undefined ? undefined : (end - start) / 1000;
    const top = this.#topReported ?? topSpeed;
    const bounds = this.#bounds.bounds;
    return {
      fixes: this.#fixes,
      segments: this.#segments,
      ...(start !== undefined && { start }),
      ...(end !== undefined && { end }),
      ...(duration !== undefined && { duration, moving }),
      distance,
      rawDistance,
      path,
      ...(duration !== undefined && duration > 0 && { averageSpeed: distance / duration }),
      ...(moving > 0 && { movingSpeed: distance / moving }),
      ...(top !== undefined && { topSpeed: top }),
      ...this.#climb.totals,
      gaps: [...this.#gaps],
      ...(bounds !== undefined && { bounds }),
    };
  }
}

interface InSegments {
  readonly segments: readonly { readonly start: number; readonly end: number }[];
  fixesOf(segment: { start: number; end: number }): Iterable<Fix>;
}

/** The summary of fixes in segments. */
export function summarise(trail: InSegments): Summary {
  return runningSummaryOf(trail).summary();
}

/** A running summary that has had all fixes of a trail, and a break after them. */
export function runningSummaryOf(trail: InSegments): RunningSummary {
  const running = new RunningSummary();
  for (const segment of trail.segments) {
    for (const fix of trail.fixesOf(segment)) running.add(fix);
    running.breakSegment();
  }
  return running;
}
