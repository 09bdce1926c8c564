import { usualAccuracy } from '../estimate/usual-accuracy.js';
import { PositionSmoother, errorsOf, newPath } from '../estimate/position-smoother.js';

/** Seconds of fixes that are taken together: heights change slowly. */
const TOGETHER = 5;
/** Seconds of heights after which some become final. */
const WAITING = 90;
/** Seconds behind the last height at which smoothed heights are final, and seconds kept before those. */
const LAG = 60;
const PAST = 150;
/** Seconds between the heights whose second differences show the noise. */
const APART = 60;
/** Noise of a wander over one to two minutes is this part of the mean square of those differences. */
const SHARE = 1 / 2.3;
/** Mean square root of the size of a normal value, squared: of one with deviation 1. */
const ROOT_MEAN = 0.822 ** 2;
/** Differences after which the noise counts as known, and the deviation in metres until then. */
const KNOWN = 8;
const USUAL = 2.5;
/** Scale of smoothing in seconds per metre of noise, and its limits. */
const SCALE = 18;
const SCALE_MIN = 5;
const SCALE_MAX = 60;
/** Swing that counts, in deviations of the noise, and its limits in metres. */
const SWING = 3.6;
const SWING_MIN = 5;
const SWING_MAX = 14;
/** Heights that can be smoothed, and the greatest mean step between them in seconds. */
const MIN_HEIGHTS = 12;
const SPARSE = 30;

/** A smoothed height in metres, its time in seconds, and the swing in metres that its noise seldom causes. */
export interface SmoothedHeight {
  readonly seconds: number;
  readonly altitude: number;
  readonly threshold: number;
}

/**
 * Smooths the heights of a run, with a window of some minutes. The noise is found from the heights themselves: those of
 * satellite receivers wander by some metres over one or two minutes, which no smoothing over seconds removes.
 */
export class HeightWindow {
  readonly #smoother = new PositionSmoother();
  /** Mean times in seconds, heights and weights of the fixes that are taken together. */
  #times: number[] = [];
  #heights: number[] = [];
  #weights: number[] = [];
  /** Sum of the square roots of second differences, and their number. */
  #roots = 0;
  #differences = 0;
  #final = -Infinity;
  /** Usual 95 % accuracy of the heights in metres; NaN where none is stated. */
  #usual = NaN;
  /** Start in seconds, summed time, height and weight of the fixes that are being taken together. */
  #since = NaN;
  #sum = { time: 0, height: 0, weight: 0 };

  /** Relative weight of the next height by its stated 95 % accuracy in metres, 0 when none is stated. */
  weightOf(accuracy: number): number {
    if (!(accuracy > 0)) return 1;
    this.#usual = usualAccuracy(this.#usual, accuracy);
    return Math.max(1e-6, (this.#usual / accuracy) ** 2);
  }

  /**
   * Takes the next height. Returns whether those before it are complete, so that the smoothed heights change.
   *
   * @param time seconds. @param weight relative weight, above 0.
   */
  add(time: number, height: number, weight: number): boolean {
    const complete = time - this.#since >= TOGETHER;
    if (complete) this.#close();
    if (Number.isNaN(this.#since)) this.#since = time;
    const sum = this.#sum;
    sum.time += time * weight;
    sum.height += height * weight;
    sum.weight += weight;
    return complete;
  }

  /** Whether the heights are many and close enough to be smoothed. */
  get usable(): boolean {
    const { length } = this.#times;
    const span = (this.#times.at(-1) ?? 0) - (this.#times[0] ?? 0);
    return this.#final > -Infinity || (length >= MIN_HEIGHTS && span <= SPARSE * (length - 1));
  }

  /** Whether heights have waited for long enough that some are final: see `take`. */
  get ready(): boolean {
    const [first = NaN, last = NaN] = [this.#times[0], this.#times.at(-1)];
    return last - Math.max(this.#final, first) >= WAITING;
  }

  /** The heights that have become final. */
  take(): SmoothedHeight[] {
    const until = (this.#times.at(-1) ?? NaN) - LAG;
    const heights = this.#smoothed(until);
    this.#final = until;
    let old = 0;
    while ((this.#times[old] ?? Infinity) < until - PAST) old++;
    for (const column of [this.#times, this.#heights, this.#weights]) column.splice(0, old);
    return heights;
  }

  /** The heights that are not final yet; the window stays as it is. @param all including those of the last seconds. */
  rest(all: boolean): SmoothedHeight[] {
    if (!all || this.#sum.weight === 0) return this.#smoothed(Infinity);
    this.#push();
    const heights = this.#smoothed(Infinity);
    for (const column of [this.#times, this.#heights, this.#weights]) column.pop();
    return heights;
  }

  /** Starts a new run; what is known of the noise stays. */
  clear(): void {
    [this.#times, this.#heights, this.#weights] = [[], [], []];
    this.#final = -Infinity;
    this.#since = NaN;
    this.#sum = { time: 0, height: 0, weight: 0 };
  }

  /** Ends the fixes that are taken together. */
  #close(): void {
    this.#push();
    this.#sum = { time: 0, height: 0, weight: 0 };
    this.#since = NaN;
    this.#learn();
  }

  /** Adds the mean of the fixes that are being taken together. */
  #push(): void {
    const { time, height, weight } = this.#sum;
    this.#times.push(time / weight);
    this.#heights.push(height / weight);
    this.#weights.push(weight);
  }

  /** Learns the noise from the second difference of the latest height and those before it. */
  #learn(): void {
    const [times, heights] = [this.#times, this.#heights];
    const last = times.length - 1;
    const before = (seconds: number) => {
      const wanted = (times[last] as number) - seconds;
      for (let k = last; k >= 0; k--) {
        const off = (times[k] as number) - wanted;
        if (off <= 0) return -off <= APART / 3 ? heights[k] : undefined;
      }
      return undefined;
    };
    const [middle, first] = [before(APART), before(2 * APART)];
    if (middle === undefined || first === undefined) return;
    this.#roots += Math.sqrt(Math.abs((heights[last] as number) - 2 * middle + first));
    this.#differences++;
  }

  /** Deviation of the wander in metres. */
  get #noise(): number {
    if (this.#differences < KNOWN) return USUAL;
    const deviation = (this.#roots / this.#differences) ** 2 / ROOT_MEAN;
    return deviation * Math.sqrt(SHARE);
  }

  /** Smoothed heights after the final ones and up to a time. */
  #smoothed(until: number): SmoothedHeight[] {
    const count = this.#times.length;
    if (count === 0) return [];
    const start = this.#times[0] as number;
    const times = Float64Array.from(this.#times, (time) => time - start);
    const heights = Float64Array.from(this.#heights);
    const errors = new Float64Array(count);
    errorsOf(times, Float64Array.from(this.#weights), count, errors);
    const path = newPath(count);
    const noise = this.#noise;
    const scale = Math.min(SCALE_MAX, Math.max(SCALE_MIN, SCALE * noise));
    this.#smoother.smooth(times, heights, new Float64Array(count), errors, scale, count, path);
    const threshold = Math.min(SWING_MAX, Math.max(SWING_MIN, SWING * noise));
    const found: SmoothedHeight[] = [];
    this.#times.forEach((time, k) => {
      if (time > this.#final && time <= until)
        found.push({ seconds: time, altitude: path.east[k] as number, threshold });
    });
    return found;
  }
}
