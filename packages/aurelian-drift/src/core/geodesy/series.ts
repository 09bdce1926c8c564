import { FLATTENING, POLAR_RADIUS, SECOND_ECCENTRICITY_SQUARED } from './wgs84.js';

/*
 * Vincenty's nested series for a geodesic on the ellipsoid.
 * T. Vincenty, "Direct and inverse solutions of geodesics on the ellipsoid with application of nested
 * equations", Survey Review XXIII 176 (1975). Truncation is below 0.1 mm on the longest lines.
 */

/** Coefficients A and B (equations 3 and 4) for cos²α, α being the geodesic's azimuth at the equator. */
export function lengthSeries(cosSquared: number): { a: number; b: number } {
  const u2 = cosSquared * SECOND_ECCENTRICITY_SQUARED;
  return {
    a: 1 + (u2 / 16384) * (4096 + u2 * (-768 + u2 * (320 - 175 * u2))),
    b: (u2 / 1024) * (256 + u2 * (-128 + u2 * (74 - 47 * u2))),
  };
}

/** Δσ (equation 6): difference between the arc on the auxiliary sphere and the scaled length. */
export function arcCorrection(b: number, sinSigma: number, cosSigma: number, cos2m: number): number {
  const square = 2 * cos2m * cos2m - 1;
  return (
    b *
    sinSigma *
    (cos2m +
      (b / 4) *
        (cosSigma * square - (b / 6) * cos2m * (4 * sinSigma * sinSigma - 3) * (4 * cos2m * cos2m - 3)))
  );
}

/** λ − L (equations 10 and 11): longitude on the auxiliary sphere less longitude on the ellipsoid, radians. */
export function longitudeCorrection(
  sinAlpha: number,
  cosSquared: number,
  sigma: number,
  sinSigma: number,
  cosSigma: number,
  cos2m: number,
): number {
  const c = (FLATTENING / 16) * cosSquared * (4 + FLATTENING * (4 - 3 * cosSquared));
  return (
    (1 - c) *
    FLATTENING *
    sinAlpha *
    (sigma + c * sinSigma * (cos2m + c * cosSigma * (2 * cos2m * cos2m - 1)))
  );
}

/** Length in metres of an arc σ on the auxiliary sphere. */
export function arcLength(cosSquared: number, sigma: number, cos2m: number): number {
  const { a, b } = lengthSeries(cosSquared);
  return POLAR_RADIUS * a * (sigma - arcCorrection(b, Math.sin(sigma), Math.cos(sigma), cos2m));
}
