import type { Region } from './region.js';

/**
 * Clips a closed outline (x, y, x, y…) to a rectangle, along which the result may run (I. E. Sutherland and G. W.
 * Hodgman, "Reentrant polygon clipping", CACM 17, 1974). The area inside the rectangle is filled as before, with its
 * holes; empty where there is none.
 */
export function clippedOutline(ring: readonly number[], [x1, y1, x2, y2]: Region): number[] {
  let cut = ring as number[];
  cut = cutAt(cut, 0, x1, 1);
  cut = cutAt(cut, 0, x2, -1);
  cut = cutAt(cut, 1, y1, 1);
  return cutAt(cut, 1, y2, -1);
}

/** Clips at one side: points with `sign` · coordinate ≥ `sign` · limit along an axis (0 for x, 1 for y) stay. */
function cutAt(ring: number[], axis: 0 | 1, limit: number, sign: 1 | -1): number[] {
  const out: number[] = [];
  const { length } = ring;
  for (let i = 0; i < length; i += 2) {
    const j = i === 0 ? length - 2 : i - 2;
    const before = sign * ((ring[j + axis] as number) - limit);
    const here = sign * ((ring[i + axis] as number) - limit);
    if (before >= 0 !== here >= 0) {
      const share = before / (before - here);
      const x = (ring[j] as number) + share * ((ring[i] as number) - (ring[j] as number));
      const y = (ring[j + 1] as number) + share * ((ring[i + 1] as number) - (ring[j + 1] as number));
      // Exactly on the side: the next clip must not find it slightly beside.
      out.push(axis === 0 ? limit : x, axis === 1 ? limit : y);
    }
    if (here >= 0) out.push(ring[i] as number, ring[i + 1] as number);
  }
  return out;
}
