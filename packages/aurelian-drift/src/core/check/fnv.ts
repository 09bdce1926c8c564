/** Offset basis: the hash of no bytes. */
export const FNV_START = 0x811c9dc5;

/**
 * Updates a 32-bit FNV-1a hash (G. Fowler, L. C. Noll, K.-P. Vo) with one more byte. Apply `>>> 0` to read it unsigned.
 */
export function fnv1aByte(byte: number, hash: number): number {
  return Math.imul(hash ^ byte, 0x01000193);
}
