import { ClockOrder } from '../estimate/clock-order.js';
import { wayAt, type GivenWay, type WayOfMoving } from '../estimate/way-of-moving.js';
import type { Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';
import { Silences, isSpared } from './silence.js';
import { FixMeter } from './fix-meter.js';
import type { Meter } from './meter.js';
import { PositionMeter } from './position-meter.js';
import { Tally, type Advance } from './tally.js';
import { VelocityMeter } from './velocity-meter.js';

/** Fixes in a row that state their speed, or do not, after which the run counts as of that kind. */
const CHANGED = 5;

/** Seconds in motion, and share of all the time, up to which a user stands. */
const LITTLE = 10;
const LITTLE_SHARE = 0.03;

/** What a distance was measured on. */
export type MeasuredPath = 'fixes' | 'filtered' | 'smoothed';

/**
 * How a fix continues the path: after a `gap`, a silence in which the path is unknown; after the clock was put right
 * (`clock-set`), so that the time before it is unknown too; or not at all, because it is `older` than the one before.
 */
export type Continuation = 'continues' | 'gap' | 'clock-set' | 'older';

/**
 * Why a distance is the plain sum from fix to fix: there are too few fixes to tell movement from noise, or they are too
 * far apart in time.
 */
export type Unsmoothed = 'few-fixes' | 'sparse';

/** How distances are measured. */
export interface MeasureOptions {
  /** `fixes` measures from fix to fix, with all the noise. Default: the best path that the fixes allow. */
  readonly path?: 'fixes' | undefined;
  /** Way of moving of the user. Default: inferred from the fixes. */
  readonly moving?: GivenWay | undefined;
}

/**
 * Distance, time in motion, top speed and stops that noise does not inflate.
 *
 * Fixes that state their speed are measured on the filtered path, others on the smoothed one; and from fix to fix where
 * there are too few.
 */
export class DistanceCounter {
  rawDistance = 0;
  /** What is final. */
  readonly tally: Tally;
  readonly #silences = new Silences();
  readonly #clock = new ClockOrder();
  readonly #given: GivenWay | undefined;
  readonly #positions: PositionMeter;
  readonly #velocities: VelocityMeter;
  readonly #plain: FixMeter | undefined;
  #meter: Meter | undefined;
  #last: Fix | undefined;
  /** Fixes in a row that are not of the kind of the run. */
  #others = 0;
  #measured: MeasuredPath = 'fixes';
  #unsmoothed: Unsmoothed | undefined;
  /** The tally with what is not final yet. */
  #now: Tally | undefined;

  /** @param onAdvance called after each growth of the final distance. */
  constructor({ path, moving }: MeasureOptions = {}, onAdvance?: Advance) {
    this.tally = new Tally(onAdvance);
    this.#given = moving;
    this.#positions = new PositionMeter(this.tally, moving);
    this.#velocities = new VelocityMeter(this.tally);
    if (path === 'fixes') this.#plain = new FixMeter(this.tally);
  }

  /** The best path that was measured on. */
  get path(): MeasuredPath {
    return better(this.#measured, this.#pathNow);
  }

  /** Why the distance is the sum from fix to fix; `undefined` where it is not, or was asked for. */
  get unsmoothed(): Unsmoothed | undefined {
    if (this.path !== 'fixes' || this.#plain !== undefined) return undefined;
    if (this.#meter !== this.#positions) return this.#unsmoothed;
    return this.#positions.decision === 'sparse' ? 'sparse' : 'few-fixes';
  }

  /** The likely way of moving in some seconds; `undefined` while it is not known. */
  wayOfMoving(duration: number): WayOfMoving | undefined {
    const { distance: metres, moving } = this.now;
    if (this.path === 'fixes') return undefined;
    if (moving < Math.max(LITTLE, LITTLE_SHARE * duration)) return 'standing';
    return this.#given ?? wayAt(metres / moving);
  }

  get #pathNow(): MeasuredPath {
    if (this.#meter === this.#velocities) return 'filtered';
    return this.#meter === this.#positions ? this.#positions.path : 'fixes';
  }

  /** Time from which figures may still change, milliseconds since 1970 UTC; `undefined` when all are final. */
  get provisionalSince(): number | undefined {
    return this.#meter?.finalUntil;
  }

  /** The sums so far, with what is not final yet. */
  get now(): Tally {
    if (this.#now !== undefined) return this.#now;
    const copy = this.tally.fork();
    this.#meter?.provisional(copy);
    return (this.#now = copy);
  }

  /** Takes the next fix; an older one is ignored. */
  add(fix: Fix): Continuation {
    const order = this.#clock.judge(fix);
    if (order === 'older') return 'older';
    if (order === 'set') this.breakSegment();
    this.#now = undefined;
    const silent = this.#silences.received(fix.time, isSpared(fix));
    if (silent) this.#endRun();
    const last = this.#last;
    this.#last = fix;
    if (last !== undefined) this.rawDistance += distance(last, fix);
    this.#choose(fix, last).add(fix);
    return order === 'set' ? 'clock-set' : silent ? 'gap' : 'continues';
  }

  breakSegment(): void {
    this.#now = undefined;
    this.#clock.forget();
    this.#silences.breakSegment();
    this.#endRun();
  }

  /** The meter for the next fix; a new one starts with the fix before. */
  #choose(fix: Fix, last: Fix | undefined): Meter {
    if (this.#plain !== undefined) return (this.#meter = this.#plain);
    const kind = fix.speed === undefined ? this.#positions : this.#velocities;
    if (this.#meter === undefined) return (this.#meter = kind);
    this.#others = kind === this.#meter ? 0 : this.#others + 1;
    if (this.#others < CHANGED) return this.#meter;
    this.#endMeter();
    this.#others = 0;
    if (last !== undefined) kind.add(last);
    return (this.#meter = kind);
  }

  #endRun(): void {
    this.#endMeter();
    this.#last = undefined;
    this.#others = 0;
  }

  #endMeter(): void {
    this.#unsmoothed = this.unsmoothed;
    this.#measured = this.path;
    this.#meter?.end();
    this.tally.stops.breakSegment();
    this.#meter = undefined;
  }
}

const ORDER: readonly MeasuredPath[] = ['fixes', 'filtered', 'smoothed'];

function better(one: MeasuredPath, other: MeasuredPath): MeasuredPath {
  return ORDER.indexOf(one) > ORDER.indexOf(other) ? one : other;
}
