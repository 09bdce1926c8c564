import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { shifted } from './local-offset.js';
import { PLACE, PP, VELOCITY } from './motion-filter.js';

/** Below this speed, in m/s, nobody can tell the course. */
export const SLOW = 0.3;

/** The fix that a belief amounts to, with what else the raw one says. At rest there is no speed and no course. */
export function steadyFix(raw: Fix, origin: Position, belief: Float64Array, resting: boolean): Fix {
  const vE = belief[VELOCITY] as number;
  const vN = belief[VELOCITY + 1] as number;
  const speed = resting ? 0 : Math.hypot(vE, vN);
  const { course: _, ...rest } = raw;
  const { lat, lon } = shifted(origin, {
    east: belief[PLACE] as number,
    north: belief[PLACE + 1] as number,
  });
  const accuracy = RADIUS_IN_DEVIATIONS * Math.sqrt(belief[PP] as number);
  // Numbers of the filter's own need no checks at the border.
  return Object.freeze(
    speed < SLOW
      ? { ...rest, lat, lon, accuracy, speed }
      : { ...rest, lat, lon, accuracy, speed, course: wrapBearing(Math.atan2(vE, vN) * DEGREES) },
  );
}
