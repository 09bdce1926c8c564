import { BoundsGatherer, type Bounds } from '../geodesy/bounds.js';
import { distance } from '../geodesy/distance.js';
import { ClimbCounter } from './climb.js';
import type { Line } from './line.js';

/** Figures of a line, whose points have no times. Durations, speeds, stops and gaps cannot be known. */
export interface LineSummary {
  readonly points: number;
  readonly parts: number;
  /** Metres along the points, without the gaps between the parts. */
  readonly distance: number;
  /** Metres along the slope; absent before two altitudes. */
  readonly slopeDistance?: number;
  /** Metres; absent before two altitudes. */
  readonly climb?: number;
  readonly descent?: number;
  /** Absent without points. */
  readonly bounds?: Bounds;
}

/** Sums up a line, such as a planned route. */
export function lineSummary({ parts }: Line): LineSummary {
  const bounds = new BoundsGatherer();
  const climb = new ClimbCounter();
  let [points, metres, sloping] = [0, 0, 0];
  for (const part of parts) {
    part.forEach((point, i) => {
      const before = part[i - 1];
      if (before !== undefined) {
        const along = distance(before, point);
        metres += along;
        sloping += Math.hypot(along, (point.altitude ?? NaN) - (before.altitude ?? NaN) || 0);
      }
      bounds.add(point.lat, point.lon);
      climb.add(point);
      points++;
    });
    climb.breakSegment();
  }
  const found = bounds.bounds;
  return {
    points,
    parts: parts.length,
    distance: metres,
    ...(climb.totals.climb !== undefined && { slopeDistance: sloping }),
    ...climb.totals,
    ...(found !== undefined && { bounds: found }),
  };
}
