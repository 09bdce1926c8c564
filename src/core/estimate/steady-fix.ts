import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { shifted } from './local-offset.js';
import { PLACE, PP, VELOCITY, type Belief } from './motion-filter.js';

/** Below this speed, in m/s, nobody can tell the course. */
export const SLOW = 0.3;

/** A fix made steady. */
export interface Steadied {
  /** Where the user most likely was, with its own 95 % radius, speed and course; everything else as in the raw fix. Made when it is read. */
  readonly fix: Fix;
  /** Whether the raw fix was refused: it cannot be where the user was, and moved nothing. */
  readonly refused: boolean;
  /** The path does not join on to the one before: the user has jumped, or was not heard of for five minutes. */
  readonly jump: boolean;
}

/** A steadied fix as a few numbers, until somebody wants to read it. */
export class SteadyReading implements Steadied {
  readonly refused: boolean;
  readonly jump: boolean;
  readonly #raw: Fix;
  readonly #origin: Position;
  readonly #belief: Float64Array;
  #fix: Fix | undefined;

  constructor(raw: Fix, origin: Position, belief: Belief, refused: boolean, jump: boolean) {
    this.#raw = raw;
    this.#origin = origin;
    // Place, velocity and the variance of the place.
    this.#belief = belief.slice(0, PP + 1);
    this.refused = refused;
    this.jump = jump;
  }

  get fix(): Fix {
    return (this.#fix ??= steadyFix(this.#raw, this.#origin, this.#belief));
  }
}

/** The fix that a belief amounts to, with what else the raw one says. */
export function steadyFix(raw: Fix, origin: Position, belief: Float64Array): Fix {
  const vE = belief[VELOCITY] as number;
  const vN = belief[VELOCITY + 1] as number;
  const speed = Math.hypot(vE, vN);
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
