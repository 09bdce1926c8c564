/** Weight of a coarser value. */
const COARSER = 0.02;

/**
 * The usual accuracy of a receiver, with one more value: it follows finer ones at once, and coarser ones slowly.
 *
 * @param usual NaN before the first value.
 */
export function usualAccuracy(usual: number, value: number): number {
  return value > usual ? usual + (value - usual) * COARSER : value;
}
