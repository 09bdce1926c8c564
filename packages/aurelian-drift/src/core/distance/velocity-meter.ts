import { offsetTo } from '../estimate/local-offset.js';
import { FASTEST, MIN_STEP } from '../estimate/fix-order.js';
import type { Velocity } from '../estimate/path-filter.js';
import { FixFilter } from '../estimate/fix-filter.js';
import { ROOM, isCertain } from '../estimate/stillness.js';
import type { Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { RESTING_SPEED, type Meter } from './meter.js';
import type { Tally } from './tally.js';
import { TopSpeed } from './top-speed.js';

/** Minimum length of a move in metres where the velocity is certain. */
const STEP = 3;
/**
 * First move of a segment or after a rest: minimum length, as a multiple of the 95 % accuracy, where the velocity is
 * uncertain.
 */
const FIRST_ROOM = 2;
/** Seconds without a move that are a rest. */
const RESTED = 30;
/** Maximum seconds between fixes for which the path follows from the velocities at both ends. */
const NEAR = 12;
/** Time constant in seconds with which the start of moves follows a user at rest. */
const FOLLOWING = 5;

/** A point of the path: offset in metres from the start of the segment by the velocities, position and time. */
interface Station {
  readonly east: number;
  readonly north: number;
  readonly position: Position;
  /** 95 % radius of the position in metres. */
  readonly accuracy: number;
  readonly time: number;
}

/**
 * Measures fixes that state their speed, on the filtered path.
 *
 * The position of a fix varies within its accuracy, and the filter corrects the estimated position at every fix; the
 * velocity is more stable. So the path is integrated from the velocities of the filter, and counts in moves: of three
 * metres where the velocity is certain, which it is when fixes state their speed; otherwise when the mean of the
 * positions of the last ten seconds is farther from the last counted position than 1.3 times the accuracy, or twice
 * that after a rest. Nothing counts at rest.
 */
export class VelocityMeter implements Meter {
  readonly #tally: Tally;
  readonly #top: TopSpeed;
  readonly #filter = new FixFilter();
  /** The last counted position. */
  #anchor: Station | undefined;
  #here: Station | undefined;
  #motion: Velocity | undefined;
  /** Time up to which motion or rest is decided. */
  #decided = NaN;
  /** Time at which the user was last near the anchor, where the velocity is uncertain. */
  #near = NaN;
  /** Whether the user rests at the anchor. */
  #settling = false;
  /** Whether a move was counted in this run. */
  #moved = false;

  constructor(tally: Tally) {
    this.#tally = tally;
    this.#top = new TopSpeed(tally);
  }

  add(fix: Fix): void {
    this.#filter.take(fix);
    if (this.#filter.time === fix.time) this.#follow(fix);
    this.#tally.stops.add(this.#filter.rest, fix.time);
  }

  end(): void {
    const held = this.#held();
    const [anchor, here] = [this.#anchor, this.#here];
    if (anchor !== undefined && here !== undefined)
      this.#tally.advance(anchor.time, here.time, held.distance);
    this.#tally.moving += held.moving;
    this.#anchor = this.#here = this.#motion = undefined;
    this.#moved = this.#settling = false;
    this.#filter.breakSegment();
    this.#top.forget();
  }

  provisional(copy: Tally): void {
    const { distance: metres, moving } = this.#held();
    copy.distance += metres;
    copy.moving += moving;
  }

  /** The path from the last counted position to the last fix. */
  #held(): { distance: number; moving: number } {
    const [anchor, here] = [this.#anchor, this.#here];
    const none = { distance: 0, moving: 0 };
    if (!this.#moved || anchor === undefined || here === undefined) return none;
    if (this.#motion !== undefined && isCertain(this.#motion)) {
      const way = Math.hypot(here.east - anchor.east, here.north - anchor.north);
      return this.#filter.rest === undefined ? { distance: way, moving: 0 } : none;
    }
    // The mean lags behind a walker by some seconds.
    const way = distance(anchor.position, here.position);
    const seconds = (here.time - anchor.time) / 1000;
    if (way <= ROOM * this.#filter.accuracy) return none;
    const undecided = Math.max(0, here.time - this.#decided) / 1000;
    return { distance: way, moving: way >= RESTING_SPEED * seconds ? undecided : 0 };
  }

  /** Integrates the velocity of the filtered path. */
  #follow(fix: Fix): void {
    const { position, velocity, accuracy } = this.#filter;
    const from = this.#here;
    const before = this.#motion ?? velocity;
    this.#motion = velocity;
    const seconds = from === undefined ? 0 : (fix.time - from.time) / 1000;
    if (from === undefined || this.#anchor === undefined) {
      this.#anchor = this.#here = { east: 0, north: 0, position, accuracy, time: fix.time };
      this.#decided = fix.time;
      return;
    }
    const step = seconds <= NEAR ? between(before, velocity, seconds) : offsetTo(from.position, position);
    const way = Math.hypot(step.east, step.north);
    const speed = seconds > 0 ? way / seconds : 0;
    const known = way <= FASTEST * Math.max(MIN_STEP, seconds);
    this.#here = {
      east: from.east + (known ? step.east : 0),
      north: from.north + (known ? step.north : 0),
      position,
      accuracy,
      time: fix.time,
    };
    if (isCertain(velocity)) this.#bySpeed(this.#anchor, this.#here, seconds, speed);
    else this.#byPlace(this.#anchor, this.#here, this.#filter.middle ?? position);
  }

  /** Certain velocity: moves are short, and rests are found exactly. */
  #bySpeed(anchor: Station, here: Station, seconds: number, speed: number): void {
    if (this.#filter.rest !== undefined) {
      const share = 1 - Math.exp(-seconds / FOLLOWING);
      const east = anchor.east + (here.east - anchor.east) * share;
      const north = anchor.north + (here.north - anchor.north) * share;
      this.#anchor = { ...here, east, north };
      this.#decide(here.time, here.time);
      return;
    }
    this.#decide(here.time, speed >= RESTING_SPEED ? this.#decided : here.time);
    const way = Math.hypot(here.east - anchor.east, here.north - anchor.north);
    if (way > STEP) this.#count(anchor, here, way);
  }

  /** Uncertain velocity: a move must lead out of the range of the noise. */
  #byPlace(from: Station, here: Station, middle: Position): void {
    const anchor = (this.#anchor = this.#settled(from, here));
    const rested = !this.#moved || here.time - anchor.time > RESTED * 1000;
    const room = Math.max(anchor.accuracy, here.accuracy) * (rested ? FIRST_ROOM : ROOM);
    const way = distance(anchor.position, middle);
    if (!(way > room / 2)) this.#near = here.time;
    if (!(way > room)) return;
    const stayed = rested || way < RESTING_SPEED * ((here.time - anchor.time) / 1000);
    const left = stayed && this.#near > anchor.time ? this.#near : anchor.time;
    this.#decide(here.time, left);
    // The mean lags behind the integrated path.
    const lag = offsetTo(middle, here.position);
    const east = here.east - lag.east;
    const north = here.north - lag.north;
    this.#count(anchor, { ...here, east, north, position: middle }, way);
  }

  /**
   * Start of the next move: its position becomes more exact the longer the user rests there, and when fixes become more
   * accurate.
   */
  #settled(anchor: Station, here: Station): Station {
    const rest = this.#filter.rest?.place;
    const { accuracy } = here;
    if (rest === undefined) {
      this.#settling = false;
      return accuracy < anchor.accuracy / 2 ? { ...anchor, position: here.position, accuracy } : anchor;
    }
    this.#decide(here.time, here.time);
    // The last part of the path to the place of the rest.
    if (!this.#settling && this.#moved)
      this.#tally.advance(anchor.time, here.time, distance(anchor.position, rest));
    this.#settling = true;
    return { ...anchor, position: rest, accuracy };
  }

  /** The user was in motion since a time, and at rest from the last decision until then. */
  #decide(time: number, left: number): void {
    this.#tally.moving += Math.max(0, time - Math.max(left, this.#decided)) / 1000;
    this.#decided = Math.max(this.#decided, time);
  }

  #count(anchor: Station, here: Station, way: number): void {
    this.#moved = true;
    this.#anchor = here;
    this.#tally.advance(anchor.time, here.time, way);
    const elapsed = (here.time - anchor.time) / 1000;
    if (elapsed > 0) this.#top.move(anchor.position, anchor.time, here.position, here.time, way / elapsed);
  }
}

/** Displacement between two velocities some seconds apart. */
function between(before: Velocity, after: Velocity, seconds: number): { east: number; north: number } {
  return {
    east: ((before.east + after.east) / 2) * seconds,
    north: ((before.north + after.north) / 2) * seconds,
  };
}
