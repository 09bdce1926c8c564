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

/** Time constant of the correlated error in seconds. */
export const MEMORY = 50;
/**
 * Power of white acceleration, m²/s³: of a walker, and an addition per (m/s)² of speed, because fast movement turns as
 * sharply.
 */
const ACCELERATION = 0.35;
const ACCELERATION_AT_SPEED = 0.03;
/** Acceleration along each axis of an unpredicted manoeuvre, m/s². */
const MANOEUVRE = 5;
/**
 * Standard deviation of the velocity before the first fix, m/s. A faster start, as in a train, is accepted when more
 * fixes show it.
 */
const FIRST_SPEED = 3;
/** Maximum difference in m/s of the velocities between refused fixes that agree, or from rest. */
const CHANGE = 70;
/**
 * Squared normalised innovation above which a fix is refused: one correct fix in ten thousand (χ² of two degrees of
 * freedom).
 */
const REFUSED = 18.4;
/** Innovation above which a fix gets a lower weight (P. J. Huber's estimator, 1964). */
const DOUBTFUL = 4;
/**
 * Refused fixes are accepted when this many in a row agree with one another for this many seconds: the user has jumped.
 */
const WITNESSES = 3;
const WITNESSED = 15;
/**
 * Ratio of the accuracy of the fixes before to that of a fix, above which the path starts anew with it: a first
 * position from the network says next to nothing beside one of a satellite receiver.
 */
const SHARPER = 3;
/** Smallest accuracy that is believed, metres. */
const FINEST = 1;
/** Seconds of silence after which the estimate is useless. */
const FORGOTTEN = 300;

/** A velocity and its standard deviation, all in m/s. */
export interface Velocity {
  readonly east: number;
  readonly north: number;
  /** Standard deviation along an axis. */
  readonly error: number;
}

/**
 * Outcome of a fix: taken; refused, wholly or except for its stated velocity; or accepted as the start of a new path:
 * after a jump, a long silence, or coarse fixes.
 */
export type Outcome = 'taken' | 'refused' | 'velocity' | 'jump';

/** State of a filter. JSON has null for a time that is NaN. */
export interface PathFilterMemory extends Position {
  readonly time: number | null;
  readonly estimate: readonly number[];
  readonly error: ReceiverError['state'];
  readonly manoeuvred: number | null;
  readonly manoeuvre: readonly number[];
  readonly doubted: readonly Fix[];
}

/** State at a fix: the estimate, and the origin of its offsets. */
export interface FilterState {
  readonly time: number;
  readonly origin: Position;
  readonly estimate: Estimate;
  /** Prediction of the state before for this time, with that state's origin; absent at the start of a path. */
  readonly predicted: Estimate | undefined;
}

/**
 * Filters fixes one by one, live: a Kalman filter for position and velocity with a correlated error, which uses
 * accuracy, speed and course where they are stated, and refuses outliers. The time between fixes may vary; the cost of
 * each is constant.
 *
 * The model and its source are in `motion-filter.ts`.
 */
export class PathFilter {
  #time = NaN;
  #origin: Position = { lat: 0, lon: 0 };
  readonly #estimate = newEstimate();
  /** Prediction of the estimate before for the last fix. */
  readonly #ahead = newEstimate();
  /** Whether the last fix continued a path. */
  #joined = false;
  readonly #error = new ReceiverError();
  /** Whether the last fix stated an unexpected velocity. */
  #manoeuvring = false;
  /**
   * Estimate under the assumption that the last refused fix was a manoeuvre; its time is NaN when that is impossible.
   */
  readonly #manoeuvre = newEstimate();
  #manoeuvred = NaN;
  #doubted: Fix[] = [];

  /** The complete state. */
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

  /** Time of the last fix that was not wholly refused; NaN before the first. */
  get time(): number {
    return this.#time;
  }

  /** Current state. */
  get knowledge(): FilterState {
    return {
      time: this.#time,
      origin: this.#origin,
      estimate: this.#estimate.slice(),
      predicted: this.#joined ? this.#ahead.slice() : undefined,
    };
  }

  /** Estimate at the last fix, as offsets from `position`: after a refused one, its prediction. */
  estimated(outcome: Outcome): Estimate {
    return outcome === 'refused' ? this.#ahead : this.#estimate;
  }

  /** Estimated position at the last fix that was not refused. Undefined content before the first fix. */
  get position(): Position {
    return this.#origin;
  }

  /** Velocity in m/s east and north, and its standard deviation along each axis. */
  get velocity(): Velocity {
    const estimate = this.#estimate;
    return {
      east: estimate[VELOCITY] as number,
      north: estimate[VELOCITY + 1] as number,
      error: Math.sqrt(estimate[VV] as number),
    };
  }

