/** Adds to an item of a list. */
export function addTo(list: Int32Array | Uint8Array, index: number, amount: number): void {
  list[index] = (list[index] as number) + amount;
}

/** Lists of numbers in one array: list k is `items` from `starts[k]` to `starts[k + 1]`, excluded. */
export function lists(
  count: number,
  entries: number,
  entry: (i: number) => readonly [list: number, item: number] | undefined,
): { readonly starts: Int32Array; readonly items: Int32Array } {
  const starts = new Int32Array(count + 2);
  for (let i = 0; i < entries; i++) {
    const [list] = entry(i) ?? [];
    if (list !== undefined) addTo(starts, list + 2, 1);
  }
  for (let k = 2; k < count + 2; k++) addTo(starts, k, starts[k - 1] as number);
  const items = new Int32Array(starts[count + 1] as number);
  for (let i = 0; i < entries; i++) {
    const [list, item = 0] = entry(i) ?? [];
    if (list === undefined) continue;
    items[starts[list + 1] as number] = item;
    addTo(starts, list + 1, 1);
  }
  return { starts: starts.subarray(0, count + 1), items };
}
