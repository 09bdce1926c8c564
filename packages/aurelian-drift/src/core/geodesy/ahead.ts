import type { Position } from './position.js';
import { arcCorrection, lengthSeries, longitudeCorrection } from './series.js';
import { DEGREES, FLATTENING, POLAR_RADIUS, RADIANS, wrapLongitude } from './wgs84.js';

/**
 * The position reached by going `metres` along the geodesic that leaves `from` at `bearing` (degrees
 * clockwise from true north). A negative distance goes backwards. Within 0.2 mm; NaN in gives NaN out.
 *
 * Vincenty's direct solution (1975), equations 1 to 11.
 */
export function ahead(from: Position, bearing: number, metres: number): Position {
  if (!(Math.abs(from.lat) <= 90) || !Number.isFinite(bearing) || !Number.isFinite(metres))
    return { lat: NaN, lon: NaN };
  if (metres === 0) return { lat: from.lat, lon: wrapLongitude(from.lon) };
  const alpha1 = bearing * RADIANS;
  const sinAlpha1 = Math.sin(alpha1);
  const cosAlpha1 = Math.cos(alpha1);
  const beta1 = Math.atan((1 - FLATTENING) * Math.tan(from.lat * RADIANS));
  const sin1 = Math.sin(beta1);
  const cos1 = Math.cos(beta1);
  const sigma1 = Math.atan2(sin1, cos1 * cosAlpha1);
  const sinAlpha = cos1 * sinAlpha1;
  const cosSquared = 1 - sinAlpha * sinAlpha;
  const { a, b } = lengthSeries(cosSquared);
  const scaled = metres / (POLAR_RADIUS * a);
  let sigma = scaled;
  for (let i = 0; i < 20; i++) {
    const next = scaled + arcCorrection(b, Math.sin(sigma), Math.cos(sigma), Math.cos(2 * sigma1 + sigma));
    const settled = Math.abs(next - sigma) < 1e-14; // under 0.1 µm
    sigma = next;
    if (settled) break;
  }
  const sinSigma = Math.sin(sigma);
  const cosSigma = Math.cos(sigma);
  const inward = sin1 * sinSigma - cos1 * cosSigma * cosAlpha1;
  const lat = Math.atan2(
    sin1 * cosSigma + cos1 * sinSigma * cosAlpha1,
    (1 - FLATTENING) * Math.sqrt(sinAlpha * sinAlpha + inward * inward),
  );
  const lambda = Math.atan2(sinSigma * sinAlpha1, cos1 * cosSigma - sin1 * sinSigma * cosAlpha1);
  const cos2m = Math.cos(2 * sigma1 + sigma);
  const turned = lambda - longitudeCorrection(sinAlpha, cosSquared, sigma, sinSigma, cosSigma, cos2m);
  return { lat: lat * DEGREES, lon: wrapLongitude(from.lon + turned * DEGREES) };
}
