import type { Position } from './position.js';
import { RADIANS, wrapLongitude } from './wgs84.js';

/**
 * The position at fraction `t` of a step that is straight in longitude and latitude, on the shorter way around the
 * earth.
 */
export function alongStraight(from: Position, to: Position, t: number): Position {
  return {
    lat: from.lat + (to.lat - from.lat) * t,
    lon: wrapLongitude(from.lon + wrapLongitude(to.lon - from.lon) * t),
  };
}

/**
 * The fraction of a straight step at which it is nearest to a position: below 0 before its start, above 1 beyond its
 * end, 0 for a step without length. Computed in a plane scaled at the latitude of the position.
 */
export function shareOfStraight(at: Position, from: Position, to: Position): number {
  const scale = Math.cos(at.lat * RADIANS);
  const dx = wrapLongitude(to.lon - from.lon) * scale;
  const dy = to.lat - from.lat;
  const px = wrapLongitude(at.lon - from.lon) * scale;
  const py = at.lat - from.lat;
  const square = dx * dx + dy * dy;
  return square === 0 ? 0 : (px * dx + py * dy) / square;
}
