import { ECCENTRICITY_SQUARED, EQUATORIAL_RADIUS, RADIANS } from './wgs84.js';

/**
 * Writes the earth-centred coordinates of a position on the ellipsoid, in metres, to three places of `out`: x towards
 * 0° N 0° E, y towards 0° N 90° E, z towards the north pole. Their straight distance grows with that on the ground, and
 * knows neither date line nor poles.
 */
export function earthCentredInto(out: Float64Array, index: number, lat: number, lon: number): void {
  const sin = Math.sin(lat * RADIANS);
  const prime = EQUATORIAL_RADIUS / Math.sqrt(1 - ECCENTRICITY_SQUARED * sin * sin);
  const across = prime * Math.cos(lat * RADIANS);
  out[index] = across * Math.cos(lon * RADIANS);
  out[index + 1] = across * Math.sin(lon * RADIANS);
  out[index + 2] = prime * (1 - ECCENTRICITY_SQUARED) * sin;
}

/** The position above or below which a point given by earth-centred coordinates lies, on the ellipsoid's own normal. */
export function positionOfEarthCentred(x: number, y: number, z: number): { lat: number; lon: number } {
  const across = Math.hypot(x, y);
  // Right for points on the ellipsoid; for a mean of points near one another it is off by far less than they are apart.
  const lat = Math.atan2(z, across * (1 - ECCENTRICITY_SQUARED)) / RADIANS;
  return { lat, lon: Math.atan2(y, x) / RADIANS };
}
