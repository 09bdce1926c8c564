import { distance, distanceBetween } from '../geodesy/distance.js';
import type { CircleFence, FenceShape } from './fence.js';
import { alongStraight, shareOfStraight } from '../geodesy/straight.js';

/** A circle on the ground, measured on the ellipsoid. */
export function circleShape({ centre, radius }: CircleFence): FenceShape {
  const depth = (lat: number, lon: number) => radius - distanceBetween(centre.lat, centre.lon, lat, lon);
  return {
    size: radius,
    depth,
    cuts(from, to) {
      const nearest = Math.max(0, Math.min(1, shareOfStraight(centre, from, to)));
      const depthAt = (t: number) => radius - distance(centre, alongStraight(from, to, t));
      const deepest = depthAt(nearest);
      if (!(deepest > 0)) return [];
      const cuts: number[] = [];
      if (depthAt(0) < 0) cuts.push(rootOf(depthAt, 0, nearest));
      if (depthAt(1) < 0) cuts.push(rootOf(depthAt, 1, nearest));
      return cuts;
    },
  };
}

/** Halves the way from a fraction outside to one inside until it is exact to 1e-12 of the step. */
function rootOf(depthAt: (t: number) => number, outside: number, inside: number): number {
  let low = outside;
  let high = inside;
  for (let i = 0; i < 40; i++) {
    const middle = (low + high) / 2;
    if (depthAt(middle) < 0) low = middle;
    else high = middle;
  }
  return (low + high) / 2;
}