  /** Metres: the 95 % radius that the receiver usually states, or that of the estimate where that is larger. */
  get accuracy(): number {
    return Math.max(this.#error.usual, RADIUS_IN_DEVIATIONS * Math.sqrt(this.#estimate[PP] as number));
  }

  /** Factor by which the 95 % radius of the estimate is larger than its variance says. */
  get doubt(): number {
    return this.#error.doubt;
  }

  /** Takes the next fix. One that is older than the one before is refused. */
  take(raw: Fix): Outcome {
    const error = this.#error;
    const sharper = this.#isSharper(raw);
    error.weigh(raw);
    const begun = !Number.isNaN(this.#time);
    const seconds = begun ? (raw.time - this.#time) / 1000 : 0;
    if (!begun || seconds > FORGOTTEN || (sharper && seconds >= 0)) return this.#begin(raw, begun);
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
      // The estimate continues by itself; its variance grows until it covers the fixes again.
      return 'refused';
    }
    estimate.set(ahead);
    // Lower weight for unexpected fixes: one at the edge would distort the velocity.
    if (off > DOUBTFUL * expected && (velocity !== undefined || this.#doubted.length > 0))
      error.white += off / DOUBTFUL - expected;
    this.#take(estimate, at, velocity);
    return this.#accepted(raw);
  }

  /** Whether a fix is far more accurate than all before it, and than the estimate: those came from the network. */
  #isSharper({ accuracy }: Fix): boolean {
    if (accuracy === undefined || Number.isNaN(this.#time)) return false;
    const known = RADIUS_IN_DEVIATIONS * Math.sqrt(this.#estimate[PP] as number);
    return Math.min(known, this.#error.usual) > SHARPER * Math.max(FINEST, accuracy);
  }

  /** Starts a new segment. */
  breakSegment(): void {
    this.#time = this.#manoeuvred = NaN;
    this.#doubted = [];
  }

  /** @param witness a fix some seconds before, which gives the velocity where none is stated. */
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
   * A position that an echo has displaced does not contradict the velocity, which is measured otherwise: the estimate
   * continues with that.
   */
  #takeVelocityAlone(raw: Fix, velocity: Offset): Outcome {
    this.#estimate.set(this.#ahead);
    this.#takeVelocity(this.#estimate, velocity);
    this.#settle(raw);
    return 'velocity';
  }

  /** Moves the origin to the position, so that offsets stay small along the path. */
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
   * Power of the acceleration since the last fix. An unexpected stated velocity shows a manoeuvre, such as a fast
   * corner; the position is then uncertain too.
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

  /** Tries the assumption that a fix that would be refused is the result of a manoeuvre. */
  #tryManoeuvre(raw: Fix, at: Offset, velocity: Offset | undefined, seconds: number): void {
    const led = this.#leads(this.#manoeuvre, this.#estimate, seconds, manoeuvreIn(seconds), at, velocity);
    this.#manoeuvred = led ? raw.time : NaN;
  }

  /** Whether a second fix confirms the manoeuvre, which is then accepted. */
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

  /** Writes the estimate at a fix some seconds after `from` to `out`; returns whether that is possible. */
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

  /** Counts a refused fix. Returns whether the refused fixes agree with one another for long enough. */
  #doubt(raw: Fix): boolean {
    const doubted = this.#doubted;
    const before = doubted.at(-1);
    if (before !== undefined && !agree(doubted.at(-2), before, raw)) doubted.length = 0;
    doubted.push(raw);
    const { time } = doubted[0] as Fix;
    return doubted.length >= WITNESSES && raw.time - time >= WITNESSED * 1000;
  }
}

/** The velocity that a fix states, m/s along each axis; `undefined` when it states none, or no direction. */
function velocityOf({ speed, course }: Fix): Offset | undefined {
  if (speed === undefined) return undefined;
  // Below a slow walk the course is an old value.
  if (speed < SLOW) return STANDING;
  if (course === undefined) return speed < 2 * SLOW ? STANDING : undefined;
  const radians = course * RADIANS;
  return { east: speed * Math.sin(radians), north: speed * Math.cos(radians) };
}

/** Power of the acceleration of a manoeuvre within a time, m²/s³. */
function manoeuvreIn(seconds: number): number {
  return MANOEUVRE ** 2 * Math.min(1, seconds);
}

const STANDING: Offset = { east: 0, north: 0 };

/**
 * Whether a fix agrees with the one before: it is near, or as far away as that one was from the one before it, within
 * the radii.
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
