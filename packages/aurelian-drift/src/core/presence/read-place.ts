import { formatValue } from '../check/number.js';
import { parseTime } from '../formats/time.js';
import { SESSION, TRAIL_PLACES, type SharedPlace } from './messages.js';

/*
 * The places of a party arrive at ten thousand a second, so they are checked by hand: in half the time that a schema
 * takes (measured).
 */

/** The place in a parsed message, or the problem with it. Never throws. */
export function placeFrom(document: unknown): SharedPlace | string {
  const { type, geometry, properties } = (document ?? {}) as Record<string, unknown>;
  const point = (geometry ?? {}) as { type?: unknown; coordinates?: unknown };
  if (type !== 'Feature' || point.type !== 'Point' || !Array.isArray(point.coordinates))
    return 'it is not a GeoJSON Feature with a Point';
  const [lon, lat] = point.coordinates as unknown[];
  if (!isWithin(lat, -90, 90) || !isWithin(lon, -180, 180))
    return `geometry.coordinates: ${formatValue([lon, lat])} is no place`;
  const { session, number, time, accuracy, course, speed, trail } = (properties ?? {}) as Record<
    string,
    unknown
  >;
  if (typeof session !== 'string' || !SESSION.test(session)) return 'properties.session is invalid';
  if (!isWithin(number, 1, Number.MAX_SAFE_INTEGER) || !Number.isInteger(number))
    return 'properties.number is not a positive integer';
  const at = typeof time === 'string' && time.length <= 40 ? parseTime(time) : NaN;
  if (Number.isNaN(at)) return 'properties.time is invalid';
  if (!isAbsentOr(accuracy, 1e7)) return 'properties.accuracy is not a length';
  if (!isAbsentOr(course, 360)) return 'properties.course is invalid';
  if (!isAbsentOr(speed, 1e7)) return 'properties.speed is invalid';
  const way = trail === undefined ? undefined : trailFrom(trail, at);
  if (trail !== undefined && way === undefined) return 'properties.trail is invalid';
  return { lat, lon, time: at, accuracy, course, speed, session, number, trail: way };
}

function trailFrom(trail: unknown, time: number): SharedPlace['trail'] {
  if (!Array.isArray(trail) || trail.length > TRAIL_PLACES) return undefined;
  const places = [];
  for (const each of trail as unknown[]) {
    const [lon, lat, ago] = Array.isArray(each) ? (each as unknown[]) : [];
    if (!isWithin(lat, -90, 90) || !isWithin(lon, -180, 180) || !isWithin(ago, 0, 1e7)) return undefined;
    places.push({ lat, lon, time: time - ago * 1000 });
  }
  return places;
}

function isWithin(value: unknown, min: number, max: number): value is number {
  return typeof value === 'number' && value >= min && value <= max;
}

function isAbsentOr(value: unknown, max: number): value is number | undefined {
  return value === undefined || isWithin(value, 0, max);
}
