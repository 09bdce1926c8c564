import { GAITS, type Gait, type GaitFigures } from './gait.js';
import type { Itinerary } from './itinerary.js';
import type { Random } from './random.js';

/** Where somebody rests on the way. */
export interface RestFigures {
  /** Metres from one rest to the next, and seconds of each; every one half as much to one and a half times as much. */
  readonly every: number;
  readonly for: number;
}

/** Seconds of the steps in which speed follows the way: corners ask for several within one interval of fixes. */
const STEP = 0.5;

/**
 * Somebody going along an itinerary: a speed that sways about its mean and forgets itself (an Ornstein–Uhlenbeck
 * process), that is lost before corners and won after them, and rests.
 */
export class Stride {
  readonly #figures: GaitFigures;
  readonly #random: Random;
  readonly #limits: (metres: number) => number;
  readonly #rests: RestFigures | undefined;
  #sway = 0;
  #metres = 0;
  #speed: number;
  #restAt = Infinity;
  /** Seconds still to rest. */
  #resting = 0;

  /** @param rests when there are any. */
  constructor(itinerary: Itinerary, gait: Gait, random: Random, rests: RestFigures | undefined) {
    this.#figures = GAITS[gait];
    this.#random = random;
    this.#rests = rests;
    if (rests !== undefined) this.#restAt = rests.every * (0.5 + random.uniform());
    const { corner, brake } = this.#figures;
    this.#limits = corner === undefined ? () => Infinity : itinerary.speedLimits(corner, brake);
    this.#speed = this.#wanted;
  }

  /** Metres covered so far. */
  get metres(): number {
    return this.#metres;
  }

  /** m/s now. */
  get speed(): number {
    return this.#resting > 0 ? 0 : this.#speed;
  }

  /** Goes on for so many seconds. */
  advance(seconds: number): void {
    const simple = this.#figures.corner === undefined && this.#rests === undefined;
    const steps = simple ? 1 : Math.ceil(seconds / STEP);
    for (let i = 0; i < steps; i++) this.#step(seconds / steps);
  }

  #step(seconds: number): void {
    const { brake, memory } = this.#figures;
    if (this.#resting > 0) {
      this.#resting -= seconds;
      return;
    }
    this.#metres += this.#speed * seconds;
    const keep = Math.exp(-seconds / memory);
    this.#sway = this.#sway * keep + Math.sqrt(1 - keep * keep) * this.#random.normal();
    const limit = this.#limits(this.#metres);
    const max = limit === Infinity && this.#rests === undefined ? Infinity : this.#speed + brake * seconds;
    this.#speed = Math.min(this.#wanted, limit, max);
    this.#rest(brake * seconds);
  }

  /** Comes to rest at the place for it: with the speed that can be lost by then, and at the last step with none. */
  #rest(step: number): void {
    if (this.#rests === undefined) return;
    const ahead = this.#restAt - this.#metres;
    this.#speed = Math.min(this.#speed, Math.sqrt(2 * this.#figures.brake * Math.max(0, ahead)) + step / 2);
    if (ahead > this.#speed * STEP) return;
    const { every, for: seconds } = this.#rests;
    this.#restAt += every * (0.5 + this.#random.uniform());
    this.#resting = seconds * (0.5 + this.#random.uniform());
    this.#speed = 0;
  }

  /** m/s that the gait has by itself; never below a fifth of the mean. */
  get #wanted(): number {
    const { speed, sway } = this.#figures;
    return speed * Math.max(0.2, 1 + sway * this.#sway);
  }
}
