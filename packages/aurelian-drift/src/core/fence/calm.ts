import type { Position } from '../geodesy/position.js';
import { FLAT, flatDistance, type Scale } from './plane.js';
import type { Seen } from './post.js';

/** Distance from an edge, in 95 % radii, at which the side is certain for every permitted certainty. */
export const CERTAIN_BEYOND = 2;

/** A circle around a position within which no fence can change its state. */
export interface Calm {
  readonly centre: Position;
  readonly scale: Scale;
  /** Radius in metres, above 0. */
  readonly radius: number;
}

/** @param radius metres; 0 for none. */
export function calmAround(centre: Position, scale: Scale, radius: number): Calm | undefined {
  return radius > 0 ? { centre, scale, radius } : undefined;
}

/** Whether a position is inside the circle, so that no fence can change despite the uncertainty of the position. */
export function isCalm(calm: Calm | undefined, at: Seen): boolean {
  if (calm === undefined) return false;
  const room = (calm.radius - CERTAIN_BEYOND * (at.accuracy ?? 0)) * FLAT;
  return flatDistance(calm.centre, at, calm.scale) < room;
}
