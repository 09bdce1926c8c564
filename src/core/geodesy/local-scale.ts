import { ECCENTRICITY_SQUARED, EQUATORIAL_RADIUS, RADIANS } from './wgs84.js';

/** Metres of a degree eastwards and northwards on the ellipsoid at a latitude: the scale of a plane that is right near there. */
export function metresPerDegree(lat: number): { readonly east: number; readonly north: number } {
  const sin = Math.sin(lat * RADIANS);
  const w2 = 1 - ECCENTRICITY_SQUARED * sin * sin;
  const prime = EQUATORIAL_RADIUS / Math.sqrt(w2);
  return {
    east: prime * Math.cos(lat * RADIANS) * RADIANS,
    north: ((prime * (1 - ECCENTRICITY_SQUARED)) / w2) * RADIANS,
  };
}
