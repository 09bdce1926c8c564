import { extrasAmong, type Extras } from '../trail/extras.js';
import type { Line, LinePoint } from '../trail/line.js';

/** The points of a line with their additional data, from a list parallel to the coordinates. */
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

/** The same list for a line that is to be written; `undefined` when there are no additional data. */
export function pointExtrasOf(parts: Line['parts']): (Extras | null)[][] | undefined {
  const any = parts.some((part) => part.some(({ extras }) => extras !== undefined));
  return any ? parts.map((part) => part.map(({ extras }) => extras ?? null)) : undefined;
}

/** A part as a line string, which has at least two positions. */
export function asLineString(part: readonly LinePoint[]): readonly LinePoint[] {
  return part.length === 1 ? [...part, ...part] : part;
}
