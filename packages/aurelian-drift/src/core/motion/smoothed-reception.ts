import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Random } from './random.js';
import type { ReceptionError, ReceptionModel } from './reception.js';

/** Figures of a receiver that smooths its own positions. Each seed draws its own from the ranges. */
export interface SmoothedFigures {
  /** Slow error along each axis: standard deviation in m, and time constant in s. */
  readonly slow: readonly [least: number, most: number];
  readonly slowTime: readonly [least: number, most: number];
  /** Quick error along each axis: standard deviation in m, and time constant in s. */
  readonly quick: readonly [least: number, most: number];
  readonly quickTime: readonly [least: number, most: number];
  /** Time constant in s of the receiver's own smoothing. */
  readonly smoothing: readonly [least: number, most: number];
  /** Offsets near walls, per minute: metres aside, and their seconds. */
  readonly offsets?: number;
  readonly offset: readonly [least: number, most: number];
  readonly offsetTime: readonly [least: number, most: number];
  /** Heights: wander in m over a time constant in s, and white noise in m. */
  readonly height: readonly [least: number, most: number];
  readonly heightTime: readonly [least: number, most: number];
  readonly heightWhite: readonly [least: number, most: number];
}

const WALL: Pick<SmoothedFigures, 'offset' | 'offsetTime'> = { offset: [10, 50], offsetTime: [4, 30] };

/** Receivers that smooth, under open sky, in a wood, and between the walls of a town. */
export const SMOOTHED_RECEPTIONS = Object.freeze({
  meadow: {
    ...WALL,
    slow: [1.5, 3],
    slowTime: [60, 120],
    quick: [0.5, 1],
    quickTime: [3, 6],
    smoothing: [2, 4],
    height: [2, 3],
    heightTime: [90, 150],
    heightWhite: [0.5, 1],
  },
  wood: {
    ...WALL,
    slow: [3, 5],
    slowTime: [60, 120],
    quick: [1, 2],
    quickTime: [3, 6],
    smoothing: [3, 5],
    height: [5, 7],
    heightTime: [40, 90],
    heightWhite: [1.5, 2.5],
  },
  town: {
    ...WALL,
    slow: [4, 8],
    slowTime: [40, 90],
    quick: [2, 3],
    quickTime: [3, 6],
    smoothing: [2, 4],
    offsets: 0.5,
    height: [5, 7],
    heightTime: [40, 90],
    heightWhite: [1.5, 2.5],
  },
}) satisfies Readonly<Record<string, SmoothedFigures>>;

/** Sine waves of a slow error: many enough that it does not repeat. */
const WAVES = 9;
/** Longest step in s with which errors are followed. */
const STEP = 0.5;

/**
 * Errors of a receiver that smooths its own positions: a slow error and a quick one, offsets near walls, and a low-pass
 * filter over all. Slow errors of positions are sums of sine waves, quick ones are filtered noise: nothing of it
 * follows the model of the filter.
 */
export class SmoothedReception implements ReceptionModel {
  readonly #random: Random;
  readonly #figures: SmoothedFigures;
  readonly #slow: readonly [Waves, Waves];
  readonly #quick: readonly [FilteredNoise, FilteredNoise];
  readonly #height: Drift;
  readonly #heightWhite: number;
  readonly #heightSpread: number;
  readonly #smoothing: number;
  readonly #spread: number;
  #offset: { readonly until: number; readonly east: number; readonly north: number } | undefined;
  /** Metres by which smoothing stays behind the motion, east and north. */
  #lag = { east: 0, north: 0 };
  #east: number;
  #north: number;
  #time = NaN;

  constructor(figures: SmoothedFigures, random: Random) {
    const draw = ([least, most]: readonly [number, number]) => least + (most - least) * random.uniform();
    this.#figures = figures;
    this.#random = random;
    const [slow, slowTime] = [draw(figures.slow), draw(figures.slowTime)];
    const [quick, quickTime] = [draw(figures.quick), draw(figures.quickTime)];
    this.#smoothing = draw(figures.smoothing);
    this.#slow = [new Waves(slow, slowTime, random), new Waves(slow, slowTime, random)];
    this.#quick = [new FilteredNoise(quick, quickTime, random), new FilteredNoise(quick, quickTime, random)];
    const height = draw(figures.height);
    this.#height = new Drift(height, draw(figures.heightTime), random);
    this.#heightWhite = draw(figures.heightWhite);
    this.#heightSpread = Math.hypot(height, this.#heightWhite);
    this.#east = this.#slow[0].at(0);
    this.#north = this.#slow[1].at(0);
    this.#spread = Math.hypot(slow, quick * Math.sqrt(quickTime / (quickTime + this.#smoothing)));
  }

