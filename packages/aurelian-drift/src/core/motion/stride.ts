import { GAITS, type Gait, type GaitFigures } from './gait.js';
import type { Itinerary } from './itinerary.js';
import type { Random } from './random.js';

/** Rests on the way. */
export interface RestFigures {
  /** Metres between rests, and their seconds; each varies from half to one and a half times as much. */
  readonly every: number;
  readonly for: number;
}

/** Time step in seconds: corners need several within one interval between fixes. */
const STEP = 0.5;

/**
 * Movement along an itinerary: a speed that varies about its mean (an Ornstein–Uhlenbeck process), decreases before
 * corners, and stops at rests.
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
  /** Remaining seconds of the rest. */
  #resting = 0;

  /**
   * @param rests figures of the rests, if any.
   * @param from metres along the itinerary at which the movement begins.
   */
  constructor(
    itinerary: Itinerary,
    gait: Gait,
    random: Random,
    rests: RestFigures | undefined,
    from: number,
  ) {
    this.#figures = GAITS[gait];
    this.#random = random;
    this.#rests = rests;
    this.#metres = from;
    if (rests !== undefined) this.#restAt = from + rests.every * (0.5 + random.uniform());
    const { corner, brake } = this.#figures;
    this.#limits = corner === undefined ? () => Infinity : itinerary.speedLimits(corner, brake);
    this.#speed = this.#wanted;
  }

  /** Metres covered so far. */
  get metres(): number {
    return this.#metres;
  }

  /** Current speed in m/s. */
  get speed(): number {
    return this.#resting > 0 ? 0 : this.#speed;
  }

  /** Advances by a number of seconds. */
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

  /** Comes to rest at the place of a rest: with the speed that can be lost by then, and with none in the last step. */
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

  /** Natural speed of the gait in m/s; never below a fifth of the mean. */
  get #wanted(): number {
    const { speed, sway } = this.#figures;
    return speed * Math.max(0.2, 1 + sway * this.#sway);
  }
}
