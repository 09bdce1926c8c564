import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { shifted } from './local-offset.js';
import { PLACE, PP, VELOCITY, type Estimate } from './motion-filter.js';

/** Speed in m/s below which the course is unknown. */
export const SLOW = 0.3;

/**
 * Numbers of an estimate that make a fix: metres and m/s east and north of an origin, and the variance of the position.
 */
export class EstimateNumbers {
  readonly #origin: Position;
  readonly #east: number;
  readonly #north: number;
  readonly #eastward: number;
  readonly #northward: number;
  readonly #variance: number;
  readonly #doubt: number;

  /** @param doubt factor by which the 95 % radius is larger than the variance says. */
  constructor(origin: Position, estimate: Estimate, doubt = 1) {
    this.#doubt = doubt;
    this.#origin = origin;
    this.#east = estimate[PLACE] as number;
    this.#north = estimate[PLACE + 1] as number;
    this.#eastward = estimate[VELOCITY] as number;
    this.#northward = estimate[VELOCITY + 1] as number;
    this.#variance = estimate[PP] as number;
  }

  /** The fix of the estimate, with the other fields of the raw fix. At rest there is no speed and no course. */
  fixLike(raw: Fix, resting: boolean): Fix {
    const [eastward, northward] = [this.#eastward, this.#northward];
    const speed = resting ? 0 : Math.hypot(eastward, northward);
    const { course: _, ...rest } = raw;
    const { lat, lon } = shifted(this.#origin, { east: this.#east, north: this.#north });
    const accuracy = this.#doubt * RADIUS_IN_DEVIATIONS * Math.sqrt(this.#variance);
    // Numbers of the filter need no checks.
    return Object.freeze(
      speed < SLOW
        ? { ...rest, lat, lon, accuracy, speed }
        : {
            ...rest,
            lat,
            lon,
            accuracy,
            speed,
            course: wrapBearing(Math.atan2(eastward, northward) * DEGREES),
          },
    );
  }
}
