import { distanceBetween } from '../geodesy/distance.js';
import type { Trail } from './trail.js';

/** Spacing of marks along a trail; if both are given, both must be reached. */
export interface CrumbSpacing {
  /** Seconds. */
  readonly every?: number;
  /** Metres along the trail, from fix to fix. */
  readonly beyond?: number;
}

/** Tolerance in metres: sums of lengths in doubles are exact to a nanometre. */
const ROUNDING = 1e-6;

/**
 * Indices of the fixes with a mark: the first of each segment, and each later one at which the spacing is reached since
 * the last mark. So 64 fixes a second apart, marked every 8 s, have 8 marks; 65 have 9.
 */
export function crumbsOf(trail: Trail, { every = 0, beyond = 0 }: CrumbSpacing): number[] {
  const marks: number[] = [];
  if (!(every > 0 || beyond > 0)) return marks;
  for (const { start, end } of trail.segments) {
    let marked = NaN;
    let walked = 0;
    for (let i = start; i < end; i++) {
      const time = trail.number(i, 'time');
      if (i > start && beyond > 0) {
        walked += distanceBetween(
          trail.number(i - 1, 'lat'),
          trail.number(i - 1, 'lon'),
          trail.number(i, 'lat'),
          trail.number(i, 'lon'),
        );
      }
      if (i > start && !(time - marked >= every * 1000 && walked >= beyond - ROUNDING)) continue;
      marks.push(i);
      marked = time;
      walked = 0;
    }
  }
  return marks;
}
