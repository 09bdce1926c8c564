import { InputError } from '../check/input-error.js';
import { bearing, distance } from '../geodesy/distance.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import type { Line, LinePoint } from '../trail/line.js';

/** A point of an itinerary: position, direction of travel in degrees, and altitude where the line has one. */
export interface Station extends LinePoint {
  readonly course: number;
}

/**
 * A line measured in metres from its start. Its parts are passed one after the other, including the gaps between them.
 */
export class Itinerary {
  readonly #points: readonly LinePoint[];
  readonly #metres: Float64Array;

  /** @throws {InputError} of kind `nothing-inside` for a line with fewer than two different points. */
  constructor(line: Line) {
    const all = line.parts.flat();
    this.#points = all.filter((point, i) => i === 0 || distance(all[i - 1] as LinePoint, point) > 0);
    if (this.#points.length < 2)
      throw new InputError('nothing-inside', 'a route needs two different points at least');
    this.#metres = new Float64Array(this.#points.length);
    for (let i = 1; i < this.#points.length; i++) {
      const leg = distance(this.#points[i - 1] as LinePoint, this.#points[i] as LinePoint);
      this.#metres[i] = (this.#metres[i - 1] as number) + leg;
    }
  }

  /** Metres from start to end. */
  get length(): number {
    return this.#metres.at(-1) ?? 0;
  }

  /** The point at a distance in metres; before the start and beyond the end, the ends. */
  at(metres: number): Station {
    let low = 0;
    let high = this.#points.length - 1;
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if ((this.#metres[middle] as number) <= metres) low = middle;
      else high = middle;
    }
    const from = this.#points[low] as LinePoint;
    const to = this.#points[high] as LinePoint;
    const start = this.#metres[low] as number;
    const t = Math.max(0, Math.min(1, (metres - start) / ((this.#metres[high] as number) - start)));
    return {
      lat: from.lat + (to.lat - from.lat) * t,
      lon: wrapLongitude(from.lon + wrapLongitude(to.lon - from.lon) * t),
      course: bearing(from, to),
      ...(from.altitude !== undefined &&
        to.altitude !== undefined && { altitude: from.altitude + (to.altitude - from.altitude) * t }),
    };
  }

  /**
   * Speed limit at each point, for a speed of `corner` m/s at right angles, proportionally more at smaller ones, and a
   * deceleration of `brake` m/s². Arrives at the end at walking pace.
   */
  speedLimits(corner: number, brake: number): (metres: number) => number {
    const metres = this.#metres;
    const last = metres.length - 1;
    const limits = new Float64Array(metres.length).fill(Infinity);
    limits[last] = Math.min(corner, 1);
    for (let i = last - 1; i > 0; i--) {
      const before = bearing(this.#points[i - 1] as LinePoint, this.#points[i] as LinePoint);
      const after = bearing(this.#points[i] as LinePoint, this.#points[i + 1] as LinePoint);
      const turn = Math.abs(wrapLongitude(after - before));
      const leg = (metres[i + 1] as number) - (metres[i] as number);
      limits[i] = Math.min((corner * 90) / turn, Math.sqrt((limits[i + 1] as number) ** 2 + 2 * brake * leg));
    }
    let next = 1;
    return (at) => {
      while (next < last && (metres[next] as number) <= at) next++;
      const ahead = Math.max(0, (metres[next] as number) - at);
      return Math.sqrt((limits[next] as number) ** 2 + 2 * brake * ahead);
    };
  }
}
