import { arcLength, longitudeCorrection } from './series.js';
import { DEGREES, FLATTENING, RADIANS, wrapBearing, wrapLongitude } from './wgs84.js';

/** Length in metres and bearing at the start, degrees, of the geodesic between two points in degrees. */
export interface Geodesic {
  readonly distance: number;
  readonly bearing: number;
}

/**
 * Iterations after which the longitude has converged, except for nearly antipodal points; ordinary lines need three to
 * six.
 */
const OWN_STEPS = 12;
/** Bisections that narrow half the circle of the earth down to nothing. */
const MAX_STEPS = 80;
/**
 * Radians, 6 cm on the ground. Of two antipodes, one is moved by this: lines in any direction lead from one to the
 * other.
 */
const APART = 1e-8;

/** The geodesic between two points at any distance. Latitudes within ±90; equal points have bearing NaN. */
export function inverseGeodesic(lat1: number, lon1: number, lat2: number, lon2: number): Geodesic {
  const turned = wrapLongitude(lon2 - lon1) * RADIANS;
  if (turned === 0 && lat1 === lat2) return { distance: 0, bearing: NaN };
  const { distance, azimuth } = solve(reducedLatitude(lat1), reducedLatitude(lat2), Math.abs(turned));
  return { distance, bearing: wrapBearing((turned < 0 ? -azimuth : azimuth) * DEGREES) };
}

function reducedLatitude(lat: number): number {
  if (Math.abs(lat) === 90) return lat * RADIANS;
  return Math.atan((1 - FLATTENING) * Math.tan(lat * RADIANS));
}

/**
 * Vincenty's longitude λ on the auxiliary sphere. His iteration converges, but alternates for nearly antipodal points.
 * The remainder, λ minus its correction, grows monotonically from λ = 0 to λ = π, so λ is kept between two bounds that
 * are halved.
 */
function solve(beta1: number, beta2: number, turned: number): { distance: number; azimuth: number } {
  const sin1 = Math.sin(beta1);
  const cos1 = Math.cos(beta1);
  let sin2 = Math.sin(beta2);
  let cos2 = Math.cos(beta2);
  let [low, high] = [0, Math.PI];
  let lambda = turned;
  for (let step = 0; ; step++) {
    const east = cos2 * Math.sin(lambda);
    const north = cos1 * sin2 - sin1 * cos2 * Math.cos(lambda);
    const sinSigma = Math.sqrt(east * east + north * north);
    const cosSigma = sin1 * sin2 + cos1 * cos2 * Math.cos(lambda);
    const sigma = Math.atan2(sinSigma, cosSigma);
    const sinAlpha = sinSigma === 0 ? 0 : (cos1 * east) / sinSigma;
    const cosSquared = 1 - sinAlpha * sinAlpha;
    // A line along the equator has cos²α = 0 and no middle term.
    const cos2m = cosSquared < 1e-15 ? 0 : cosSigma - (2 * sin1 * sin2) / cosSquared;
    const next = turned + longitudeCorrection(sinAlpha, cosSquared, sigma, sinSigma, cosSigma, cos2m);
    // 1e-13 rad is under a micrometre on the ground
    if (Math.abs(next - lambda) < 1e-13 || step === MAX_STEPS)
      return { distance: arcLength(cosSquared, sigma, cos2m), azimuth: Math.atan2(east, north) };
    if (lambda < next) low = lambda;
    else high = lambda;
    if (next > Math.PI && Math.abs(beta1 + beta2) < APART) {
      sin2 = Math.sin(APART - beta1);
      cos2 = Math.cos(APART - beta1);
    }
    lambda = step < OWN_STEPS && next > low && next < high ? next : (low + high) / 2;
  }
}
