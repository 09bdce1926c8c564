/** Equatorial radius of WGS 84 in metres (NGA.STND.0036, table 3.1). */
export const EQUATORIAL_RADIUS = 6378137;
/** Flattening of WGS 84 (NGA.STND.0036, table 3.1). */
export const FLATTENING = 1 / 298.257223563;
/** Polar radius in metres, b = a (1 − f). */
export const POLAR_RADIUS = EQUATORIAL_RADIUS * (1 - FLATTENING);
/** First eccentricity squared, e² = f (2 − f). */
export const ECCENTRICITY_SQUARED = FLATTENING * (2 - FLATTENING);
/** Second eccentricity squared, e′² = e² / (1 − e²). */
export const SECOND_ECCENTRICITY_SQUARED = ECCENTRICITY_SQUARED / (1 - ECCENTRICITY_SQUARED);

export const RADIANS = Math.PI / 180;
export const DEGREES = 180 / Math.PI;

/** Wraps a longitude, or a difference of longitudes, into −180…180. The result is −180 only for −180 itself. */
export function wrapLongitude(lon: number): number {
  if (lon >= -180 && lon <= 180) return lon;
  const turned = (((lon + 180) % 360) + 360) % 360;
  return turned === 0 ? 180 : turned - 180;
}

/** Wraps a bearing into 0…360 (360 excluded). */
export function wrapBearing(degrees: number): number {
  const turned = ((degrees % 360) + 360) % 360;
  return turned === 360 ? 0 : turned;
}
