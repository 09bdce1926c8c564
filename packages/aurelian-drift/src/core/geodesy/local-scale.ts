import { ECCENTRICITY_SQUARED, EQUATORIAL_RADIUS, RADIANS } from './wgs84.js';

/** Metres per degree eastwards and northwards on the ellipsoid at a latitude: the scale of a local plane. */
export function metresPerDegree(lat: number): { readonly east: number; readonly north: number } {
  const sin = Math.sin(lat * RADIANS);
  const w2 = 1 - ECCENTRICITY_SQUARED * sin * sin;
  const prime = EQUATORIAL_RADIUS / Math.sqrt(w2);
  return {
    east: prime * Math.cos(lat * RADIANS) * RADIANS,
    north: ((prime * (1 - ECCENTRICITY_SQUARED)) / w2) * RADIANS,
  };
}

/** Squared distance of the origin of a plane from a segment that begins at (x, y) and extends by (dx, dy). */
export function squareToSegment(x: number, y: number, dx: number, dy: number): number {
  const square = dx * dx + dy * dy;
  const t = square === 0 ? 0 : Math.max(0, Math.min(1, -(x * dx + y * dy) / square));
  const [ex, ey] = [x + t * dx, y + t * dy];
  return ex * ex + ey * ey;
}
