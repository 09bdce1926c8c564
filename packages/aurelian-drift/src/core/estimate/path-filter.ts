import { numberOrNull } from '../check/number.js';
import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { RADIANS } from '../geodesy/wgs84.js';
import { offsetTo, shifted, type Offset } from './local-offset.js';
import {
  PLACE,
  PP,
  VELOCITY,
  VV,
  beginWith,
  newEstimate,
  numbersOf,
  placeSpread,
  predictInto,
  takePlace,
  takeVelocity,
  unexpected,
  type Estimate,
} from './motion-filter.js';
import { FASTEST, MIN_STEP } from './fix-order.js';
import { ReceiverError, UNSTATED } from './receiver-error.js';
import { SLOW } from './estimate-numbers.js';

/** Seconds in which the error that fixes share forgets itself. */
export const MEMORY = 50;
/**
 * Power of white acceleration, m²/s³: of a walker, and what is added for each (m/s)² of speed, since who is fast turns
 * as sharply.
 */
const ACCELERATION = 0.35;
const ACCELERATION_AT_SPEED = 0.03;
/** m/s²: along each axis, of a manoeuvre that nobody foresaw. */
const MANOEUVRE = 5;
/**
 * m/s: what the first velocity may be, before anything is known. Who sits in a train is believed once more fixes say
 * so.
 */
const FIRST_SPEED = 3;
/** m/s by which the way from one refused fix to the next may differ from the way before it, or from none. */
const CHANGE = 70;
/** Surprise above which a fix is refused: one sound fix in ten thousand (χ² of two degrees of freedom). */
const REFUSED = 18.4;
/** Surprise above which it counts less (P. J. Huber's estimator, 1964). */
const DOUBTFUL = 4;
/**
 * Refused fixes are believed once so many in a row agree with one another for so many seconds: the user has really
 * jumped.
 */
const WITNESSES = 3;
const WITNESSED = 15;
/** Seconds of silence after which what was believed says nothing any more. */
const FORGOTTEN = 300;

/** A velocity, and how sure it is, all in m/s. */
export interface Velocity {
  readonly east: number;
  readonly north: number;
  /** Standard deviation along an axis. */
  readonly error: number;
}

/**
 * What became of a fix: taken; refused, place and all, or but for the velocity that it states; or believed, though the
 * path does not join on to it.
 */
export type Outcome = 'taken' | 'refused' | 'velocity' | 'jump';

/** What a filter goes on from. JSON has null for a time that is NaN. */
export interface PathFilterMemory extends Position {
  readonly time: number | null;
  readonly estimate: readonly number[];
  readonly error: ReceiverError['state'];
  readonly manoeuvred: number | null;
  readonly manoeuvre: readonly number[];
  readonly doubted: readonly Fix[];
}

/** What is known at a fix: the belief, and the place that its offsets are from. */
export interface FilterState {
  readonly time: number;
  readonly origin: Position;
  readonly estimate: Estimate;
  /** What the knowledge before foretold for this time, in that one's origin; absent at a beginning. */
  readonly predicted: Estimate | undefined;
}

/**
 * Filters fixes one by one, live: a Kalman filter for place and velocity that knows that a receiver's error wanders,
 * takes accuracy, speed and course where they are given, and refuses wild fixes. Time between fixes may be anything;
 * the cost of each is the same.
 *
 * The model and its source are in `motion-filter.ts`.
 */
export class PathFilter {
  #time = NaN;
  #origin: Position = { lat: 0, lon: 0 };
  readonly #estimate = newEstimate();
  /** What the belief before foretold for the last fix. */
  readonly #ahead = newEstimate();
  /** Whether the last fix joined on to one before. */
  #joined = false;
  readonly #error = new ReceiverError();
  /** Whether the last fix stated a velocity that nobody expected. */
  #manoeuvring = false;
  /**
   * What would have to be believed if the fix that was refused last was a manoeuvre; its time is NaN when it could not
   * be.
   */
  readonly #manoeuvre = newEstimate();
  #manoeuvred = NaN;
  #doubted: Fix[] = [];

