import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { DEGREES, RADIANS, wrapBearing } from '../geodesy/wgs84.js';
import { offsetTo, shifted } from './local-offset.js';
import {
  PLACE,
  PP,
  VELOCITY,
  beginWith,
  newBelief,
  predictInto,
  surprise,
  takePlace,
  takeVelocity,
  type Belief,
} from './motion-filter.js';

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
const VELOCITY_ERROR = 0.15;
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
  /** Where the user most likely was, with its own 95 % radius, speed and course; everything else as in the raw fix. Made when it is read. */
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
  #time = NaN;
  #origin: Position = { lat: 0, lon: 0 };
  readonly #belief = newBelief();
  /** What the belief before foretold for the last fix. */
  readonly #ahead = newBelief();
  /** Whether the last fix joined on to one before. */
  #joined = false;
  #usual = NaN;
  #wander = 0;
  #white = 0;
  #doubted: Fix[] = [];

  /** What is known now; `undefined` before the first fix. */
  get knowledge(): Knowledge | undefined {
    if (Number.isNaN(this.#time)) return undefined;
    return {
      time: this.#time,
      origin: this.#origin,
      belief: this.#belief.slice(),
      ...(this.#joined && { foretold: this.#ahead.slice() }),
    };
  }

  /** Takes the next fix. One older than its predecessor is refused. */
  advance(raw: Fix): Steadied {
    this.#weigh(raw);
    const begun = !Number.isNaN(this.#time);
    const seconds = begun ? (raw.time - this.#time) / 1000 : 0;
    if (!begun || seconds > FORGOTTEN) return this.#begin(raw, begun);
    const belief = this.#belief;
    if (seconds < 0) return new SteadyReading(raw, this.#origin, belief, true, false);
    const vE = belief[VELOCITY] as number;
    const vN = belief[VELOCITY + 1] as number;
    const acceleration = ACCELERATION + ACCELERATION_AT_SPEED * (vE * vE + vN * vN);
    const { east, north } = offsetTo(this.#origin, raw);
    const ahead = this.#ahead;
    predictInto(ahead, belief, seconds, acceleration, this.#wander, MEMORY);
    if (surprise(ahead, east, north, this.#white) > REFUSED) {
      this.#doubted.push(raw);
      if (this.#believable()) return this.#begin(raw, true);
      // What was believed goes on by itself; its doubt grows until the fixes are within it again.
      return new SteadyReading(raw, this.#origin, ahead, true, false);
    }
    if (this.#doubted.length > 0) this.#doubted = [];
    belief.set(ahead);
    takePlace(belief, east, north, this.#white);
    this.#takeVelocity(raw);
    this.#recentre(raw.time);
    this.#joined = true;
    return new SteadyReading(raw, this.#origin, belief, false, false);
  }

  /** The next fix follows on nothing. */
  breakSegment(): void {
    this.#time = NaN;
    this.#doubted = [];
  }

  #begin(raw: Fix, jump: boolean): Steadied {
    this.#doubted = [];
    this.#origin = { lat: raw.lat, lon: raw.lon };
    beginWith(this.#belief, this.#wander, this.#white, FIRST_SPEED);
    this.#takeVelocity(raw);
    this.#recentre(raw.time);
    this.#joined = false;
    return new SteadyReading(raw, this.#origin, this.#belief, false, jump);
  }

  #takeVelocity({ speed, course }: Fix): void {
    if (speed === undefined) return;
    // Below a slow walk a course is left over from before.
    if (speed < SLOW) takeVelocity(this.#belief, 0, 0, VELOCITY_ERROR);
    else if (course !== undefined) {
      const radians = course * RADIANS;
      takeVelocity(this.#belief, speed * Math.sin(radians), speed * Math.cos(radians), VELOCITY_ERROR);
    }
  }

  /** Puts the origin at the place itself, so that offsets stay small wherever the path leads. */
  #recentre(time: number): void {
    const belief = this.#belief;
    this.#origin = shifted(this.#origin, {
      east: belief[PLACE] as number,
      north: belief[PLACE + 1] as number,
    });
    belief[PLACE] = belief[PLACE + 1] = 0;
    this.#time = time;
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

  /** Weighs the error of a fix: the part that fixes share, and the part of this one alone, as standard deviations along an axis. */
  #weigh({ accuracy = UNSTATED }: Fix): void {
    const spread = Math.max(LEAST, accuracy) / RADIUS_IN_DEVIATIONS;
    // A fix much coarser than usual is so by an error of its own.
    if (Number.isNaN(this.#usual) || spread < this.#usual) this.#usual = spread;
    else this.#usual += (spread - this.#usual) * 0.02;
    this.#wander = Math.sqrt(SHARED) * Math.min(spread, this.#usual);
    this.#white = Math.sqrt(spread * spread - this.#wander * this.#wander);
  }
}

/** A steadied fix as a few numbers, until somebody wants to read it. */
class SteadyReading implements Steadied {
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

/** Whether two fixes in a row can both be true: not faster apart than anything moves on land or water, their radii granted. */
function agree(a: Fix, b: Fix): boolean {
  const { east, north } = offsetTo(a, b);
  const seconds = Math.max(1, (b.time - a.time) / 1000);
  return Math.hypot(east, north) <= 70 * seconds + (a.accuracy ?? UNSTATED) + (b.accuracy ?? UNSTATED);
}
