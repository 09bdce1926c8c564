import { NoFixError } from '../core/fix/no-fix-error.js';
import type { Clock } from './clock.js';
import { limited } from './limited.js';

/**
 * The seconds that a call may take. They pass only while `spend` waits for the platform or the device: the user's time
 * to answer is not counted.
 */
export class Patience {
  /** The given seconds. */
  readonly seconds: number;
  readonly #clock: Clock;
  #left: number;

  /** @param seconds 0 or more. */
  constructor(clock: Clock, seconds: number) {
    this.seconds = seconds;
    this.#clock = clock;
    this.#left = seconds;
  }

  /** Remaining seconds, 0 or more. */
  get left(): number {
    return this.#left;
  }

  /**
   * Waits for a promise while patience lasts.
   *
   * @param what name of the wait, for the developer.
   * @throws {NoFixError} of kind `timed-out` when patience ends first; otherwise the error of the promise.
   */
  async spend<T>(promise: Promise<T>, what: string): Promise<T> {
    const since = this.#clock.now();
    try {
      return await limited(this.#clock, this.#left, promise, () => {
        throw new NoFixError('timed-out', { note: `after ${this.seconds} s, ${what}` });
      });
    } finally {
      this.#left = Math.max(0, this.#left - (this.#clock.now() - since) / 1000);
    }
  }
}
