/** Fixes that are needed to know the noise, and when it is known from an earlier run. */
export const MIN_FIXES = 12;
export const FEW = 5;
/** Mean seconds between fixes beyond which movement cannot be told from noise. */
const SPARSE = 12;

/** Whether fixes are many and close enough to tell movement from noise. @param needed number of fixes. */
export function countsAsDense(
  count: number,
  first: { readonly time: number } | undefined,
  last: { readonly time: number } | undefined,
  needed = MIN_FIXES,
): boolean {
  if (first === undefined || last === undefined || count < needed) return false;
  return last.time - first.time <= SPARSE * 1000 * (count - 1);
}
