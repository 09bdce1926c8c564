import { wrapBearing, wrapLongitude } from '../geodesy/wgs84.js';
import type { Camera } from './camera.js';
import { latitudeOf, longitudeOf, mercatorX, mercatorY } from './mercator.js';

/**
 * A camera between two views of the same size, at a `share` 0…1 of the time. The centre moves straight on the map, the
 * zoom evenly, the turn on the shorter way; slow at both ends.
 */
export function between(from: Camera, to: Camera, share: number): Camera {
  if (share >= 1) return to;
  const eased = share * share * (3 - 2 * share);
  const along = (a: number, b: number) => a + (b - a) * eased;
  const x1 = mercatorX(from.centre.lon);
  const x2 = x1 + (mercatorX(to.centre.lon) - x1 - Math.round(mercatorX(to.centre.lon) - x1));
  const turned = wrapLongitude(to.turn - from.turn);
  return to.with({
    centre: {
      lat: latitudeOf(along(mercatorY(from.centre.lat), mercatorY(to.centre.lat))),
      lon: wrapLongitude(longitudeOf(along(x1, x2))),
    },
    zoom: along(from.zoom, to.zoom),
    turn: wrapBearing(from.turn + turned * eased),
  });
}

/** Time constant in seconds with which a glide slows down. */
const FRICTION = 0.18;
/** Speed in pixels per second at which a glide ends. */
const STILL = 12;

/** A glide after some seconds: the distance in pixels, and the remaining speed; `undefined` when it has ended. */
export function pushed(
  velocity: { readonly x: number; readonly y: number },
  seconds: number,
):
  | {
      readonly dx: number;
      readonly dy: number;
      readonly velocity: { readonly x: number; readonly y: number };
    }
  | undefined {
  if (Math.hypot(velocity.x, velocity.y) < STILL) return undefined;
  const keep = Math.exp(-seconds / FRICTION);
  const gone = FRICTION * (1 - keep); // ∫ e^(−t/τ) dt
  return {
    dx: velocity.x * gone,
    dy: velocity.y * gone,
    velocity: { x: velocity.x * keep, y: velocity.y * keep },
  };
}
