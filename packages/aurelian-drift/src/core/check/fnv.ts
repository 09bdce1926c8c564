/** Where a hash begins. */
export const FNV_START = 0x811c9dc5;

/** FNV-1a, 32 bits (G. Fowler, L. C. Noll, K.-P. Vo), over one byte more; to be read with `>>> 0`. */
export function fnv1aByte(byte: number, hash: number): number {
  return Math.imul(hash ^ byte, 0x01000193);
}
