import { bufferSize } from '../estimate/buffer-size.js';
import { markJumps, weighResiduals } from '../estimate/displaced.js';
import { PositionSmoother, errorsOf, newPath, type SmoothedPath } from '../estimate/position-smoother.js';
import { quantileOf } from '../estimate/quantile.js';
import { isReceiverSmoothed } from '../estimate/receiver-smoothing.js';
import { settleSpells } from '../estimate/rest-spells.js';
import { differenceOf, noiseFrom, withoutNoise, type VelocityNoise } from '../estimate/velocity-noise.js';
import { WAYS, wayAt, type WayFigures } from '../estimate/way-of-moving.js';
import type { PositionWindow } from './position-window.js';

/** Greatest share by which noise may lengthen the path at the finest scale; else the scale is doubled. */
const NOISY = 0.05;
/** Share of that below which the scale is halved again. */
const CALM = 0.7;
/** Share below which the noise of a speed does not matter to the top speed. */
const QUIET = 0.006;
/** Scale of the path that shows outliers, in finest scales, and for walkers in steps; and rounds of weighing. */
const ROBUST = 4;
const ROBUST_STEPS = 2.8;
const ROUNDS = 3;
/** A faster way of moving is taken beyond this many times the greatest usual speed. */
const FASTER = 1.3;
/** Share of the speeds of a window that the usual speed of its motion is above. */
const OFTEN_REACHED = 0.8;
/** Usual speed of a user who has not moved yet, m/s. */
const STROLL = 1.35;
/** Slowest usual speed that noise is compared with, m/s. */
const SLOWEST = 1;
/** Speed in m/s that divides rest from motion: a share of the usual speed, within limits. */
const REST_SHARE = 0.45;
const REST_MIN = 0.35;
const REST_MAX = 1.6;
/** Minimum ratio of that speed to the noise of the path that it is read from. */
const CLEAR = 3.5;
/** Windows over which the noise is averaged. */
const REMEMBERED = 12;
/** Noise in m/s, and distance of the fixes from the path in metres, below which fixes count as exact. */
const EXACT_SPEED = 0.02;
const EXACT_PLACE = 0.05;
/** Seconds over which a receiver that smooths its positions spreads a jump. */
const SLOW_JUMP = 4;
/** A fix with less weight than this share of its own says nothing about rest. */
const TRUSTED = 0.3;

/** Mean difference between a scale in seconds and its double, m²/s²; and the number of windows in it. */
type NoiseMemory = ReadonlyMap<number, { readonly mean: number; readonly count: number }>;

/** The noise of a fast user is small beside the speed. */
const NO_NOISE: VelocityNoise = { fine: 0, middle: 0, coarse: 0 };

/** What is known of the user and the receiver from earlier windows. */
export interface Experience {
  readonly way: WayFigures;
  /** 0 for the finest scale of the way of moving, 1 for twice that. */
  readonly level: 0 | 1;
  /** Usual speed in motion, m/s. */
  readonly usual: number;
  readonly noise: NoiseMemory;
}

/** Nothing is known yet: a walker at a stroll. @param given the way of moving, when it is known. */
export function noExperience(given?: WayFigures): Experience {
  return { way: given ?? (WAYS[0] as WayFigures), level: 0, usual: STROLL, noise: new Map() };
}

/** The fixes of a window as three smoothed paths, the noise in them, and motion at each fix. */
export interface WindowEstimate {
  readonly way: WayFigures;
  readonly level: 0 | 1;
  readonly noise: NoiseMemory;
  /** Paths at the scale, at twice and at four times the scale. Valid until the next estimate. */
  readonly fine: SmoothedPath;
  readonly middle: SmoothedPath;
  /** Noise of their velocities. */
  readonly spread: VelocityNoise;
  /** Scale of the finest path in seconds. */
  readonly scale: number;
  /** The path whose speeds are quiet enough for a top speed, and the noise in them. */
  readonly quiet: SmoothedPath;
  readonly quietSpread: number;
  /** 1 in motion, 0 at rest. */
  readonly moving: Uint8Array;
  /** Whether the fixes show no noise at all. */
  readonly exact: boolean;
}

/** The paths of a window at three scales: what they show. */
interface Scales {
  readonly way: WayFigures;
  readonly level: 0 | 1;
  readonly noise: NoiseMemory;
  readonly spread: VelocityNoise;
  /** Usual speed in m/s, and the way of moving that goes with it. */
  readonly usual: number;
  readonly now: WayFigures;
}

