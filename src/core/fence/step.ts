import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** The position at fraction `t` of a step that is straight in longitude and latitude, the short way round. */
export function alongStep(from: Position, to: Position, t: number): Position {
  return {
    lat: from.lat + (to.lat - from.lat) * t,
    lon: wrapLongitude(from.lon + wrapLongitude(to.lon - from.lon) * t),
  };
}
