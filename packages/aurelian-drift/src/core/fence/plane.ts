import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** A plane is right to this share so near. */
export const FLAT = 0.99;
/** Metres beyond which it does not do. */
export const LONG = 20_000;

/** Metres a degree, at a place. */
export interface Scale {
  readonly east: number;
  readonly north: number;
}

/** Metres, in a plane: good enough for how far to look. */
export function flatDistance(from: Position, to: Position, { east, north }: Scale): number {
  const right = wrapLongitude(to.lon - from.lon) * east;
  const up = (to.lat - from.lat) * north;
  return Math.sqrt(right * right + up * up);
}

/** Metres from a place to a box, in a plane; 0 eastwards where that is not easily told. */
export function gapTo(bounds: Bounds, { lat, lon }: Position, scale: Scale): number {
  const [west, south, east, north] = bounds;
  const up = (lat < south ? south - lat : lat > north ? lat - north : 0) * scale.north;
  if (west > east || Math.abs(lon - west) > 180) return up * FLAT;
  const right = (lon < west ? west - lon : lon > east ? lon - east : 0) * scale.east;
  return Math.sqrt(up * up + right * right) * FLAT;
}