  /** All that it goes on from. */
  get state(): PathFilterMemory {
    return {
      time: numberOrNull(this.#time),
      ...this.#origin,
      estimate: numbersOf(this.#estimate),
      error: this.#error.state,
      manoeuvred: numberOrNull(this.#manoeuvred),
      manoeuvre: numbersOf(this.#manoeuvre),
      doubted: [...this.#doubted],
    };
  }
  set state({ time, lat, lon, estimate, error, manoeuvred, manoeuvre, doubted }: PathFilterMemory) {
    this.#time = time ?? NaN;
    this.#origin = { lat, lon };
    this.#estimate.set(estimate);
    this.#error.state = error;
    this.#manoeuvred = manoeuvred ?? NaN;
    this.#manoeuvre.set(manoeuvre);
    this.#doubted = [...doubted];
  }

  /** Time of the last fix that was not refused as a whole; NaN before the first. */
  get time(): number {
    return this.#time;
  }

  /** What is known now. */
  get knowledge(): FilterState {
    return {
      time: this.#time,
      origin: this.#origin,
      estimate: this.#estimate.slice(),
      predicted: this.#joined ? this.#ahead.slice() : undefined,
    };
  }

  /** What is believed at the last fix, as offsets from `place`: after a refused one, what was foretold for it. */
  estimated(outcome: Outcome): Estimate {
    return outcome === 'refused' ? this.#ahead : this.#estimate;
  }

  /** Where the user most likely was at the last fix that was not refused. Means nothing before the first. */
  get position(): Position {
    return this.#origin;
  }

  /** m/s east and north, and the standard deviation of each. */
  get velocity(): Velocity {
    const estimate = this.#estimate;
    return {
      east: estimate[VELOCITY] as number,
      north: estimate[VELOCITY + 1] as number,
      error: Math.sqrt(estimate[VV] as number),
    };
  }

  /** Metres: the 95 % radius that the receiver usually states, or that of the place when that is known less well. */
  get accuracy(): number {
    return Math.max(this.#error.usual, RADIUS_IN_DEVIATIONS * Math.sqrt(this.#estimate[PP] as number));
  }

  /** Takes the next fix. One older than its predecessor is refused. */
  take(raw: Fix): Outcome {
    const error = this.#error;
    error.weigh(raw);
    const begun = !Number.isNaN(this.#time);
    const seconds = begun ? (raw.time - this.#time) / 1000 : 0;
    if (!begun || seconds > FORGOTTEN) return this.#begin(raw, begun);
    const estimate = this.#estimate;
    if (seconds < 0) {
      this.#ahead.set(estimate);
      return 'refused';
    }
    const at = offsetTo(this.#origin, raw);
    const ahead = this.#ahead;
    const velocity = velocityOf(raw);
    predictInto(ahead, estimate, seconds, this.#acceleration(velocity, seconds), error.wander, MEMORY);
    const off = unexpected(ahead, at.east, at.north);
    const expected = placeSpread(ahead, error.white);
    error.learnPlace(off / 2, expected);
    if (off > REFUSED * expected) {
      if (this.#followsManoeuvre(raw, at, velocity)) return this.#accepted(raw);
      if (this.#doubt(raw)) return this.#begin(raw, true, this.#doubted[0]);
      if (velocity !== undefined && !this.#manoeuvring) return this.#takeVelocityAlone(raw, velocity);
      if (this.#doubted.length === 1) this.#tryManoeuvre(raw, at, velocity, seconds);
      // What was believed goes on by itself; its doubt grows until the fixes are within it again.
      return 'refused';
    }
    estimate.set(ahead);
    // Less sure of itself the less it was expected: one at the edge of what is believed would throw the velocity off.
    if (off > DOUBTFUL * expected && (velocity !== undefined || this.#doubted.length > 0))
      error.white += off / DOUBTFUL - expected;
    this.#take(estimate, at, velocity);
    return this.#accepted(raw);
  }

  /** The next fix follows on nothing. */
  breakSegment(): void {
    this.#time = this.#manoeuvred = NaN;
    this.#doubted = [];
  }

  /** @param witness a fix some seconds before, from which the velocity is told where it is not stated. */
  #begin(raw: Fix, jump: boolean, witness = raw): Outcome {
    this.#origin = { lat: raw.lat, lon: raw.lon };
    beginWith(this.#estimate, this.#error.wander, this.#error.white, FIRST_SPEED);
    const way = offsetTo(witness, raw);
    const seconds = (raw.time - witness.time) / 1000 || 1;
    this.#estimate[VELOCITY] = way.east / seconds;
    this.#estimate[VELOCITY + 1] = way.north / seconds;
    this.#takeVelocity(this.#estimate, velocityOf(raw));
    this.#accepted(raw);
    this.#joined = false;
    return jump ? 'jump' : 'taken';
  }

  #take(estimate: Estimate, at: Offset, velocity: Offset | undefined): void {
    takePlace(estimate, at.east, at.north, this.#error.white);
    this.#takeVelocity(estimate, velocity);
  }

  #takeVelocity(estimate: Estimate, velocity: Offset | undefined): void {
    if (velocity !== undefined) takeVelocity(estimate, velocity.east, velocity.north, this.#error.velocity);
  }

  #accepted(raw: Fix): Outcome {
    if (this.#doubted.length > 0) this.#doubted = [];
    this.#settle(raw);
    return 'taken';
  }

  /**
   * A place thrown off by an echo says nothing against the velocity, which is measured otherwise: what is believed goes
   * on by that.
   */
  #takeVelocityAlone(raw: Fix, velocity: Offset): Outcome {
    this.#estimate.set(this.#ahead);
    this.#takeVelocity(this.#estimate, velocity);
    this.#settle(raw);
    return 'velocity';
  }

  /** Puts the origin at the place itself, so that offsets stay small wherever the path leads. */
  #settle(raw: Fix): void {
    this.#manoeuvred = NaN;
    const estimate = this.#estimate;
    this.#origin = shifted(this.#origin, {
      east: estimate[PLACE] as number,
      north: estimate[PLACE + 1] as number,
    });
    estimate[PLACE] = estimate[PLACE + 1] = 0;
    this.#time = raw.time;
    this.#joined = true;
  }

  /**
   * Power of the acceleration since the last fix. A stated velocity that nobody expected tells of a manoeuvre: a
   * corner, taken faster than most; the place then need not be where it would have been without.
   */
  #acceleration(velocity: Offset | undefined, seconds: number): number {
    const vE = this.#estimate[VELOCITY] as number;
    const vN = this.#estimate[VELOCITY + 1] as number;
    const usual = ACCELERATION + ACCELERATION_AT_SPEED * (vE * vE + vN * vN);
    this.#manoeuvring = false;
    if (velocity === undefined || seconds === 0) return usual;
    const change = ((velocity.east - vE) ** 2 + (velocity.north - vN) ** 2) / 2;
    const known = (this.#estimate[VV] as number) + usual * seconds;
    const error = this.#error;
    error.learnVelocity(change, known);
    const own = error.velocity;
    this.#manoeuvring = 2 * change > REFUSED * (known + own);
    return this.#manoeuvring ? Math.max(usual, (change - own) / seconds) : usual;
  }

  /** Believes for a try that a fix that would be refused is where a manoeuvre has led. */
  #tryManoeuvre(raw: Fix, at: Offset, velocity: Offset | undefined, seconds: number): void {
    const led = this.#leads(this.#manoeuvre, this.#estimate, seconds, manoeuvreIn(seconds), at, velocity);
    this.#manoeuvred = led ? raw.time : NaN;
  }

  /** Whether a second fix is where that manoeuvre leads, which then is what is believed. */
  #followsManoeuvre(raw: Fix, at: Offset, velocity: Offset | undefined): boolean {
    const seconds = (raw.time - this.#manoeuvred) / 1000;
    this.#manoeuvred = NaN;
    const estimate = newEstimate();
    if (!(seconds >= 0 && this.#leads(estimate, this.#manoeuvre, seconds, ACCELERATION, at, velocity)))
      return false;
    const since = (raw.time - this.#time) / 1000;
    predictInto(this.#ahead, this.#estimate, since, manoeuvreIn(since), this.#error.wander, MEMORY);
    this.#estimate.set(estimate);
    return true;
  }

  /** Puts into `out` what is believed of a fix some seconds after `from`; whether it can be. */
  #leads(
    out: Estimate,
    from: Estimate,
    seconds: number,
    power: number,
    at: Offset,
    velocity: Offset | undefined,
  ): boolean {
    const { white, wander } = this.#error;
    predictInto(out, from, seconds, power, wander, MEMORY);
    if (unexpected(out, at.east, at.north) > REFUSED * placeSpread(out, white)) return false;
    this.#take(out, at, velocity);
    return true;
  }

  /** Doubts a fix. Whether those that were doubted agree with one another for long enough. */
  #doubt(raw: Fix): boolean {
    const doubted = this.#doubted;
    const before = doubted.at(-1);
    if (before !== undefined && !agree(doubted.at(-2), before, raw)) doubted.length = 0;
    doubted.push(raw);
    const { time } = doubted[0] as Fix;
    return doubted.length >= WITNESSES && raw.time - time >= WITNESSED * 1000;
  }
}

/** The velocity that a fix states, m/s along each axis; `undefined` when it does not, or not in which direction. */
function velocityOf({ speed, course }: Fix): Offset | undefined {
  if (speed === undefined) return undefined;
  // Below a slow walk a course is left over from before.
  if (speed < SLOW) return STANDING;
  if (course === undefined) return speed < 2 * SLOW ? STANDING : undefined;
  const radians = course * RADIANS;
  return { east: speed * Math.sin(radians), north: speed * Math.cos(radians) };
}

/** Power of the acceleration of a manoeuvre within so many seconds, m²/s³. */
function manoeuvreIn(seconds: number): number {
  return MANOEUVRE ** 2 * Math.min(1, seconds);
}

const STANDING: Offset = { east: 0, north: 0 };

/**
 * Whether a fix can be true beside the one before: it is near that, or as far on as that one was from the one before
 * it; radii granted.
 */
function agree(earlier: Fix | undefined, before: Fix, fix: Fix): boolean {
  const { east, north } = offsetTo(before, fix);
  const seconds = Math.max(MIN_STEP, (fix.time - before.time) / 1000);
  const known = earlier === undefined ? FASTEST : CHANGE;
  const room = known * seconds + (before.accuracy ?? UNSTATED) + (fix.accuracy ?? UNSTATED);
  const way = offsetTo(earlier ?? before, before);
  const share = seconds / Math.max(MIN_STEP, (before.time - (earlier ?? before).time) / 1000);
  return (
    Math.hypot(east, north) <= room || Math.hypot(east - way.east * share, north - way.north * share) <= room
  );
}
