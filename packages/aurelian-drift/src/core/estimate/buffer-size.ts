/** Capacity for a number of values: a power of two, 256 at least, so that a buffer that grows is seldom replaced. */
export function bufferSize(count: number): number {
  return Math.max(256, 2 ** Math.ceil(Math.log2(count)));
}
