import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';

/**
 * Probability, 0…1, that the user is inside an area, for a fix `depth` metres inside its edge (negative: outside) with
 * the given 95 % radius, in an area of about `size` metres radius.
 *
 * The nearest edge is taken as a straight line. When the spread is larger than the area, the probability is limited to
 * the share of the spread that a circle of this size holds. Without an accuracy the fix counts as exact.
 */
export function probabilityInside(depth: number, accuracy: number | undefined, size: number): number {
  if (accuracy === undefined || accuracy === 0) return depth >= 0 ? 1 : 0;
  const deviation = accuracy / RADIUS_IN_DEVIATIONS;
  const held = 1 - Math.exp(-(size * size) / (2 * deviation * deviation));
  return Math.min(normalBelow(depth / deviation), held);
}

/**
 * Probability, 0…1, that the user is outside an area. The area is taken as unlimited beyond its nearest edge, so that a
 * small one is not outside for a coarse fix whose spread covers it: such a fix cannot tell.
 */
export function probabilityOutside(depth: number, accuracy: number | undefined): number {
  return 1 - probabilityInside(depth, accuracy, Infinity);
}

/**
 * Standard normal distribution function, error below 7.5e-8 (Abramowitz and Stegun, Handbook of Mathematical Functions,
 * 26.2.17).
 */
function normalBelow(z: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(z));
  const tail =
    (Math.exp((-z * z) / 2) / Math.sqrt(2 * Math.PI)) *
    t *
    (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return z >= 0 ? 1 - tail : tail;
}
