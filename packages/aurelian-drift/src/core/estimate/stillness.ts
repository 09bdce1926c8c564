import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import type { Velocity } from './path-filter.js';

/**
 * Standard deviation along an axis, in m/s or as a share of the speed, up to which a velocity is used to tell rest from
 * motion.
 */
const CERTAIN = 0.3;
const CERTAIN_AT_SPEED = 0.1;
/** Speed over the last seconds, m/s: below the first is rest, above the second is motion. */
const RESTING = 0.35;
const LEAVING = 0.5;
/** Seconds over which velocities are averaged, and for which they must show rest. */
const LATELY = 4;
const RESTED = 3;
/**
 * Seconds over which positions are averaged where the velocity is uncertain, and for which the mean must stay in one
 * area.
 */
const MIDDLE = 10;
const STAYED = 30;
/** Seconds per metre of the area in which a slow walker would cross it. */
const CROSSING = 1.6;
/** Radius in metres, and as a multiple of the accuracy, within which a user at rest may move. */
const MIN_ROOM = 10;
export const ROOM = 1.3;
/** Maximum lag of the mean, in radii. */
const TETHER = 1.5;

/** A rest: its start and position. */
export interface Rest {
  /** Milliseconds since 1970 UTC. */
  readonly since: number;
  /** Mean of the filtered positions since the rest was found. */
  readonly place: Position;
}

/** `Math.hypot` takes several times as long, and every fix needs some of these. */
function speedOf(east: number, north: number): number {
  return Math.sqrt(east * east + north * north);
}

/** Whether a velocity is certain enough to be used. */
export function isCertain({ east, north, error }: Velocity): boolean {
  return error <= CERTAIN || error <= CERTAIN_AT_SPEED * speedOf(east, north);
}

/**
 * Finds rests in the filtered path: within some seconds where fixes state their speed, otherwise when the mean of the
 * last positions has stayed within its accuracy for half a minute. A rest ends as soon as velocity or position show
 * motion.
 */
export class Stillness {
  #east = 0;
  #north = 0;
  #time = NaN;
  /** The last step in seconds, and the weight of the newest velocity after it: most steps are alike. */
  #step = NaN;
  #share = 1;
  /** Start of the velocities that show rest. */
  #slowSince: number | undefined;
  #middle: Position | undefined;
  /** Position of the mean that has stayed, and its start. */
  #room: { readonly at: Position; readonly since: number } | undefined;
  #rest: Rest | undefined;
  /** Number of positions in the mean of the rest. */
  #places = 0;

  /** Starts a new segment. */
  forget(): void {
    this.#rest = this.#slowSince = this.#middle = this.#room = undefined;
    this.#time = NaN;
  }

  /** Takes the estimate after the next fix. @param accuracy 95 % radius of its position in metres. */
  add(time: number, place: Position, motion: Velocity, accuracy: number): void {
    const step = Number.isNaN(this.#time) ? Infinity : Math.max(0, time - this.#time) / 1000;
    this.#time = time;
    if (step !== this.#step) {
      this.#step = step;
      this.#share = 1 - Math.exp(-step / LATELY);
    }
    const share = this.#share;
    this.#east += (motion.east - this.#east) * share;
    this.#north += (motion.north - this.#north) * share;
    const since = isCertain(motion)
      ? this.#bySpeed(time, place, motion)
      : this.#byPlace(time, step, place, Math.max(MIN_ROOM, ROOM * accuracy));
    this.#rest = since === undefined ? undefined : { since, place: this.#settle(place) };
  }

  /** Start and position of the rest; `undefined` in motion. */
  get rest(): Rest | undefined {
    return this.#rest;
  }

  /** Mean of the filtered positions of the last seconds: it lags behind a moving user by one or two radii at most. */
  get middle(): Position | undefined {
    return this.#middle;
  }

  #bySpeed(time: number, place: Position, { east, north }: Velocity): number | undefined {
    this.#middle = place;
    this.#room = undefined;
    const lately = speedOf(this.#east, this.#north);
    if (lately > (this.#rest === undefined ? RESTING : LEAVING)) {
      this.#slowSince = speedOf(east, north) > RESTING ? undefined : (this.#slowSince ?? time);
      return undefined;
    }
    this.#slowSince ??= time;
    return this.#rest?.since ?? (time - this.#slowSince >= RESTED * 1000 ? this.#slowSince : undefined);
  }

  #byPlace(time: number, step: number, place: Position, room: number): number | undefined {
    this.#slowSince = undefined;
    const middle = this.#follow(place, step, room);
    // A rest that was found by speed continues at its position.
    if (this.#room === undefined && this.#rest !== undefined)
      this.#room = { at: this.#rest.place, since: this.#rest.since };
    const at = this.#room?.at;
    if (at === undefined || distance(at, middle) > room) this.#room = { at: middle, since: time };
    const { since } = this.#room as { since: number };
    return time - since >= Math.max(STAYED, CROSSING * room) * 1000 ? since : undefined;
  }

  #follow(place: Position, step: number, room: number): Position {
    const before = this.#middle ?? place;
    const behind = distance(before, place);
    const share = Math.max(1 - Math.exp(-step / MIDDLE), 1 - (TETHER * room) / behind);
    return (this.#middle = alongStraight(before, place, share));
  }

  /** Mean of the positions of the rest, with one more. */
  #settle(place: Position): Position {
    const mean = this.#rest?.place;
    this.#places = mean === undefined ? 1 : this.#places + 1;
    return alongStraight(mean ?? place, place, 1 / this.#places);
  }
}
