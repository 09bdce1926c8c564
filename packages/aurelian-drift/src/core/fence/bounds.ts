import type { Bounds } from '../geodesy/bounds.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** A box that is wider by a number of metres on each side. Near a pole it extends to the pole and around the earth. */
export function widenedBy([west, south, east, north]: Bounds, metres: number): Bounds {
  const high = metres / metresPerDegree(0).north;
  const [low, top] = [Math.max(-90, south - high * 1.01), Math.min(90, north + high * 1.01)];
  const farthest = Math.max(Math.abs(low), Math.abs(top));
  const wide = farthest >= 89.9 ? 360 : metres / metresPerDegree(farthest).east;
  const span = west <= east ? east - west : east - west + 360;
  if (span + 2 * wide >= 360) return [-180, low, 180, top];
  return [wrapLongitude(west - wide), low, wrapLongitude(east + wide), top];
}
