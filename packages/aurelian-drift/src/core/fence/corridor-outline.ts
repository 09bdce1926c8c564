import { ahead } from '../geodesy/ahead.js';
import { bearing } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS, wrapLongitude } from '../geodesy/wgs84.js';
import type { CorridorFence } from './fence.js';

/** Degrees between the points of a round end. */
const FINE = 15;
/** Maximum extent of a corner in half-widths; a longer corner is cut off. */
const LONGEST = 2.5;

/**
 * Outline of a corridor, for drawing: one ring per line, along one side, around the end, and back along the other side.
 */
export function corridorOutline({ lines, halfWidth }: CorridorFence): Position[][] {
  return lines.map((line) => {
    const points = line.filter(
      (at, i) => i === 0 || at.lat !== line[i - 1]?.lat || at.lon !== line[i - 1]?.lon,
    );
    const [first] = points;
    if (first === undefined) return [];
    if (points.length === 1) return arc(first, 0, 360 - FINE, halfWidth);
    const courses = points.slice(1).map((to, i) => bearing(points[i] as Position, to));
    const side = (turn: 90 | -90) =>
      points.slice(1, -1).map((at, i) => {
        const before = courses[i] as number;
        const half = wrapLongitude((courses[i + 1] as number) - before) / 2;
        const reach = Math.min(LONGEST, 1 / Math.cos(half * RADIANS));
        return ahead(at, before + half + turn, halfWidth * reach);
      });
    const [out, back] = [courses[0] as number, courses.at(-1) as number];
    return [
      ...arc(first, out + 90, out + 270, halfWidth),
      ...side(-90),
      ...arc(points.at(-1) as Position, back - 90, back + 90, halfWidth),
      ...side(90).toReversed(),
    ];
  });
}

function arc(centre: Position, from: number, to: number, radius: number): Position[] {
  const steps = Math.round((to - from) / FINE);
  return Array.from({ length: steps + 1 }, (_, i) => ahead(centre, from + ((to - from) * i) / steps, radius));
}
