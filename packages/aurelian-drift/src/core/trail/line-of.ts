import type { Line } from './line.js';
import type { Trail } from './trail.js';

/** A trail without its times: a line with a part for each segment. */
export function lineOf(trail: Trail): Line {
  return {
    ...(trail.name !== undefined && { name: trail.name }),
    parts: trail.segments.map((segment) =>
      Array.from(trail.fixesOf(segment), ({ lat, lon, altitude }) => ({
        lat,
        lon,
        ...(altitude !== undefined && { altitude }),
      })),
    ),
  };
}
