import { distance } from './distance.js';
import type { Position } from './position.js';
import { alongStraight, shareOfStraight } from './straight.js';
import { RADIANS, wrapLongitude } from './wgs84.js';

/**
 * The point of a line nearest to a position, and the metres to it. The line's parts are straight in longitude and
 * latitude, across the date line too; exact near the line, where it matters: the plane it is found in is right within
 * some tens of kilometres of the position.
 *
 * `undefined` for a line of no points.
 */
export function nearestOnLine(
  at: Position,
  line: readonly Position[],
): { readonly point: Position; readonly distance: number } | undefined {
  const scale = Math.cos(at.lat * RADIANS);
  let best: Position | undefined = line[0];
  let min = Infinity;
  for (let i = 1; i < line.length; i++) {
    const from = line[i - 1] as Position;
    const to = line[i] as Position;
    const point = alongStraight(from, to, Math.max(0, Math.min(1, shareOfStraight(at, from, to))));
    const gap = (wrapLongitude(point.lon - at.lon) * scale) ** 2 + (point.lat - at.lat) ** 2;
    if (gap >= min) continue;
    min = gap;
    best = point;
  }
  return best === undefined
    ? undefined
    : { point: { lat: best.lat, lon: best.lon }, distance: distance(at, best) };
}
