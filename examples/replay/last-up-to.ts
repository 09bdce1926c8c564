/** Index of the last of `count` ascending values that is not above a limit; −1 where all are above it. */
export function lastUpTo(limit: number, count: number, valueAt: (index: number) => number): number {
  let low = -1;
  let high = count;
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if (valueAt(middle) <= limit) low = middle;
    else high = middle;
  }
  return low;
}
