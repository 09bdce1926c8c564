import { quantileOf } from './quantile.js';
import type { SmoothedPath } from './position-smoother.js';

/** Variances along an axis of the noise that is left in the velocities of paths at three scales, m²/s². */
export interface VelocityNoise {
  readonly fine: number;
  readonly middle: number;
  readonly coarse: number;
}

/** Ratio of the variances at two scales: minimum of white noise, and maximum of a random walk. */
const LEAST = 0.12;
const MOST = 0.55;
/** Correlation of the differences at neighbouring scales, doubled. */
const SHARED = 1.6;
/** The median of the squares of two normal values, as a multiple of the variance of one. */
const MEDIAN_OF_TWO = 2 * Math.LN2;

/**
 * Variance along an axis of the difference of the velocities of two paths: half the mean square, from the median, so
 * that corners and outliers do not count.
 */
export function differenceOf(one: SmoothedPath, other: SmoothedPath, count: number): number {
  const squares = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    const east = (one.eastward[k] as number) - (other.eastward[k] as number);
    const north = (one.northward[k] as number) - (other.northward[k] as number);
    squares[k] = east * east + north * north;
  }
  return quantileOf(squares, 0.5) / MEDIAN_OF_TWO;
}

/**
 * Noise of the velocities at a scale, at twice and at four times the scale, from the differences between them: the
 * noise is the sum of the differences at this scale and all coarser ones, which continue as the first two do.
 *
 * @param fine difference of the first two scales. @param coarse difference of the second and the third.
 */
export function noiseFrom(fine: number, coarse: number): VelocityNoise {
  const ratio = Math.min(MOST, Math.max(LEAST, fine > 0 ? coarse / fine : MOST));
  const sum = (1 + SHARED * Math.sqrt(ratio)) / Math.sqrt(1 - ratio);
  const own = fine * sum;
  const middle = Math.min(coarse * sum, own);
  return { fine: own, middle, coarse: middle * ratio };
}

/**
 * Speed without the part that noise adds to it: noise across the movement makes it longer. Half the speed where the
 * noise is of its size.
 *
 * @param noise variance along an axis, m²/s².
 */
export function withoutNoise(speed: number, noise: number): number {
  const square = speed * speed - noise;
  return square > 0.25 * speed * speed ? Math.sqrt(square) : speed / 2;
}
