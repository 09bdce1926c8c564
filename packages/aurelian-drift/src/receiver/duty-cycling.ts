import { callable, checkOptions, numberFrom } from '../core/check/options.js';
import { pauseFor, type Pause } from '../core/estimate/sampling-plan.js';
import type { FixFilter } from '../core/estimate/fix-filter.js';
import type { Fix } from '../core/fix/fix.js';
import type { Position } from '../core/geodesy/position.js';

/**
 * When the receiver is left off: `dutyCycling()` makes one, for any number of follows. Its options stay as they were given.
 */
export interface DutyCycling {
  readonly options: DutyCyclingOptions;
}

/** What a `Thrift` is to the receiver. */
export interface Planner extends DutyCycling {
  /** For one follow. */
  planFor(sampling: SamplingOptions, filter: FixFilter): DutyCyclePlan;
}

interface SamplingOptions {
  /** Seconds, metres, and metres of accuracy that the follow asks for. */
  readonly every?: number | undefined;
  readonly beyond?: number | undefined;
  readonly accuracy?: number | undefined;
}

/** Options of `dutyCycling`. */
export interface DutyCyclingOptions {
  /**
   * Metres from a position to the nearest edge whose crossing must not be missed: `(at) => watch.nearestEdge(at)` for a
   * `FenceWatch`. Near an edge fixes pass more often than `every` and `beyond` say. Default: there is none.
   */
  readonly nearestEdge?: (at: Position) => number;
  /** Seconds by which a crossing may be noticed late, 5 to 3600. Default 15. */
  readonly lateness?: number;
  /**
   * m/s that the user is not faster than when setting off, 0.1 to 100: what the lateness holds for. Default 3, a
   * runner.
   */
  readonly topSpeed?: number;
  /** Seconds that the receiver is left off at the most, 5 to 3600. Default 120. */
  readonly longest?: number;
  /** Charge of the battery, 0…1, `undefined` when it is not known. Below 0.2 pauses are twice as long. */
  readonly battery?: () => number | undefined;
}

/**
 * Leaves the receiver off while nothing can happen that a fix is needed for: `receiver.follow({ dutyCycling: dutyCycling() })`.
 *
 * @throws {InputError} for a misspelt option or a value out of range.
 */
export function dutyCycling(options: DutyCyclingOptions = {}): DutyCycling {
  checkOptions('thrift', options, {
    nearestEdge: callable,
    lateness: numberFrom(5, 3600, 'seconds'),
    topSpeed: numberFrom(0.1, 100, 'm/s'),
    longest: numberFrom(5, 3600, 'seconds'),
    battery: callable,
  });
  const planner: Planner = {
    options: Object.freeze({ ...options }),
    planFor: (sampling, filter) => new DutyCyclePlan(options, sampling, filter),
  };
  return planner;
}

/** Seconds from switching on to a fix, before it was measured, and the share by which one measurement changes that. */
const WARM_UP = 3;
const LEARNING = 0.3;
/** So many times coarser than usual is not settled yet after switching on. */
const COARSE = 1.5;
/** Share by which a coarser fix changes what is usual. */
const SETTLING = 0.02;
/** Seconds after switching on in which a better fix is waited for. */
const PATIENCE = 10;

/** Decides after each fix how long the receiver may be left off. */
export class DutyCyclePlan {
  readonly #options: DutyCyclingOptions;
  readonly #sampling: {
    readonly every: number;
    readonly beyond: number;
    readonly accuracy: number | undefined;
  };
  readonly #filter: FixFilter;
  #warmUp = WARM_UP;
  /** When the receiver was switched on last, milliseconds; NaN once it has given a good fix. */
  #on = NaN;
  #first = false;
  #best = Infinity;
  /** Metres of accuracy that fixes usually have. */
  #usual = Infinity;

  constructor(options: DutyCyclingOptions, sampling: SamplingOptions, filter: FixFilter) {
    this.#options = options;
    const { every = 0, beyond = 0, accuracy } = sampling;
    this.#sampling = { every, beyond, accuracy };
    this.#filter = filter;
  }

  /** Whether near an edge more fixes are needed than pass by interval and distance. */
  get guardsEdges(): boolean {
    return this.#options.nearestEdge !== undefined;
  }

  /** The receiver was switched on. @param now milliseconds since 1970 UTC. */
  switchedOn(now: number): void {
    this.#on = now;
    this.#first = true;
    this.#best = Infinity;
  }

  /** How long it may be left off after a sound fix, which `steadier` has had; `undefined`: not at all. */
  after(fix: Fix, now: number): Pause | undefined {
    if (this.#first) {
      this.#warmUp += ((now - this.#on) / 1000 - this.#warmUp) * LEARNING;
      this.#first = false;
    }
    if (this.#improves(fix, now)) return undefined;
    const { position, velocity, accuracy, rest } = this.#filter;
    const { nearestEdge, lateness = 15, topSpeed = 3, longest = 120, battery } = this.#options;
    const edge = nearestEdge?.(position);
    const charge = battery?.();
    const pause = pauseFor(
      {
        rested: rest === undefined ? 0 : (fix.time - rest.since) / 1000,
        speed: Math.hypot(velocity.east, velocity.north),
        accuracy: Math.max(accuracy, fix.accuracy ?? 0),
        ...(edge !== undefined && { edge }),
        ...(charge !== undefined && { battery: charge }),
      },
      { ...this.#sampling, lateness, topSpeed, longest, warmUp: this.#warmUp },
    );
    return pause.seconds > 0 ? pause : undefined;
  }

  /** Whether a better fix can be had by waiting a little: the first ones after switching on are often coarse. */
  #improves({ accuracy }: Fix, now: number): boolean {
    if (accuracy === undefined) return false;
    const usual = this.#usual;
    this.#usual = accuracy < usual ? accuracy : usual + (accuracy - usual) * SETTLING;
    if (now - this.#on > PATIENCE * 1000) return false;
    const will = this.#sampling.accuracy ?? COARSE * usual;
    const better = accuracy < this.#best;
    this.#best = Math.min(this.#best, accuracy);
    return accuracy > will && (better || accuracy > this.#best * COARSE);
  }
}
