import { arcLength, longitudeCorrection } from './series.js';
import { DEGREES, FLATTENING, RADIANS, wrapBearing, wrapLongitude } from './wgs84.js';

/** Length in metres and bearing at the start, degrees, of the geodesic between two points in degrees. */
export interface Geodesic {
  readonly distance: number;
  readonly bearing: number;
}

/** Iterations of the longitude before the line counts as nearly antipodal; ordinary lines need three to six. */
const MOST_ITERATIONS = 30;

/** The geodesic between two points of any distance. Latitudes within ±90; equal points have bearing NaN. */
export function inverseGeodesic(lat1: number, lon1: number, lat2: number, lon2: number): Geodesic {
  const turned = wrapLongitude(lon2 - lon1) * RADIANS;
  if (turned === 0 && lat1 === lat2) return { distance: 0, bearing: NaN };
  const beta1 = reducedLatitude(lat1);
  const beta2 = reducedLatitude(lat2);
  return iterate(beta1, beta2, turned) ?? searchAzimuth(beta1, beta2, turned);
}

function reducedLatitude(lat: number): number {
  if (Math.abs(lat) === 90) return lat * RADIANS;
  return Math.atan((1 - FLATTENING) * Math.tan(lat * RADIANS));
}

/** Vincenty's iteration of the longitude on the auxiliary sphere; `undefined` where it does not settle. */
function iterate(beta1: number, beta2: number, turned: number): Geodesic | undefined {
  const sin1 = Math.sin(beta1);
  const cos1 = Math.cos(beta1);
  const sin2 = Math.sin(beta2);
  const cos2 = Math.cos(beta2);
  let lambda = turned;
  for (let i = 0; i < MOST_ITERATIONS; i++) {
    const east = cos2 * Math.sin(lambda);
    const north = cos1 * sin2 - sin1 * cos2 * Math.cos(lambda);
    const sinSigma = Math.sqrt(east * east + north * north);
    const cosSigma = sin1 * sin2 + cos1 * cos2 * Math.cos(lambda);
    const sigma = Math.atan2(sinSigma, cosSigma);
    const sinAlpha = sinSigma === 0 ? 0 : (cos1 * cos2 * Math.sin(lambda)) / sinSigma;
    const cosSquared = 1 - sinAlpha * sinAlpha;
    // A line along the equator has cos²α = 0 and no middle term.
    const cos2m = cosSquared < 1e-15 ? 0 : cosSigma - (2 * sin1 * sin2) / cosSquared;
    const next = turned + longitudeCorrection(sinAlpha, cosSquared, sigma, sinSigma, cosSigma, cos2m);
    if (Math.abs(next) > Math.PI) return undefined; // the iteration has left the sphere: nearly antipodal
    if (Math.abs(next - lambda) < 1e-13) {
      // 1e-13 rad is under a micrometre on the ground
      return {
        distance: arcLength(cosSquared, sigma, cos2m),
        bearing: wrapBearing(Math.atan2(east, north) * DEGREES),
      };
    }
    lambda = next;
  }
  return undefined;
}

/**
 * Nearly antipodal points. With the first point moved to the farther, southern latitude, the longitude
 * reached at the second point's latitude grows steadily with the azimuth at the first, so that halving the
 * azimuth always finds the line (C. F. F. Karney, "Algorithms for geodesics", J. Geodesy 87, 2013, section 4).
 */
function searchAzimuth(beta1: number, beta2: number, turned: number): Geodesic {
  const swapped = Math.abs(beta2) > Math.abs(beta1);
  const farther = swapped ? beta2 : beta1;
  const nearer = swapped ? beta1 : beta2;
  const flipped = farther > 0;
  const start = -Math.abs(farther);
  const end = flipped ? -nearer : nearer;
  const target = Math.abs(turned);
  let low = 0;
  let high = Math.PI;
  for (let i = 0; i < 60; i++) {
    const middle = (low + high) / 2;
    if (lineAt(start, end, middle).turned < target) low = middle;
    else high = middle;
  }
  const line = lineAt(start, end, (low + high) / 2);
  // Undo the moves: the line may have been walked backwards, mirrored north to south, or east to west.
  let azimuth = swapped ? Math.PI - line.endAzimuth : (low + high) / 2;
  if (flipped !== swapped) azimuth = Math.PI - azimuth;
  if (swapped) azimuth = Math.PI - azimuth;
  const bearing = wrapBearing((turned < 0 ? -azimuth : azimuth) * DEGREES);
  return { distance: line.distance, bearing };
}

/** The line leaving β1 ≤ 0 at azimuth α1 up to where it reaches β2 on its way north. */
function lineAt(
  beta1: number,
  beta2: number,
  alpha1: number,
): { turned: number; distance: number; endAzimuth: number } {
  const cos1 = Math.cos(beta1);
  const sinAlpha = cos1 * Math.sin(alpha1); // Clairaut: constant along the line
  const along1 = cos1 * Math.cos(alpha1);
  const cos2 = Math.cos(beta2);
  const along2 = Math.sqrt(Math.max(0, along1 * along1 + (cos2 * cos2 - cos1 * cos1)));
  // −0 keeps a start on the equator on its southern side, where azimuths past east begin at σ = −π.
  const sin1 = beta1 === 0 ? -0 : Math.sin(beta1);
  const sin2 = Math.sin(beta2);
  const sigma1 = Math.atan2(sin1, along1);
  const sigma2 = Math.atan2(sin2, along2);
  const omega1 = Math.atan2(sinAlpha * sin1, along1);
  const omega2 = Math.atan2(sinAlpha * sin2, along2);
  const sigma = sigma2 - sigma1;
  const cosSquared = 1 - sinAlpha * sinAlpha;
  const cos2m = Math.cos(sigma1 + sigma2);
  const correction = longitudeCorrection(
    sinAlpha,
    cosSquared,
    sigma,
    Math.sin(sigma),
    Math.cos(sigma),
    cos2m,
  );
  return {
    turned: omega2 - omega1 - correction,
    distance: arcLength(cosSquared, sigma, cos2m),
    endAzimuth: Math.atan2(sinAlpha, along2),
  };
}
