import { distanceBetween } from '../geodesy/distance.js';
import { widenedBy } from './bounds.js';
import { cutsByDepth } from './cuts.js';
import type { CircleFence, FenceShape } from './fence.js';
import type { FenceKind } from './fence-kind.js';
import { FENCE_NUMBERS } from './fence-numbers.js';
import { placesProblem } from './points-problem.js';

/** A circle on the ground, measured on the ellipsoid. */
function circleShape({ centre, radius }: CircleFence): FenceShape {
  const depth = (lat: number, lon: number) => radius - distanceBetween(centre.lat, centre.lon, lat, lon);
  return {
    size: radius,
    bounds: widenedBy([centre.lon, centre.lat, centre.lon, centre.lat], radius),
    depth,
    cuts: (from, to) => cutsByDepth(depth, from, to),
  };
}

export const CIRCLE: FenceKind<CircleFence> = {
  rules: { centre: (value) => placesProblem([[value]], 1), radius: FENCE_NUMBERS.radius },
  shape: circleShape,
};
