/**
 * The value at a share of the sorted values, 0 to 1; NaN for none. The order of the array changes. Linear in its length
 * (C. A. R. Hoare, "Algorithm 65: find", Communications of the ACM 4, 1961).
 */
export function quantileOf(values: Float64Array, share: number): number {
  const wanted = Math.min(values.length - 1, Math.floor(share * values.length));
  let low = 0;
  let high = values.length - 1;
  while (low < high) {
    const pivot = values[(low + high) >> 1] as number;
    let i = low;
    let j = high;
    while (i <= j) {
      while ((values[i] as number) < pivot) i++;
      while ((values[j] as number) > pivot) j--;
      if (i > j) break;
      const value = values[i] as number;
      values[i++] = values[j] as number;
      values[j--] = value;
    }
    if (wanted <= j) high = j;
    else if (wanted >= i) low = i;
    else break;
  }
  return values[wanted] ?? NaN;
}