/** Estimates windows one after the other, with the same working memory. */
export class WindowEstimator {
  readonly #smoother = new PositionSmoother();
  readonly #given: WayFigures | undefined;
  /** Whether the receiver smooths the positions of the window. */
  #smoothing = false;
  #size = 0;
  #weights = new Float64Array(0);
  #errors = new Float64Array(0);
  #paths: [SmoothedPath, SmoothedPath, SmoothedPath] = [newPath(0), newPath(0), newPath(0)];

  /** @param given the way of moving, when it is known. */
  constructor(given?: WayFigures) {
    this.#given = given;
  }

  /** @param window with two fixes at least, unfolded. */
  estimate(window: PositionWindow, experience: Experience): WindowEstimate {
    const { seconds, east, north, length } = window;
    this.#reserve(length);
    this.#smoothing = isReceiverSmoothed(seconds, east, north, length);
    this.#weigh(window, experience);
    const { way, level, noise, spread, usual } = this.#settle(window, experience);
    const [fine, middle, coarse] = this.#paths;
    const calm = (variance: number) => variance < 2 * usual * usual * QUIET;
    const [quiet, quietSpread] = calm(spread.fine)
      ? [fine, spread.fine]
      : calm(spread.middle)
        ? [middle, spread.middle]
        : [coarse, spread.coarse];
    const moving = this.#motion(window, experience.usual, spread);
    const exact = !this.#isCornered(way) && spread.fine < EXACT_SPEED ** 2 && this.#isOnPath(window, fine);
    const scale = this.#scaleOf(way) * (level + 1);
    return { way, level, noise, fine, middle, spread, scale, quiet, quietSpread, moving, exact };
  }

  /** Smooths the window at the scales that suit the way of moving and the noise. */
  #settle(window: PositionWindow, experience: Experience): Scales {
    const { noise } = experience;
    let scales = this.#at(window, experience.way, experience.level, noise);
    for (let attempt = 0; attempt < WAYS.length && scales.now !== scales.way; attempt++)
      scales = this.#at(window, scales.now, 0, noise);
    const { way, level, spread, usual } = scales;
    if (this.#isCornered(way)) return level === 0 ? scales : this.#at(window, way, 0, noise);
    const share = spread.fine / (2 * usual * usual);
    if (level === 0 && share > NOISY) return this.#at(window, way, 1, noise);
    if (level === 1 && share * (spread.fine / spread.middle) < NOISY * CALM) {
      const finer = this.#at(window, way, 0, noise);
      return finer.spread.fine / (2 * usual * usual) > NOISY ? this.#at(window, way, 1, noise) : finer;
    }
    return scales;
  }

