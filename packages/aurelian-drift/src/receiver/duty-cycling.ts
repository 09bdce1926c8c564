import { callable, checkOptions, numberFrom } from '../core/check/options.js';
import { pauseFor, type Pause } from '../core/estimate/sampling-plan.js';
import type { FixFilter } from '../core/estimate/fix-filter.js';
import type { Fix } from '../core/fix/fix.js';
import type { Position } from '../core/geodesy/position.js';

/** Duty cycling, made by `dutyCycling()`, for any number of follows. Its options do not change. */
export interface DutyCycling {
  readonly options: DutyCyclingOptions;
}

/** The receiver's view of a `DutyCycling`. */
export interface Planner extends DutyCycling {
  /** Makes the plan of one follow. */
  planFor(sampling: SamplingOptions, filter: FixFilter): DutyCyclePlan;
}

interface SamplingOptions {
  /** Demands of the follow: seconds, metres, and metres of accuracy. */
  readonly every?: number | undefined;
  readonly beyond?: number | undefined;
  readonly accuracy?: number | undefined;
}

/** Options of `dutyCycling`. */
export interface DutyCyclingOptions {
  /**
   * Metres from a position to the nearest edge whose crossing must not be missed: `(at) => watch.nearestEdge(at)` for a
   * `FenceWatch`. Near an edge, more fixes pass than `every` and `beyond` allow. Default: no edges.
   */
  readonly nearestEdge?: (at: Position) => number;
  /** Maximum delay of a crossing in seconds, 5 to 3600. Default 15. */
  readonly lateness?: number;
  /**
   * Maximum speed in m/s of a user who sets off, 0.1 to 100: `lateness` holds up to this speed. Default 3, a runner.
   */
  readonly topSpeed?: number;
  /** Maximum duration of a pause in seconds, 5 to 3600. Default 120. */
  readonly longest?: number;
  /** Charge of the battery, 0…1, or `undefined` when it is unknown. Below 0.2 pauses are twice as long. */
  readonly battery?: () => number | undefined;
}

/**
 * Switches the receiver off while no fix is needed: `receiver.follow({ dutyCycling: dutyCycling() })`.
 *
 * @throws {InputError} for a misspelt option or a value out of range.
 */
export function dutyCycling(options: DutyCyclingOptions = {}): DutyCycling {
  checkOptions('dutyCycling', options, {
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

/** Seconds from switching on to the first fix, until it is measured; weight of one measurement in the mean. */
const WARM_UP = 3;
const LEARNING = 0.3;
/** A fix is still unsettled after switching on when it is this many times coarser than usual. */
const COARSE = 1.5;
/** Weight of a coarser fix in the usual accuracy. */
const SETTLING = 0.02;
/** Seconds after switching on in which a better fix is awaited. */
const PATIENCE = 10;

/** Decides after each fix how long the receiver may be switched off. */
export class DutyCyclePlan {
  readonly #options: DutyCyclingOptions;
  readonly #sampling: {
    readonly every: number;
    readonly beyond: number;
    readonly accuracy: number | undefined;
  };
  readonly #filter: FixFilter;
  #warmUp = WARM_UP;
  /** When the receiver was last switched on, milliseconds since 1970 UTC; NaN after its first good fix. */
  #on = NaN;
  #first = false;
  #best = Infinity;
  /** Usual accuracy of fixes, metres. */
  #usual = Infinity;

  constructor(options: DutyCyclingOptions, sampling: SamplingOptions, filter: FixFilter) {
    this.#options = options;
    const { every = 0, beyond = 0, accuracy } = sampling;
    this.#sampling = { every, beyond, accuracy };
    this.#filter = filter;
  }

  /** Whether fixes between those that `every` and `beyond` allow are needed near edges. */
  get guardsEdges(): boolean {
    return this.#options.nearestEdge !== undefined;
  }

  /** Tells the plan that the receiver was switched on. @param now milliseconds since 1970 UTC. */
  switchedOn(now: number): void {
    this.#on = now;
    this.#first = true;
    this.#best = Infinity;
  }

  /** The pause after an accepted fix that the filter has taken; `undefined` for none. */
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

  /** Whether waiting a little is likely to give a better fix: the first fixes after switching on are often coarse. */
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