  /** @param truth motion of the user since the last fix, m: the receiver's smoothing lags behind it. */
  next(seconds: number, truth = STILL): ReceptionError {
    const span = Number.isNaN(this.#time) ? 0 : seconds - this.#time;
    const steps = Math.max(1, Math.ceil(span / STEP));
    for (let i = 1; i <= steps; i++)
      this.#step(seconds - (span * (steps - i)) / steps, span / steps, truth, steps);
    this.#time = seconds;
    return {
      east: this.#east,
      north: this.#north,
      up: this.#height.next(span) + this.#heightWhite * this.#random.normal(),
      // Of both axes: the errors, and how far the smoothed position is behind the user. Offsets are not known to it.
      accuracy: RADIUS_IN_DEVIATIONS * Math.hypot(this.#spread, this.#behind / Math.SQRT2),
      upSpread: this.#heightSpread,
    };
  }

  #step(
    seconds: number,
    span: number,
    truth: { readonly east: number; readonly north: number },
    steps: number,
  ): void {
    this.#startOffset(seconds, span);
    const share = 1 - Math.exp(-span / this.#smoothing);
    const wanted = (axis: 0 | 1) => this.#slow[axis].at(seconds) + this.#quick[axis].next(span);
    // The smoothed position stays behind by the part of the motion that it has not followed yet.
    this.#lag = {
      east: (1 - share) * (this.#lag.east + truth.east / steps),
      north: (1 - share) * (this.#lag.north + truth.north / steps),
    };
    const east = this.#east - truth.east / steps;
    const north = this.#north - truth.north / steps;
    this.#east = east + share * (wanted(0) + (this.#offset?.east ?? 0) - east);
    this.#north = north + share * (wanted(1) + (this.#offset?.north ?? 0) - north);
  }

  get #behind(): number {
    return Math.hypot(this.#lag.east, this.#lag.north);
  }

  #startOffset(seconds: number, span: number): void {
    const { offsets = 0, offset, offsetTime } = this.#figures;
    if (this.#offset !== undefined && seconds >= this.#offset.until) this.#offset = undefined;
    const random = this.#random;
    if (offsets === 0 || this.#offset !== undefined || random.uniform() >= (offsets * span) / 60) return;
    const metres = offset[0] + (offset[1] - offset[0]) * random.uniform();
    const lasts = offsetTime[0] + (offsetTime[1] - offsetTime[0]) * random.uniform();
    const angle = 2 * Math.PI * random.uniform();
    this.#offset = {
      until: seconds + lasts,
      east: metres * Math.sin(angle),
      north: metres * Math.cos(angle),
    };
  }
}

const STILL = { east: 0, north: 0 };

/** A slow error: a sum of sine waves of equal power, whose periods lie from 1.5 to 15 time constants. */
class Waves {
  readonly #waves: readonly { readonly rate: number; readonly phase: number }[];
  readonly #height: number;

  constructor(deviation: number, time: number, random: Random) {
    this.#height = deviation * Math.sqrt(2 / WAVES);
    this.#waves = Array.from({ length: WAVES }, () => ({
      rate: (2 * Math.PI) / (time * 1.5 * 10 ** random.uniform()),
      phase: 2 * Math.PI * random.uniform(),
    }));
  }

  at(seconds: number): number {
    return (
      this.#height * this.#waves.reduce((sum, { rate, phase }) => sum + Math.sin(rate * seconds + phase), 0)
    );
  }
}

/** A wander of heights: its next value is drawn towards zero, and away from it by chance. */
class Drift {
  readonly #deviation: number;
  readonly #time: number;
  readonly #random: Random;
  #value: number;

  constructor(deviation: number, time: number, random: Random) {
    this.#deviation = deviation;
    this.#time = time;
    this.#random = random;
    this.#value = deviation * random.normal();
  }

  next(seconds: number): number {
    const keep = Math.exp(-seconds / this.#time);
    const drawn = this.#deviation * Math.sqrt(1 - keep * keep) * this.#random.normal();
    return (this.#value = this.#value * keep + drawn);
  }
}

/** A quick error: white noise through two low-pass filters in a row. */
class FilteredNoise {
  readonly #deviation: number;
  readonly #time: number;
  readonly #random: Random;
  #first = 0;
  #second = 0;

  constructor(deviation: number, time: number, random: Random) {
    this.#deviation = deviation;
    this.#time = time;
    this.#random = random;
  }

  next(seconds: number): number {
    const share = 1 - Math.exp((-2 * seconds) / this.#time);
    // Two equal filters leave this part of the variance of white noise.
    const left = (share * (1 + (1 - share) ** 2)) / (2 - share) ** 3;
    const input = share === 0 ? 0 : (this.#deviation / Math.sqrt(left)) * this.#random.normal();
    this.#first += share * (input - this.#first);
    this.#second += share * (this.#first - this.#second);
    return this.#second;
  }
}
