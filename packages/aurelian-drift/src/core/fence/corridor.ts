import { boundsOf } from '../geodesy/bounds.js';
import { metresPerDegree, squareToSegment } from '../geodesy/local-scale.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { widenedBy } from './bounds.js';
import { cutsByDepth } from './cuts.js';
import type { CorridorFence, FenceShape } from './fence.js';
import type { FenceKind } from './fence-kind.js';
import { FENCE_NUMBERS } from './fence-numbers.js';
import { placesProblem } from './points-problem.js';

/** All positions within a number of metres of a line, measured on the ground. */
function corridorShape({ lines, halfWidth }: CorridorFence): FenceShape {
  const segments = lines.flatMap((line) =>
    line.length === 1 ? [[line[0], line[0]] as const] : line.slice(1).map((to, i) => [line[i], to] as const),
  );
  const depth = (lat: number, lon: number) => {
    const { east: kx, north: ky } = metresPerDegree(lat);
    let min = Infinity;
    for (const [from, to] of segments) {
      if (from === undefined || to === undefined) continue;
      const x = wrapLongitude(from.lon - lon) * kx;
      const y = (from.lat - lat) * ky;
      const gap = squareToSegment(x, y, wrapLongitude(to.lon - from.lon) * kx, (to.lat - from.lat) * ky);
      if (gap < min) min = gap;
    }
    return halfWidth - Math.sqrt(min);
  };
  return {
    size: halfWidth,
    bounds: widenedBy(boundsOf(lines.flat()) ?? [0, 0, 0, 0], halfWidth),
    depth,
    cuts: (from, to) => cutsByDepth(depth, from, to),
  };
}

export const CORRIDOR: FenceKind<CorridorFence> = {
  rules: { lines: (value) => placesProblem([value].flat(), 1), halfWidth: FENCE_NUMBERS.halfWidth },
  shape: corridorShape,
};