  /** Smooths the window at three scales, and finds the noise and the way of moving. */
  #at(window: PositionWindow, way: WayFigures, level: 0 | 1, memory: NoiseMemory): Scales {
    const count = window.length;
    const [fine, middle, coarse] = this.#paths;
    const scale = this.#scaleOf(way) * (level + 1);
    this.#smooth(window, scale, fine);
    this.#smooth(window, 2 * scale, middle);
    this.#smooth(window, 4 * scale, coarse);
    const usual = Math.max(SLOWEST, usualSpeed(coarse, count, OFTEN_REACHED));
    const now =
      this.#given ??
      (usual > way.max && usual < FASTER * way.max
        ? way
        : (WAYS.find(({ name }) => name === wayAt(usual)) ?? way));
    const noise = remembered(
      remembered(memory, scale, differenceOf(fine, middle, count)),
      2 * scale,
      differenceOf(middle, coarse, count),
    );
    const spread = this.#isCornered(way)
      ? NO_NOISE
      : noiseFrom(meanOf(noise, scale), meanOf(noise, 2 * scale));
    return { way, level, noise, spread, usual, now };
  }

  #scaleOf({ scale, smoothedScale }: WayFigures): number {
    return this.#smoothing ? smoothedScale : scale;
  }

  /**
   * Whether differences between the scales show corners rather than noise: those of a fast user with a receiver that
   * smooths.
   */
  #isCornered({ scale, smoothedScale }: WayFigures): boolean {
    return this.#smoothing && smoothedScale > scale;
  }

  #smooth({ seconds, east, north, length }: PositionWindow, scale: number, out: SmoothedPath): void {
    this.#smoother.smooth(seconds, east, north, this.#errors, scale, length, out);
  }

  /** Weights of the fixes: displaced ones have next to none. */
  #weigh(window: PositionWindow, { way }: Experience): void {
    const { seconds, east, north, weights, length } = window;
    markJumps(seconds, east, north, weights, length, 0);
    // A fast user goes as far in that time.
    if (this.#smoothing && way.name === 'walking')
      markJumps(seconds, east, north, weights, length, SLOW_JUMP);
    this.#weights.set(weights.subarray(0, length));
    const [path] = this.#paths;
    const step = (seconds[length - 1] as number) / (length - 1);
    // A fast user has gone round a corner in the time of a few steps.
    const scale = Math.max(ROBUST * way.scale, way.name === 'walking' ? ROBUST_STEPS * step : 0);
    errorsOf(seconds, this.#weights, length, this.#errors);
    for (let round = 0; round < ROUNDS; round++) {
      this.#smooth(window, scale, path);
      const speed = usualSpeed(path, length, 0.75);
      const clean = weighResiduals(path, east, north, weights, scale, speed, length, this.#weights);
      errorsOf(seconds, this.#weights, length, this.#errors);
      if (clean) break;
    }
  }

  /** Motion or rest at each fix. */
  #motion({ seconds, weights, length }: PositionWindow, usual: number, spread: VelocityNoise): Uint8Array {
    const [fine, middle, coarse] = this.#paths;
    const limit = Math.min(REST_MAX, Math.max(REST_MIN, REST_SHARE * usual));
    const clear = (noise: number) => Math.sqrt(noise) * CLEAR < limit;
    const [path, noise] = clear(spread.fine)
      ? [fine, spread.fine]
      : clear(spread.middle)
        ? [middle, spread.middle]
        : [coarse, spread.coarse];
    const moving = new Uint8Array(length);
    const square = new Float64Array(length);
    for (let k = 0; k < length; k++) {
      moving[k] = speedAt(path, k) ** 2 - 2 * noise > limit * limit ? 1 : 0;
      const trusted = (this.#weights[k] as number) > TRUSTED * (weights[k] as number);
      square[k] = trusted ? speedAt(fine, k) ** 2 - 2 * spread.fine : NaN;
    }
    settleSpells(moving, { times: seconds, path, square, usual, count: length });
    return moving;
  }

  #isOnPath({ east, north, length }: PositionWindow, path: SmoothedPath): boolean {
    const squares = new Float64Array(length);
    for (let k = 0; k < length; k++)
      squares[k] =
        ((east[k] as number) - (path.east[k] as number)) ** 2 +
        ((north[k] as number) - (path.north[k] as number)) ** 2;
    return quantileOf(squares, 0.5) < EXACT_PLACE ** 2;
  }

  #reserve(count: number): void {
    if (count <= this.#size) return;
    this.#size = bufferSize(count);
    this.#weights = new Float64Array(this.#size);
    this.#errors = new Float64Array(this.#size);
    this.#paths = [newPath(this.#size), newPath(this.#size), newPath(this.#size)];
  }
}

/** Speed of a path at a fix, m/s. */
export function speedAt(
  { eastward, northward }: Pick<SmoothedPath, 'eastward' | 'northward'>,
  k: number,
): number {
  const [u, v] = [eastward[k] as number, northward[k] as number];
  return Math.sqrt(u * u + v * v);
}

/** Speed at a share of the sorted speeds of a path. */
function usualSpeed(path: SmoothedPath, count: number, share: number): number {
  const speeds = new Float64Array(count);
  for (let k = 0; k < count; k++) speeds[k] = speedAt(path, k);
  return quantileOf(speeds, share);
}

function meanOf(memory: NoiseMemory, scale: number): number {
  return memory.get(scale)?.mean ?? NaN;
}

/** The memory with one more value. */
function remembered(memory: NoiseMemory, scale: number, value: number): NoiseMemory {
  const { mean, count } = memory.get(scale) ?? { mean: value, count: 0 };
  const number = Math.min(count + 1, REMEMBERED);
  return new Map([...memory, [scale, { mean: mean + (value - mean) / number, count: number }]]);
}

/** Speed at a fix without the noise in it. */
export function calmSpeed(path: SmoothedPath, k: number, noise: number): number {
  return withoutNoise(speedAt(path, k), noise);
}
