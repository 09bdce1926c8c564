import { DistanceCounter, type MeasureOptions } from '../distance/distance-counter.js';
import { isUnsound } from '../estimate/fix-order.js';
import type { Fix } from '../fix/fix.js';
import { passThrough } from './part.js';
import { HeightSmoother, type HeightAt } from './smooth-heights.js';
import type { Trail } from './trail.js';

/** Steepest way that is believed: metres up for each metre along. */
const STEEPEST = 2;

/** Distance along the path at a time. */
interface Reached {
  /** Milliseconds since 1970 UTC. */
  readonly time: number;
  /** Metres. */
  readonly distance: number;
}

/**
 * Measures the length along the slope: the distance of the summary, which is that on the ellipsoid, together with the
 * smoothed heights. A path that climbs one metre in ten is half a percent longer than its distance. Memory grows with
 * the longest segment.
 */
export class SlopeCounter {
  readonly #distance: DistanceCounter;
  readonly #smoother = new HeightSmoother((height) => this.#heights.push(height));
  /** Of the segment. */
  #heights: HeightAt[] = [];
  #reached: Reached[] = [];
  /** Metres by which the finished segments are longer along the slope. */
  #more = 0;
  #known = false;
  /** Final distance so far. */
  #final = 0;

  constructor(options?: MeasureOptions) {
    this.#distance = new DistanceCounter(options, (from, to, { distance }) => {
      const last = this.#reached.at(-1);
      // Between two advances the user stood still.
      if (last === undefined || from > last.time) this.#reached.push({ time: from, distance: this.#final });
      this.#final = distance;
      this.#reached.push({ time: to, distance });
    });
  }

  take(fix: Fix): void {
    if (isUnsound(fix)) return;
    const continuation = this.#distance.add(fix);
    if (continuation === 'older') return;
    if (continuation !== 'continues') this.#finish();
    this.#smoother.take(fix);
  }

  breakSegment(): void {
    this.#distance.breakSegment();
    this.#finish();
  }

  /**
   * Metres along the slope, of the finished segments: call `breakSegment` at the end. `undefined` without heights.
   */
  get metres(): number | undefined {
    return this.#known ? this.#distance.tally.distance + this.#more : undefined;
  }

  #finish(): void {
    this.#smoother.breakSegment();
    const [heights, reached] = [this.#heights, this.#reached];
    [this.#heights, this.#reached] = [[], []];
    if (heights.length > 1) this.#known = true;
    let next = 0;
    const distanceAt = (time: number): number => {
      while (next < reached.length && (reached[next] as Reached).time < time) next++;
      const [from, to] = [reached[next - 1] ?? reached[0], reached[next] ?? reached.at(-1)];
      if (from === undefined || to === undefined) return 0;
      const share = to.time > from.time ? (time - from.time) / (to.time - from.time) : 0;
      return from.distance + (to.distance - from.distance) * Math.max(0, Math.min(1, share));
    };
    let before: { readonly distance: number; readonly altitude: number } | undefined;
    for (const { time, altitude } of heights) {
      const distance = distanceAt(time);
      if (before === undefined) {
        before = { distance, altitude };
        continue;
      }
      const along = distance - before.distance;
      const rise = altitude - before.altitude;
      // A height that changes at rest is noise, and no way is so steep.
      if (along > 0 && Math.abs(rise) > STEEPEST * along) continue;
      if (along > 0) this.#more += Math.hypot(along, rise) - along;
      before = { distance, altitude };
    }
  }
}

/** Metres of a trail along the slope; `undefined` without heights. */
export function slopeLength(trail: Trail, options?: MeasureOptions): number | undefined {
  const counter = new SlopeCounter(options);
  passThrough(trail, counter);
  return counter.metres;
}
