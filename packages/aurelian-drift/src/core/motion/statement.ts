/** What a receiver states of the accuracy of a fix. */
export const ACCURACY_STATEMENTS = ['true', 'absent', 'one-sigma', 'halved', 'doubled'] as const;
/**
 * What a receiver states of the accuracy of a fix: `true` is the radius of 95 %; `one-sigma` the one of 68 % in its
 * place; `halved` and `doubled` are wrong by a factor of two.
 */
export type AccuracyStatement = (typeof ACCURACY_STATEMENTS)[number];

/** What a receiver states of speed and course. */
export const SPEED_STATEMENTS = ['true', 'absent', 'zero'] as const;
/** What a receiver states of speed and course: `zero` is a speed of 0 where it does not know it. */
export type SpeedStatement = (typeof SPEED_STATEMENTS)[number];

/** Ratio of the radius of 68 % to that of 95 %: 1.51 to 2.45 standard deviations along an axis. */
const ONE_SIGMA = 1.51 / 2.4477;

/** The accuracy in metres that is stated in the place of the true one; `undefined` when none is. */
export function statedAccuracy(accuracy: number, statement: AccuracyStatement): number | undefined {
  if (statement === 'absent') return undefined;
  return accuracy * { true: 1, 'one-sigma': ONE_SIGMA, halved: 0.5, doubled: 2 }[statement];
}
