import { fixOf, type Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { DEGREES, RADIANS, wrapBearing } from '../geodesy/wgs84.js';
import { offsetTo, shifted } from './local-offset.js';
import { firstBelief, predicted, surprise, withPlace, withVelocity, type Belief } from './motion-filter.js';

/** 95 % radius of a circular normal spread in standard deviations along one axis: √(−2 ln 0.05) (Rayleigh distribution). */
const RADIUS = Math.sqrt(-2 * Math.log(0.05));
/** Metres of accuracy taken where none is stated, and the least that is believed: nobody knows where they are to the millimetre. */
const UNSTATED = 20;
const LEAST = 1;
/** Share of a receiver's error that wanders from fix to fix rather than being of each alone, and seconds in which it forgets itself. */
const SHARED = 0.95;
export const MEMORY = 50;
/** Power of white acceleration, m²/s³: of a walker, and what is added for each (m/s)² of speed, since who is fast turns as sharply. */
const ACCELERATION = 0.35;
const ACCELERATION_AT_SPEED = 0.03;
/** m/s: error of a stated velocity along each axis, and of the first one, before anything is known. */
const VELOCITY_ERROR = 0.3;
const FIRST_SPEED = 3;
/** Below this stated speed, in m/s, the course is left over. */
const SLOW = 0.3;
/** Surprise above which a fix is refused: one sound fix in ten thousand (χ² of two degrees of freedom). */
const REFUSED = 18.4;
/** Refused fixes are believed once so many in a row agree with one another for so many seconds: the user has really jumped. */
const WITNESSES = 3;
const WITNESSED = 15;
/** Seconds of silence after which what was believed says nothing any more. */
const FORGOTTEN = 300;

/** A fix made steady. */
export interface Steadied {
  /** Where the user most likely was, with its own 95 % radius, speed and course; everything else as in the raw fix. */
  readonly fix: Fix;
  /** Whether the raw fix was refused: it cannot be where the user was, and moved nothing. */
  readonly refused: boolean;
  /** The path does not join on to the one before: the user has jumped, or was not heard of for five minutes. */
  readonly jump: boolean;
}

/** What is known at a fix: the belief, and the place that its offsets are from. */
export interface Knowledge {
  readonly time: number;
  readonly origin: Position;
  readonly belief: Belief;
  /** What the knowledge before foretold for this time, in that one's origin; absent at a beginning. */
  readonly foretold?: Belief;
}

/**
 * Steadies fixes one by one, live: a Kalman filter for place and velocity that knows that a receiver's error wanders, takes accuracy, speed and
 * course where they are given, and refuses wild fixes. Time between fixes may be anything; the cost of each is the same.
 *
 * The model and its source are in `motion-filter.ts`. Raw fixes stay as they are.
 */
export class Steadier {
  #knowledge: Knowledge | undefined;
  #usual = NaN;
  #doubted: Fix[] = [];

  /** What is known now. */
  get knowledge(): Knowledge | undefined {
    return this.#knowledge;
  }

  /** Takes the next fix. One older than its predecessor is refused. */
  advance(raw: Fix): Steadied {
    const error = this.#errorOf(raw);
    const known = this.#knowledge;
    const seconds = known === undefined ? 0 : (raw.time - known.time) / 1000;
    if (known === undefined || seconds > FORGOTTEN) return this.#begin(raw, known !== undefined);
    if (seconds < 0) return { fix: this.#told(raw, known), refused: true, jump: false };
    const [, , vE, vN] = known.belief.state as unknown as [number, number, number, number];
    const acceleration = ACCELERATION + ACCELERATION_AT_SPEED * (vE * vE + vN * vN);
    const ahead = predicted(known.belief, seconds, acceleration, error.wander, MEMORY);
    const { east, north } = offsetTo(known.origin, raw);
    if (surprise(ahead, east, north, error.white) > REFUSED) {
      this.#doubted.push(raw);
      if (this.#believable()) return this.#begin(raw, true);
      // What was believed goes on by itself; its doubt grows until the fixes are within it again.
      return {
        fix: this.#told(raw, { time: raw.time, origin: known.origin, belief: ahead }),
        refused: true,
        jump: false,
      };
    }
    this.#doubted = [];
    let belief = withPlace(ahead, east, north, error.white);
    const velocity = velocityOf(raw);
    if (velocity !== undefined) belief = withVelocity(belief, velocity.east, velocity.north, VELOCITY_ERROR);
    this.#knowledge = { ...recentred({ time: raw.time, origin: known.origin, belief }), foretold: ahead };
    return { fix: this.#told(raw, this.#knowledge), refused: false, jump: false };
  }

  /** The next fix follows on nothing. */
  breakSegment(): void {
    this.#knowledge = undefined;
    this.#doubted = [];
  }

  #begin(raw: Fix, jump: boolean): Steadied {
    const { wander, white } = this.#errorOf(raw);
    this.#doubted = [];
    let belief = firstBelief(wander, white, FIRST_SPEED);
    const velocity = velocityOf(raw);
    if (velocity !== undefined) belief = withVelocity(belief, velocity.east, velocity.north, VELOCITY_ERROR);
    this.#knowledge = { time: raw.time, origin: { lat: raw.lat, lon: raw.lon }, belief };
    return { fix: this.#told(raw, this.#knowledge), refused: false, jump };
  }

  /** Whether the fixes that were refused agree with one another for long enough. */
  #believable(): boolean {
    const doubted = this.#doubted;
    const last = doubted.at(-1);
    if (last === undefined) return false;
    const from = doubted.findLastIndex((fix, i) => i > 0 && !agree(doubted[i - 1] as Fix, fix));
    if (from > 0) doubted.splice(0, from);
    const [first] = doubted;
    return first !== undefined && doubted.length >= WITNESSES && last.time - first.time >= WITNESSED * 1000;
  }

  /** Standard deviations along an axis of the error that fixes share, and of that of this one alone. */
  #errorOf({ accuracy = UNSTATED }: Fix): { wander: number; white: number } {
    const spread = Math.max(LEAST, accuracy) / RADIUS;
    // A fix much coarser than usual is so by an error of its own.
    if (Number.isNaN(this.#usual) || spread < this.#usual) this.#usual = spread;
    else this.#usual += (spread - this.#usual) * 0.02;
    const wander = Math.sqrt(SHARED) * Math.min(spread, this.#usual);
    return { wander, white: Math.sqrt(spread * spread - wander * wander) };
  }

  #told(raw: Fix, { origin, belief }: Knowledge): Fix {
    return steadyFix(raw, origin, belief);
  }
}

/** The fix that a belief amounts to, with what else the raw one says. */
export function steadyFix(raw: Fix, origin: Position, { state, covariance }: Belief): Fix {
  const [east, north, vE, vN] = state as unknown as [number, number, number, number];
  const speed = Math.hypot(vE, vN);
  const { course: _, ...rest } = raw;
  return fixOf({
    ...rest,
    ...shifted(origin, { east, north }),
    accuracy: RADIUS * Math.sqrt(covariance[0] as number),
    speed,
    ...(speed >= SLOW && { course: wrapBearing(Math.atan2(vE, vN) * DEGREES) }),
  });
}

function velocityOf({ speed, course }: Fix): { east: number; north: number } | undefined {
  if (speed === undefined) return undefined;
  if (speed < SLOW) return { east: 0, north: 0 };
  if (course === undefined) return undefined;
  return { east: speed * Math.sin(course * RADIANS), north: speed * Math.cos(course * RADIANS) };
}

/** Whether two fixes in a row can both be true: not faster apart than anything moves on land or water, their radii granted. */
function agree(a: Fix, b: Fix): boolean {
  const { east, north } = offsetTo(a, b);
  const seconds = Math.max(1, (b.time - a.time) / 1000);
  return Math.hypot(east, north) <= 70 * seconds + (a.accuracy ?? UNSTATED) + (b.accuracy ?? UNSTATED);
}

/** The same knowledge with its origin at the place itself, so that offsets stay small wherever the path leads. */
function recentred({ time, origin, belief }: Knowledge): Knowledge {
  const [east, north] = belief.state as unknown as [number, number];
  const state = Float64Array.from(belief.state);
  state[0] = state[1] = 0;
  return { time, origin: shifted(origin, { east, north }), belief: { state, covariance: belief.covariance } };
}
