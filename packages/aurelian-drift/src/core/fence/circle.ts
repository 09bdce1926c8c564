import { distanceBetween } from '../geodesy/distance.js';
import { widenedBy } from './bounds.js';
import { cutsByDepth } from './cuts.js';
import type { CircleFence, FenceShape } from './fence.js';

/** A circle on the ground, measured on the ellipsoid. */
export function circleShape({ centre, radius }: CircleFence): FenceShape {
  const depth = (lat: number, lon: number) => radius - distanceBetween(centre.lat, centre.lon, lat, lon);
  return {
    size: radius,
    bounds: widenedBy([centre.lon, centre.lat, centre.lon, centre.lat], radius),
    depth,
    cuts: (from, to) => cutsByDepth(depth, from, to),
  };
}
