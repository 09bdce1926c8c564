/** Confidence of a stated radius in percent: platforms state 68 or 95. */
export type Confidence = 68 | 95;

/**
 * 95 % radius of a circular normal spread, in standard deviations along one axis: √(−2 ln 0.05) (Rayleigh
 * distribution).
 */
export const RADIUS_IN_DEVIATIONS = Math.sqrt(-2 * Math.log(0.05));

/** Factors that convert stated accuracies of a confidence to the 95 % of a `Fix`. */
export function confidenceFactors(confidence: Confidence): {
  readonly radius: number;
  readonly altitude: number;
} {
  if (confidence === 95) return { radius: 1, altitude: 1 };
  return {
    // √(ln 0.05 / ln 0.32): ratio of the radii of a circular normal spread (Rayleigh distribution) for 95 % and 68 %.
    radius: Math.sqrt(Math.log(0.05) / Math.log(0.32)),
    // An altitude spreads along one axis: ratio of the normal quantiles for 95 % and 68 %.
    altitude: 1.959964 / 0.994458,
  };
}
