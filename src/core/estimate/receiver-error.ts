import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';

/** Metres of accuracy taken where none is stated, and the least that is believed: nobody knows where they are to the millimetre. */
export const UNSTATED = 20;
const LEAST = 1;
/** Share of a receiver's variance that is of each fix alone rather than wandering from fix to fix: at the least, and at the most. */
const OWN = 0.05;
const MOST = 4;
/** m/s: least error of a stated velocity along each axis. */
const VELOCITY_ERROR = 0.15;
/** Share by which one fix changes what errors are taken to be, and how many variances one may tell of: a wild one tells of no more. */
const LEARNING = 0.03;
const TELLING = 4;

/**
 * What the error of a receiver is taken to be: from the accuracy that it states, and from how far its fixes are from where they are expected. What is
 * unexpected beyond what wandering explains is of each fix alone.
 */
export class ReceiverError {
  /** Standard deviations along an axis, metres: of the part that fixes share, and of the part of this one alone. */
  wander = 0;
  white = 0;
  /** Standard deviation of a stated velocity along an axis, m/s. */
  velocity = VELOCITY_ERROR;
  #usual = NaN;
  #spread = 0;
  #own = OWN;

  /** Metres, the 95 % radius that is usual of late. */
  get usual(): number {
    return this.#usual * RADIUS_IN_DEVIATIONS;
  }

  /** Weighs the error of the next fix. */
  weigh({ accuracy = UNSTATED }: Fix): void {
    const spread = Math.max(LEAST, accuracy) / RADIUS_IN_DEVIATIONS;
    // A fix much coarser than usual is so by an error of its own.
    if (Number.isNaN(this.#usual) || spread < this.#usual) this.#usual = spread;
    else this.#usual += (spread - this.#usual) * 0.02;
    const shared = Math.max(OWN, 1 - this.#own) * Math.min(spread, this.#usual) ** 2;
    this.#spread = spread;
    this.wander = Math.sqrt(shared);
    this.white = Math.sqrt(Math.max(spread * spread - shared, this.#own * spread * spread));
  }

  /** A fix was off by so much. Both are variances along an axis: as seen, and as expected with its own error. */
  learnPlace(seen: number, expected: number): void {
    const spread = this.#spread * this.#spread;
    const own = Math.min(seen, TELLING * expected) - expected + this.white * this.white;
    this.#own += (own / spread - this.#own) * LEARNING;
    this.#own = Math.max(OWN, Math.min(MOST, this.#own));
  }

  /** A stated velocity was off by so much: variances along an axis, as seen, and as expected without its own error. */
  learnVelocity(seen: number, expected: number): void {
    const known = this.velocity * this.velocity;
    const own = Math.min(seen, TELLING * (expected + known)) - expected;
    this.velocity = Math.sqrt(Math.max(VELOCITY_ERROR ** 2, known + (own - known) * LEARNING));
  }
}
