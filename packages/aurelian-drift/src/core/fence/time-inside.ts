import { isUnsound } from '../estimate/fix-order.js';
import type { Fix } from '../fix/fix.js';
import { Silences, isSpared } from '../distance/silence.js';
import { passThrough } from '../trail/part.js';
import type { Trail } from '../trail/trail.js';
import type { Crossing } from './crossing.js';
import type { Fence } from './fence.js';
import { FenceWatch, type FenceWatchOptions } from './watch.js';

/** Time of a user in a fence. */
export interface TimeInside {
  /** Id of the fence. */
  readonly fence: string;
  readonly name: string;
  /** Seconds inside; gaps and silences are not counted. */
  readonly duration: number;
  /** Number of visits: entered, passed through, or inside from the start. */
  readonly visits: number;
}

/** Sums up the time in fences, fix by fix, from the crossings of a watch. */
export class FenceTimes {
  readonly #fences: readonly Fence[];
  readonly #watch: FenceWatch;
  readonly #silences = new Silences();
  readonly #inside = new Map<string, { seconds: number; visits: number }>();
  /** Start of the current visits. */
  readonly #open = new Map<string, number>();
  #last: number | undefined;
  #broken = true;

  constructor(fences: Iterable<Fence>, options: FenceWatchOptions = {}) {
    this.#fences = [...fences];
    this.#watch = new FenceWatch(this.#fences, options);
  }

  /** Takes the next fix, and returns its crossings. A silence counts as a gap. */
  take(fix: Fix): Crossing[] {
    if (isUnsound(fix)) return [];
    if (this.#silences.received(fix.time, isSpared(fix))) this.breakSegment();
    const crossings = this.#watch.take(fix);
    for (const { kind, fence, time, duration } of crossings) {
      if (kind === 'exit' || kind === 'closed') this.#close(fence, time);
      else if (kind !== 'linger') {
        this.#of(fence).visits++;
        if (kind === 'pass') this.#of(fence).seconds += duration ?? 0;
        else this.#open.set(fence, time);
      }
    }
    if (this.#broken) {
      for (const fence of this.#watch.inside) if (!this.#open.has(fence)) this.#open.set(fence, fix.time);
    }
    this.#broken = false;
    this.#last = Math.max(this.#last ?? fix.time, fix.time);
    return crossings;
  }

  /** The place of the user in a gap is unknown, so it counts for no fence. */
  breakSegment(): void {
    for (const fence of [...this.#open.keys()]) this.#close(fence, this.#last ?? NaN);
    this.#silences.breakSegment();
    this.#watch.breakSegment();
    this.#broken = true;
  }

  /** Sums so far, in the order of the fences; fences without a visit are left out. */
  get timeInside(): TimeInside[] {
    return this.#fences.flatMap(({ id, name }) => {
      const known = this.#inside.get(id);
      if (known === undefined) return [];
      const since = this.#open.get(id);
      const open = since === undefined ? 0 : ((this.#last ?? since) - since) / 1000;
      return [{ fence: id, name, duration: known.seconds + open, visits: known.visits }];
    });
  }

  #close(fence: string, time: number): void {
    const since = this.#open.get(fence);
    this.#open.delete(fence);
    if (since !== undefined) this.#of(fence).seconds += (time - since) / 1000;
  }

  #of(fence: string): { seconds: number; visits: number } {
    let known = this.#inside.get(fence);
    if (known === undefined) this.#inside.set(fence, (known = { seconds: 0, visits: 0 }));
    return known;
  }
}

/** Time of a trail in each fence; fences without a visit are left out. */
export function timeInside(
  trail: Trail,
  fences: Iterable<Fence>,
  options: FenceWatchOptions = {},
): TimeInside[] {
  const times = new FenceTimes(fences, options);
  passThrough(trail, times);
  return times.timeInside;
}
