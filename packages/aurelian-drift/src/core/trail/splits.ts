import { InputError } from '../check/input-error.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { Fix } from '../fix/fix.js';
import { ClimbCounter } from './climb.js';
import { DistanceCounter } from './honest-distance.js';
import { passThrough } from './part.js';
import type { Trail } from './trail.js';

/** One of the parts of equal distance that a trail is told in. */
export interface Split {
  /** Metres: the length of a split, or what is left for the last one. */
  readonly distance: number;
  /** Milliseconds since 1970 UTC; between two fixes by the share of the way between them. */
  readonly start: number;
  readonly end: number;
  /** Seconds from start to end, pauses included. */
  readonly duration: number;
  /** Seconds in motion. */
  readonly moving: number;
  /** Metres a second in motion; absent when there was none. */
  readonly movingSpeed?: number;
  /** Metres up and down; absent when no altitude is known. */
  readonly climb?: number;
  readonly descent?: number;
}

/** What has been counted up to a place. */
interface Count {
  readonly distance: number;
  readonly time: number;
  readonly moving: number;
  readonly climb: number;
  readonly descent: number;
}

/** Metres: a rest of the way below this is no split but rounding. */
const ROUNDING = 1e-6;

/**
 * Adds fixes up into splits of so many metres along the distance of the summary, one by one, at a flat cost each.
 *
 * @throws {InputError} when `metres` is not above 0.
 */
export class SplitCounter {
  readonly #metres: number;
  readonly #distance: DistanceCounter;
  readonly #climb = new ClimbCounter();
  readonly #splits: Split[] = [];
  #start: Count | undefined;
  #last: Count | undefined;
  #altitudes = false;

  /** @param path `fixes` measures every fix as it stands. */
  constructor(metres: number, path?: 'fixes') {
    if (!(metres > 0 && metres < Infinity))
      throw new InputError('bad-value', `a split is of metres above 0, got ${metres}`);
    this.#metres = metres;
    this.#distance = new DistanceCounter(path);
  }

  take(fix: Fix): void {
    if (isUnsound(fix)) return;
    const from = this.#distance.anchorTime ?? fix.time;
    if (this.#distance.add(fix)) this.#climb.breakSegment();
    this.#climb.add(fix);
    this.#advance(from, fix.time);
  }

  breakSegment(): void {
    const from = this.#distance.anchorTime;
    this.#distance.breakSegment();
    this.#climb.breakSegment();
    // What was held back counts now.
    if (this.#last !== undefined) this.#advance(from ?? this.#last.time, this.#last.time);
  }

  /** Splits at the marks that a move from one time to another has passed. */
  #advance(from: number, time: number): void {
    const before = this.#last;
    const now = this.#count(time);
    this.#last = now;
    this.#start ??= now;
    if (before === undefined) return;
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
   * The splits so far, the last one with what is left. What is still held back counts after a break, which the end of a
   * trail is.
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

  #count(time: number): Count {
    const { climb, descent } = this.#climb.totals;
    this.#altitudes ||= climb !== undefined;
    const { distance, moving } = this.#distance;
    return { distance, time, moving, climb: climb ?? 0, descent: descent ?? 0 };
  }
}

/** A trail in splits of so many metres: 1000 for kilometres, 1609.344 for miles. */
export function splitsOf(trail: Trail, metres: number): Split[] {
  const counter = new SplitCounter(metres);
  passThrough(trail, counter);
  return counter.splits;
}
