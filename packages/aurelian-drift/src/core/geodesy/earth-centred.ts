import { ECCENTRICITY_SQUARED, EQUATORIAL_RADIUS, RADIANS } from './wgs84.js';

/**
 * Writes the earth-centred coordinates of a position on the ellipsoid, in metres, to the first three places of `out`: x
 * towards 0° N 0° E, y towards 0° N 90° E, z towards the north pole. Straight distances between such points grow with
 * the distances on the ground, and the date line and the poles need no special case.
 */
export function earthCentredInto(out: Float64Array, index: number, lat: number, lon: number): void {
  const sin = Math.sin(lat * RADIANS);
  const prime = EQUATORIAL_RADIUS / Math.sqrt(1 - ECCENTRICITY_SQUARED * sin * sin);
  const across = prime * Math.cos(lat * RADIANS);
  out[index] = across * Math.cos(lon * RADIANS);
  out[index + 1] = across * Math.sin(lon * RADIANS);
  out[index + 2] = prime * (1 - ECCENTRICITY_SQUARED) * sin;
}

/** Position of a point in earth-centred coordinates, along the normal of the ellipsoid. */
export function positionOfEarthCentred(x: number, y: number, z: number): { lat: number; lon: number } {
  const across = Math.hypot(x, y);
  // Exact for points on the ellipsoid. For a mean of points near one another, the error is far smaller than their
  // distances.
  const lat = Math.atan2(z, across * (1 - ECCENTRICITY_SQUARED)) / RADIANS;
  return { lat, lon: Math.atan2(y, x) / RADIANS };
}
