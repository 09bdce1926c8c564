/** How sure a stated radius is, in percent: platforms state 68 or 95. */
export type Confidence = 68 | 95;

/**
 * 95 % radius of a circular normal spread, in standard deviations along one axis: √(−2 ln 0.05) (Rayleigh
 * distribution).
 */
export const RADIUS_IN_DEVIATIONS = Math.sqrt(-2 * Math.log(0.05));

/** Factors that bring stated accuracies of a confidence to the 95 % of a `Fix`. */
export function confidenceFactors(confidence: Confidence): {
  readonly radius: number;
  readonly altitude: number;
} {
  if (confidence === 95) return { radius: 1, altitude: 1 };
  return {
    // √(ln 0.05 / ln 0.32), the radii of a circular normal spread (Rayleigh distribution) that hold so much of it.
    radius: Math.sqrt(Math.log(0.05) / Math.log(0.32)),
    // An altitude spreads along one axis: standard deviations that hold so much of it (normal quantiles).
    altitude: 1.959964 / 0.994458,
  };
}
