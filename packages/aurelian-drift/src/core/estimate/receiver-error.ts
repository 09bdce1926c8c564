import { numberOrNull } from '../check/number.js';
import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';

/**
 * Metres of accuracy taken where none is stated, and the least that is believed: nobody knows where they are to the
 * millimetre.
 */
export const UNSTATED = 20;
const MIN = 1;
/**
 * Share of a receiver's variance that is of each fix alone rather than wandering from fix to fix: at the least, and at
 * the most.
 */
const OWN = 0.05;
const MAX = 4;
/** m²/s²: least variance of a stated velocity along each axis, of 0.15 m/s. */
const VELOCITY_ERROR = 0.15 ** 2;
/**
 * Share by which one fix changes what errors are taken to be, and how many variances one may tell of: a wild one tells
 * of no more.
 */
const LEARNING = 0.03;
const TELLING = 4;

/**
 * What the error of a receiver is taken to be: from the accuracy that it states, and from how far its fixes are from
 * where they are expected. What is unexpected beyond what wandering explains is of each fix alone.
 */
export class ReceiverError {
  /** Variances along an axis, m²: of the part that fixes share, and of the part of this one alone. */
  wander = 0;
  white = 0;
  /** Variance of a stated velocity along an axis, m²/s². */
  velocity = VELOCITY_ERROR;
  /** Standard deviation along an axis that is usual of late. */
  #usual = NaN;
  /** Variance along an axis of the accuracy that the fix states. */
  #spread = 0;
  #own = OWN;

  /** What was learnt; JSON has null for NaN. */
  get state(): readonly [usual: number | null, own: number, velocity: number] {
    return [numberOrNull(this.#usual), this.#own, this.velocity];
  }
  set state([usual, own, velocity]) {
    this.#usual = usual ?? NaN;
    this.#own = own;
    this.velocity = velocity;
  }

  /** Metres, the 95 % radius that is usual of late. */
  get usual(): number {
    return this.#usual * RADIUS_IN_DEVIATIONS;
  }

  /** Weighs the error of the next fix. */
  weigh({ accuracy = UNSTATED }: Fix): void {
    const spread = Math.max(MIN, accuracy) / RADIUS_IN_DEVIATIONS;
    // A fix much coarser than usual is so by an error of its own.
    if (Number.isNaN(this.#usual) || spread < this.#usual) this.#usual = spread;
    else this.#usual += (spread - this.#usual) * 0.02;
    const min = Math.min(spread, this.#usual);
    this.#spread = spread * spread;
    this.wander = Math.max(OWN, 1 - this.#own) * min * min;
    this.white = Math.max(this.#spread - this.wander, this.#own * this.#spread);
  }

  /** A fix was off by so much. Both are variances along an axis: as seen, and as expected with its own error. */
  learnPlace(seen: number, expected: number): void {
    const own = Math.min(seen, TELLING * expected) - expected + this.white;
    this.#own += (own / this.#spread - this.#own) * LEARNING;
    this.#own = Math.max(OWN, Math.min(MAX, this.#own));
  }

  /** A stated velocity was off by so much: variances along an axis, as seen, and as expected without its own error. */
  learnVelocity(seen: number, expected: number): void {
    const known = this.velocity;
    const own = Math.min(seen, TELLING * (expected + known)) - expected;
    this.velocity = Math.max(VELOCITY_ERROR, known + (own - known) * LEARNING);
  }
}
