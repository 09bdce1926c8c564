import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS, DEGREES, wrapLongitude } from '../geodesy/wgs84.js';

/** Metres east and north. */
export interface Offset {
  readonly east: number;
  readonly north: number;
}

/** Distance in metres, and degrees from the equator, beyond which a local plane is not exact enough. */
const FAR = 20_000;
const POLAR = 85;
const NEAR = 100;
/**
 * Mean radius of the earth in metres (WGS 84, (2a + b) / 3). The error is a third of a percent at long distances, and
 * metres near a pole.
 */
const RADIUS = 6_371_008.8;

/**
 * Offset of a position from another, east and north: in a local plane, or on a sphere at long distances and near the
 * poles.
 */
export function offsetTo(from: Position, to: Position): Offset {
  const scale = metresPerDegree((from.lat + to.lat) / 2);
  const east = wrapLongitude(to.lon - from.lon) * scale.east;
  const north = (to.lat - from.lat) * scale.north;
  if (Math.abs(from.lat) < POLAR && Math.abs(east) < FAR && Math.abs(north) < FAR) return { east, north };
  const [sine, cosine] = [Math.sin(from.lat * RADIANS), Math.cos(from.lat * RADIANS)];
  const [up, out] = [Math.sin(to.lat * RADIANS), Math.cos(to.lat * RADIANS)];
  const turn = (to.lon - from.lon) * RADIANS;
  const aside = out * Math.sin(turn);
  const along = cosine * up - sine * out * Math.cos(turn);
  const far = Math.hypot(aside, along);
  if (far === 0 && to.lat * from.lat >= 0) return { east: 0, north: 0 };
  const metres = RADIUS * Math.atan2(far, sine * up + cosine * out * Math.cos(turn));
  return far === 0
    ? { east: 0, north: metres }
    : { east: (metres * aside) / far, north: (metres * along) / far };
}

/** The position at an offset from another. */
export function shifted(from: Position, { east, north }: Offset): Position {
  if (Math.abs(from.lat) < POLAR && Math.abs(east) < FAR && Math.abs(north) < FAR) {
    const flat = metresPerDegree(from.lat);
    const lat = from.lat + north / flat.north;
    // Within 100 m the width of a degree is constant to a millimetre.
    const scale = Math.abs(north) < NEAR ? flat : metresPerDegree((from.lat + lat) / 2);
    return { lat, lon: wrapLongitude(from.lon + east / scale.east) };
  }
  const angle = Math.hypot(east, north) / RADIUS;
  const course = Math.atan2(east, north);
  const [sine, cosine] = [Math.sin(from.lat * RADIANS), Math.cos(from.lat * RADIANS)];
  const [aside, along] = [Math.sin(angle) * Math.sin(course), Math.sin(angle) * Math.cos(course)];
  const out = cosine * Math.cos(angle) - sine * along;
  const up = sine * Math.cos(angle) + cosine * along;
  return {
    lat: Math.atan2(up, Math.hypot(aside, out)) * DEGREES,
    lon: wrapLongitude(from.lon + Math.atan2(aside, out) * DEGREES),
  };
}
