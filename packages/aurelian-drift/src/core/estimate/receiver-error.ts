import { numberOrNull } from '../check/number.js';
import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import { usualAccuracy } from './usual-accuracy.js';

/** Accuracy in metres where none is stated, and the smallest that is believed. */
export const UNSTATED = 20;
const MIN = 1;
/** Share of white noise in the variance of a receiver: minimum and maximum. */
const OWN = 0.05;
const MAX = 4;
/** Share of white noise that is ordinary; growth of the doubt above it, and its maximum. */
const ORDINARY = 0.15;
const DOUBT = 3.6;
const DOUBT_MAX = 2;
/** Minimum variance of a stated velocity along each axis, m²/s²: of 0.15 m/s. */
const VELOCITY_ERROR = 0.15 ** 2;
/** Weight of one fix in the error model, and the maximum of its squared normalised error: outliers count no more. */
const LEARNING = 0.03;
const TELLING = 4;

/**
 * Model of a receiver's error: from its stated accuracy, and from the differences between fixes and their predictions.
 * Differences beyond the correlated error are white noise.
 */
export class ReceiverError {
  /** Variances along an axis, m²: of the correlated error, and of the white noise. */
  wander = 0;
  white = 0;
  /** Variance of a stated velocity along an axis, m²/s². */
  velocity = VELOCITY_ERROR;
  /** Usual standard deviation along an axis. */
  #usual = NaN;
  /** Variance along an axis of the stated accuracy. */
  #spread = 0;
  #own = OWN;

  /** State of the model; JSON has null for NaN. */
  get state(): readonly [usual: number | null, own: number, velocity: number] {
    return [numberOrNull(this.#usual), this.#own, this.velocity];
  }
  set state([usual, own, velocity]) {
    this.#usual = usual ?? NaN;
    this.#own = own;
    this.velocity = velocity;
  }

  /** Usual 95 % radius in metres. */
  get usual(): number {
    return this.#usual * RADIUS_IN_DEVIATIONS;
  }

  /**
   * Factor by which the radius of an estimate is larger than its variance says: fixes that jump about by more than they
   * state have other errors than those of the model, such as echoes, which no filter can weigh.
   */
  get doubt(): number {
    const jumping = Math.min(DOUBT_MAX, Math.sqrt(1 + DOUBT * Math.max(0, this.#own - ORDINARY)));
    // White noise beyond the stated accuracy is in the variance already.
    return Math.max(1, jumping / Math.sqrt(Math.max(1, this.#own / 2)));
  }

  /** Sets the error of the next fix. */
  weigh({ accuracy = UNSTATED }: Fix): void {
    const spread = Math.max(MIN, accuracy) / RADIUS_IN_DEVIATIONS;
    // A fix that is much coarser than usual has more white noise.
    this.#usual = usualAccuracy(this.#usual, spread);
    const min = Math.min(spread, this.#usual);
    this.#spread = spread * spread;
    this.wander = Math.max(OWN, 1 - this.#own) * min * min;
    this.white = Math.max(this.#spread - this.wander, this.#own * this.#spread);
  }

  /**
   * Learns from the difference of a fix. Both are variances along an axis: as measured, and as expected with white
   * noise.
   */
  learnPlace(seen: number, expected: number): void {
    const own = Math.min(seen, TELLING * expected) - expected + this.white;
    this.#own += (own / this.#spread - this.#own) * LEARNING;
    this.#own = Math.max(OWN, Math.min(MAX, this.#own));
  }

  /**
   * Learns from the difference of a stated velocity: variances along an axis, as measured, and as expected without
   * white noise.
   */
  learnVelocity(seen: number, expected: number): void {
    const known = this.velocity;
    const own = Math.min(seen, TELLING * (expected + known)) - expected;
    this.velocity = Math.max(VELOCITY_ERROR, known + (own - known) * LEARNING);
  }
}
