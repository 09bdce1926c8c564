import { InputError } from '../check/input-error.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { Fix } from '../fix/fix.js';
import { ClimbCounter } from './climb.js';
import { DistanceCounter, type MeasureOptions } from '../distance/distance-counter.js';
import { passThrough } from './part.js';
import type { Trail } from './trail.js';

/** A split: one of the parts of equal distance of a trail. */
export interface Split {
  /** Length in metres; the last split may be shorter. */
  readonly distance: number;
  /** Milliseconds since 1970 UTC, interpolated between fixes by distance. */
  readonly start: number;
  readonly end: number;
  /** Seconds from start to end, pauses included. */
  readonly duration: number;
  /** Seconds in motion. */
  readonly moving: number;
  /** Metres per second in motion; absent when there was no motion. */
  readonly movingSpeed?: number;
  /** Climb and descent in metres; absent when no altitude is known. */
  readonly climb?: number;
  readonly descent?: number;
}

/** Sums up to a point. */
interface Count {
  readonly distance: number;
  readonly time: number;
  readonly moving: number;
  readonly climb: number;
  readonly descent: number;
}

/** A step of the path, and the sums after it. */
interface Step {
  /** Milliseconds since 1970 UTC. */
  readonly from: number;
  readonly to: number;
  readonly distance: number;
  readonly moving: number;
}

/** Metres: a shorter remainder is rounding, not a split. */
const ROUNDING = 1e-6;

/**
 * Counts splits along the distance of the summary, fix by fix, at a constant cost.
 *
 * @throws {InputError} when `metres` is not above 0.
 */
export class SplitCounter {
  readonly #metres: number;
  readonly #distance: DistanceCounter;
  /** Steps of the path that are not assigned to splits yet. */
  readonly #steps: Step[] = [];
  /** Climb at the fixes whose distance is not final yet. */
  readonly #climbs: { time: number; climb: number; descent: number }[] = [];
  readonly #climb = new ClimbCounter();
  readonly #splits: Split[] = [];
  #start: Count | undefined;
  #last: Count | undefined;
  #altitudes = false;

  constructor(metres: number, options?: MeasureOptions) {
    if (!(metres > 0 && metres < Infinity))
      throw new InputError('bad-value', `the length of a split must be above 0 metres, got ${metres}`);
    this.#metres = metres;
    this.#distance = new DistanceCounter(options, (from, to, { distance, moving }) =>
      this.#steps.push({ from, to, distance, moving }),
    );
  }

  take(fix: Fix): void {
    if (isUnsound(fix)) return;
    const end = this.#climbs.at(-1)?.time;
    const continuation = this.#distance.add(fix);
    if (continuation === 'older') return;
    if (continuation !== 'continues') this.#climb.breakSegment();
    if (continuation === 'clock-set') this.#settle(end);
    this.#climb.add(fix);
    const { climb, descent } = this.#climb.totals;
    this.#altitudes ||= climb !== undefined;
    this.#climbs.push({ time: fix.time, climb: climb ?? 0, descent: descent ?? 0 });
    this.#start ??= this.#last = this.#count(fix.time);
    this.#assign();
  }

  breakSegment(): void {
    const end = this.#climbs.at(-1)?.time;
    this.#distance.breakSegment();
    this.#climb.breakSegment();
    this.#settle(end);
  }

  /** The distance that was held back counts now. @param end time of the last fix, milliseconds since 1970 UTC. */
  #settle(end: number | undefined): void {
    this.#assign();
    if (end !== undefined) this.#last = this.#count(end);
  }

  #assign(): void {
    for (const step of this.#steps) this.#advance(step);
    this.#steps.length = 0;
  }

  /** Splits at the marks within a step. */
  #advance({ from, to: time, distance, moving }: Step): void {
    const before = this.#last as Count;
    const now = this.#count(time, distance, moving);
    this.#last = now;
    const step = now.distance - before.distance;
    for (let mark = this.#nextMark(); step > 0 && now.distance >= mark - ROUNDING; mark = this.#nextMark()) {
      const share = Math.min(1, (mark - before.distance) / step);
      const between = (a: number, b: number) => a + (b - a) * share;
      this.#split({
        distance: mark,
        time: Math.round(between(from, time)),
        moving: between(before.moving, now.moving),
        climb: between(before.climb, now.climb),
        descent: between(before.descent, now.descent),
      });
    }
  }

  /**
   * The splits so far, the last one with the remainder. Distance that is still held back counts after a break, such as
   * the end of the trail.
   */
  get splits(): Split[] {
    const [start, last] = [this.#start, this.#last];
    if (start === undefined || last === undefined) return [];
    const rest = last.distance - start.distance > ROUNDING ? [this.#between(start, last)] : [];
    return [...this.#splits, ...rest];
  }

  #nextMark(): number {
    return (this.#splits.length + 1) * this.#metres;
  }

  #split(mark: Count): void {
    this.#splits.push(this.#between(this.#start as Count, mark));
    this.#start = mark;
  }

  #between(from: Count, to: Count): Split {
    const distance = to.distance - from.distance;
    const moving = to.moving - from.moving;
    return {
      distance,
      start: from.time,
      end: to.time,
      duration: (to.time - from.time) / 1000,
      moving,
      ...(moving > 0 && { movingSpeed: distance / moving }),
      ...(this.#altitudes && {
        climb: Math.max(0, to.climb - from.climb),
        descent: Math.max(0, to.descent - from.descent),
      }),
    };
  }

  /** The sums at a time, with the climb at the fix at or before it. */
  #count(
    time: number,
    distance = this.#distance.tally.distance,
    moving = this.#distance.tally.moving,
  ): Count {
    const climbs = this.#climbs;
    let passed = 0;
    while (passed + 1 < climbs.length && (climbs[passed + 1] as { time: number }).time <= time) passed++;
    climbs.splice(0, passed);
    const { climb = 0, descent = 0 } = climbs[0] ?? {};
    return { distance, time, moving, climb, descent };
  }
}

/** Splits of a trail: 1000 for kilometres, 1609.344 for miles. */
export function splitsOf(trail: Trail, metres: number): Split[] {
  const counter = new SplitCounter(metres);
  passThrough(trail, counter);
  return counter.splits;
}
