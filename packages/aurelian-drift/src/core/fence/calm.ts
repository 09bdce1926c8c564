import type { Position } from '../geodesy/position.js';
import { FLAT, flatDistance, type Scale } from './plane.js';
import type { Seen } from './post.js';

/** So many 95 % radii from an edge every side that may be asked for is certain. */
export const CERTAIN_BEYOND = 2;

/** A circle around a place within which nothing can change. */
export interface Calm {
  readonly centre: Position;
  readonly scale: Scale;
  /** Metres, more than none. */
  readonly radius: number;
}

/** @param radius metres; 0 for none. */
export function calmAround(centre: Position, scale: Scale, radius: number): Calm | undefined {
  return radius > 0 ? { centre, scale, radius } : undefined;
}

/** Whether a place is in it, and nothing can change for all that it is not sure. */
export function isCalm(calm: Calm | undefined, at: Seen): boolean {
  if (calm === undefined) return false;
  const room = (calm.radius - CERTAIN_BEYOND * (at.accuracy ?? 0)) * FLAT;
  return flatDistance(calm.centre, at, calm.scale) < room;
}
