import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import type { Velocity } from './path-filter.js';

/**
 * m/s, or share of the speed: a velocity known to this, a standard deviation along an axis, is of use for telling rest
 * from motion.
 */
const CERTAIN = 0.3;
const CERTAIN_AT_SPEED = 0.1;
/** m/s of the velocity of the last seconds: below the first is rest, above the second motion again. */
const RESTING = 0.35;
const LEAVING = 0.5;
/** Seconds over which velocities are taken together, and for which they must be of rest. */
const LATELY = 4;
const RESTED = 3;
/**
 * Seconds over which places are taken together where the velocity is not known so well, and without leaving their room
 * that count as rest.
 */
const MIDDLE = 10;
const STAYED = 30;
/** Seconds a metre of room that a slow walker takes to cross it. */
const CROSSING = 1.6;
/** Metres within which a user may sway and be at rest, and so many times the accuracy. */
const MIN_ROOM = 10;
export const ROOM = 1.3;
/** Rooms by which the middle may lag behind. */
const TETHER = 1.5;

/** A rest. */
export interface Rest {
  /** Milliseconds since 1970 UTC. */
  readonly since: number;
  /** The mean of the steadied places since it was found. */
  readonly place: Position;
}

/** `Math.hypot` takes several times as long, and each fix needs some of these. */
function speedOf(east: number, north: number): number {
  return Math.sqrt(east * east + north * north);
}

/** Whether a velocity is known well enough to go by. */
export function isCertain({ east, north, error }: Velocity): boolean {
  return error <= CERTAIN || error <= CERTAIN_AT_SPEED * speedOf(east, north);
}

/**
 * Whether the user rests, told from the steadied path: within some seconds where fixes state their speed, and otherwise
 * once the middle of the last places has stayed within its accuracy for half a minute. Left as soon as velocity or
 * place say so.
 */
export class Stillness {
  #east = 0;
  #north = 0;
  #time = NaN;
  /**
   * The last step, seconds, and what share of the velocities of late the newest has after it: steps are mostly alike.
   */
  #step = NaN;
  #share = 1;
  /** Since when velocities are of rest. */
  #slowSince: number | undefined;
  #middle: Position | undefined;
  /** Where, and since when, the middle has stayed. */
  #room: { readonly at: Position; readonly since: number } | undefined;
  #rest: Rest | undefined;
  /** How many places the one of the rest is the mean of. */
  #places = 0;

  /** The next fix follows on nothing. */
  forget(): void {
    this.#rest = this.#slowSince = this.#middle = this.#room = undefined;
    this.#time = NaN;
  }

  /** Takes what is known after the next fix. @param accuracy metres within which its place is known. */
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

  /** Since when and where; `undefined` in motion. */
  get rest(): Rest | undefined {
    return this.#rest;
  }

  /**
   * Where the steadied places of the last seconds lie in the middle: it lags behind who moves by no more than a room or
   * two.
   */
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
    // A rest that was known by speed goes on where it is.
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

  /** The mean of the places of the rest, with one more. */
  #settle(place: Position): Position {
    const mean = this.#rest?.place;
    this.#places = mean === undefined ? 1 : this.#places + 1;
    return alongStraight(mean ?? place, place, 1 / this.#places);
  }
}
