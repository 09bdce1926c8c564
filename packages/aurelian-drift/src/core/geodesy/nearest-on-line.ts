import { distance } from './distance.js';
import type { Position } from './position.js';
import { alongStraight, shareOfStraight } from './straight.js';
import { RADIANS, wrapLongitude } from './wgs84.js';

/**
 * The point of a line that is nearest to a position, and the distance in metres. The line is straight in longitude and
 * latitude between its points, across the date line too. The local plane is exact to some tens of kilometres around the
 * position, so the result is exact near the line.
 *
 * `undefined` for a line without points.
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
