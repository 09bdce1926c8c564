import { extrasAmong } from '../trail/extras.js';
import type { LinePoint } from '../trail/line.js';

/** The points of a line with what others wrote beside each, in a list parallel to the coordinates. */
export function withPointExtras(
  parts: readonly (readonly LinePoint[])[],
  points: unknown,
): readonly (readonly LinePoint[])[] {
  if (!Array.isArray(points)) return parts;
  return parts.map((part, p) => {
    const run: unknown = points[p];
    return !Array.isArray(run)
      ? part
      : part.map((point, i) => {
          const beside: unknown = run[i];
          return typeof beside === 'object' && beside !== null
            ? { ...point, ...extrasAmong(beside as Record<string, unknown>) }
            : point;
        });
  });
}
