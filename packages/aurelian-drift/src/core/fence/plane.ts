import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** Relative error of a local plane at short distances. */
export const FLAT = 0.99;
/** Distance in metres beyond which a local plane is not used. */
export const LONG = 20_000;

/** Metres per degree at a position. */
export interface Scale {
  readonly east: number;
  readonly north: number;
}

/** Distance in metres in a local plane: exact enough for a search radius. */
export function flatDistance(from: Position, to: Position, { east, north }: Scale): number {
  const right = wrapLongitude(to.lon - from.lon) * east;
  const up = (to.lat - from.lat) * north;
  return Math.sqrt(right * right + up * up);
}

/** Distance in metres from a position to a box in a local plane; 0 eastwards where it is not easily computed. */
export function gapTo(bounds: Bounds, { lat, lon }: Position, scale: Scale): number {
  const [west, south, east, north] = bounds;
  const up = (lat < south ? south - lat : lat > north ? lat - north : 0) * scale.north;
  if (west > east || Math.abs(lon - west) > 180) return up * FLAT;
  const right = (lon < west ? west - lon : lon > east ? lon - east : 0) * scale.east;
  return Math.sqrt(up * up + right * right) * FLAT;
}
