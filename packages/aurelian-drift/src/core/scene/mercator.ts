import { DEGREES, RADIANS } from '../geodesy/wgs84.js';

/*
 * Web Mercator (EPSG 3857) on a unit square: x from 0 at 180° west to 1 at 180° east, y from 0 at the
 * northern edge to 1 at the southern.
 */

/** Latitude of the square's edges: where y reaches 0 and 1. */
const MERCATOR_EDGE = 85.0511287798066;

export function mercatorX(lon: number): number {
  return lon / 360 + 0.5;
}

/** Latitudes beyond the square's edges are taken to its edges. */
export function mercatorY(lat: number): number {
  const phi = Math.max(-MERCATOR_EDGE, Math.min(MERCATOR_EDGE, lat)) * RADIANS;
  return 0.5 - Math.asinh(Math.tan(phi)) / (2 * Math.PI);
}

export function latitudeOf(y: number): number {
  return Math.atan(Math.sinh((0.5 - y) * 2 * Math.PI)) * DEGREES;
}

export function longitudeOf(x: number): number {
  return (x - 0.5) * 360;
}
