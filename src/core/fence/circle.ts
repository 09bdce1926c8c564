import { distance, distanceBetween } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS, wrapLongitude } from '../geodesy/wgs84.js';
import type { CircleFence, FenceShape } from './fence.js';
import { alongStep } from './step.js';

/** A circle on the ground, measured on the ellipsoid. */
export function circleShape({ centre, radius }: CircleFence): FenceShape {
  const depth = (lat: number, lon: number) => radius - distanceBetween(centre.lat, centre.lon, lat, lon);
  return {
    size: radius,
    depth,
    cuts(from, to) {
      const nearest = nearestFraction(centre, from, to);
      const depthAt = (t: number) => radius - distance(centre, alongStep(from, to, t));
      const deepest = depthAt(nearest);
      if (!(deepest > 0)) return [];
      const cuts: number[] = [];
      if (depthAt(0) < 0) cuts.push(rootOf(depthAt, 0, nearest));
      if (depthAt(1) < 0) cuts.push(rootOf(depthAt, 1, nearest));
      return cuts;
    },
  };
}

/** The fraction of a step nearest to a point, in a plane scaled at that point's latitude. */
function nearestFraction(point: Position, from: Position, to: Position): number {
  const scale = Math.cos(point.lat * RADIANS);
  const dx = wrapLongitude(to.lon - from.lon) * scale;
  const dy = to.lat - from.lat;
  const px = wrapLongitude(point.lon - from.lon) * scale;
  const py = point.lat - from.lat;
  const square = dx * dx + dy * dy;
  return square === 0 ? 0 : Math.max(0, Math.min(1, (px * dx + py * dy) / square));
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
