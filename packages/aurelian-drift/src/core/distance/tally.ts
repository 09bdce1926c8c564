import { StopGatherer } from './stops.js';

/** Called when the distance has grown: from the time of one fix to that of another, milliseconds since 1970 UTC. */
export type Advance = (from: number, to: number, tally: Tally) => void;

/** Sums of what is measured along a trail, in the order of time. */
export class Tally {
  /** Metres. */
  distance = 0;
  /** Seconds in motion. */
  moving = 0;
  #top: number | undefined;
  /** Number, mean, sum of squared differences, and summed noise of the speeds that were estimated. */
  #speeds = 0;
  #mean = 0;
  #squares = 0;
  #noise = 0;
  readonly stops: StopGatherer;
  readonly #onAdvance: Advance | undefined;

  /** @param onAdvance called after each growth of the distance. */
  constructor(onAdvance?: Advance, stops = new StopGatherer()) {
    this.#onAdvance = onAdvance;
    this.stops = stops;
  }

  /** Adds a step of the path. */
  advance(from: number, to: number, metres: number): void {
    this.distance += metres;
    this.#onAdvance?.(from, to, this);
  }

  /** Takes a speed in m/s. @param noise variance of its error, m²/s²; default 0. */
  speed(speed: number, noise = 0): void {
    this.#top = Math.max(this.#top ?? 0, speed);
    this.#speeds++;
    const off = speed - this.#mean;
    this.#mean += off / this.#speeds;
    this.#squares += off * (speed - this.#mean);
    this.#noise += noise;
  }

  /**
   * Greatest speed in m/s; `undefined` while there is none. The greatest of many noisy speeds is too high: it is drawn
   * towards their mean by the share of the noise in their differences.
   */
  get topSpeed(): number | undefined {
    if (this.#top === undefined || !(this.#noise > 0 && this.#squares > 0)) return this.#top;
    const own = Math.max(0.1, 1 - this.#noise / this.#squares) ** 0.2;
    return this.#mean + (this.#top - this.#mean) * own;
  }

  /** A copy that continues by itself, and calls nobody. */
  fork(): Tally {
    const copy = new Tally(undefined, this.stops.fork());
    copy.distance = this.distance;
    copy.moving = this.moving;
    copy.#top = this.#top;
    copy.#speeds = this.#speeds;
    copy.#mean = this.#mean;
    copy.#squares = this.#squares;
    copy.#noise = this.#noise;
    return copy;
  }
}
