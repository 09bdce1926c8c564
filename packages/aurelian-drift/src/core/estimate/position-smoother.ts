import { bufferSize } from './buffer-size.js';

/** Positions and velocities of a smoothed path, at each fix of a window: metres and m/s east and north. */
export interface SmoothedPath {
  readonly east: Float64Array;
  readonly north: Float64Array;
  readonly eastward: Float64Array;
  readonly northward: Float64Array;
}

/** A path for a number of fixes. */
export function newPath(length: number): SmoothedPath {
  const column = () => new Float64Array(length);
  return { east: column(), north: column(), eastward: column(), northward: column() };
}

/** Minimum time in seconds that a fix stands for. */
const SHORTEST = 0.01;
/** Variance of the unknown velocity at the start of a window, in units of the acceleration: as good as unknown. */
const UNKNOWN = 1e6;

/**
 * Smooths positions that have no stated velocity, forward and backward, along two axes at a time.
 *
 * The model: velocity changes by white acceleration, and a fix is the position plus white noise. Only the ratio of
 * noise to acceleration has an effect. It is given as a time, the scale: the fourth root of the spectral density of the
 * noise divided by the power of the acceleration. Movements that take less time than the scale are smoothed out (Y.
 * Bar-Shalom, X. R. Li, T. Kirubarajan, Estimation with Applications to Tracking and Navigation, 2001, sections 6.2.2
 * and 8.6; the smoother is that of H. E. Rauch, F. Tung and C. T. Striebel, 1965).
 *
 * The steps may be irregular. Working memory is kept from call to call.
 */
export class PositionSmoother {
  #size = 0;
  /** Per fix: the filtered covariance, the predicted covariance, and the predicted state. */
  #pp = new Float64Array(0);
  #pv = new Float64Array(0);
  #vv = new Float64Array(0);
  #aheadPp = new Float64Array(0);
  #aheadPv = new Float64Array(0);
  #aheadVv = new Float64Array(0);
  #ahead = newPath(0);

  /**
   * @param times seconds, increasing. @param errors relative noise of each fix, of `errorsOf`. @param scale seconds.
   *   @param count number of fixes, 1 or more. @param out receives the path.
   */
  smooth(
    times: Float64Array,
    east: Float64Array,
    north: Float64Array,
    errors: Float64Array,
    scale: number,
    count: number,
    out: SmoothedPath,
  ): void {
    this.#reserve(count);
    this.#forward(times, east, north, errors, scale ** 4, count, out);
    this.#backward(times, count, out);
  }

  #forward(
    times: Float64Array,
    east: Float64Array,
    north: Float64Array,
    errors: Float64Array,
    density: number,
    count: number,
    out: SmoothedPath,
  ): void {
    const [pps, pvs, vvs] = [this.#pp, this.#pv, this.#vv];
    const [aPps, aPvs, aVvs, ahead] = [this.#aheadPp, this.#aheadPv, this.#aheadVv, this.#ahead];
    let x = east[0] as number;
    let y = north[0] as number;
    let u = 0;
    let v = 0;
    let pp = density * (errors[0] as number);
    let pv = 0;
    let vv = UNKNOWN;
    for (let k = 0; k < count; k++) {
      if (k > 0) {
        const t = (times[k] as number) - (times[k - 1] as number);
        pp += t * (2 * pv + t * (vv + t / 3));
        pv += t * (vv + t / 2);
        vv += t;
        x += t * u;
        y += t * v;
        aPps[k] = pp;
        aPvs[k] = pv;
        aVvs[k] = vv;
        ahead.east[k] = x;
        ahead.north[k] = y;
        ahead.eastward[k] = u;
        ahead.northward[k] = v;
        const spread = pp + density * (errors[k] as number);
        const gain = pp / spread;
        const turn = pv / spread;
        const dx = (east[k] as number) - x;
        const dy = (north[k] as number) - y;
        x += gain * dx;
        y += gain * dy;
        u += turn * dx;
        v += turn * dy;
        vv -= turn * pv;
        pv *= 1 - gain;
        pp *= 1 - gain;
      }
      pps[k] = pp;
      pvs[k] = pv;
      vvs[k] = vv;
      out.east[k] = x;
      out.north[k] = y;
      out.eastward[k] = u;
      out.northward[k] = v;
    }
  }

  #backward(times: Float64Array, count: number, out: SmoothedPath): void {
    const [pps, pvs, vvs] = [this.#pp, this.#pv, this.#vv];
    const [aPps, aPvs, aVvs, ahead] = [this.#aheadPp, this.#aheadPv, this.#aheadVv, this.#ahead];
    for (let k = count - 2; k >= 0; k--) {
      const n = k + 1;
      const t = (times[n] as number) - (times[k] as number);
      if (!(t > 0)) continue;
      const aPp = aPps[n] as number;
      const aPv = aPvs[n] as number;
      const aVv = aVvs[n] as number;
      const determinant = aPp * aVv - aPv * aPv;
      if (!(determinant > 0)) continue;
      const pv = pvs[k] as number;
      const vv = vvs[k] as number;
      // Covariance of this state with the predicted one, and the gain: its product with the inverse.
      const c = (pps[k] as number) + t * pv;
      const d = pv + t * vv;
      const gPp = (c * aVv - pv * aPv) / determinant;
      const gPv = (pv * aPp - c * aPv) / determinant;
      const gVp = (d * aVv - vv * aPv) / determinant;
      const gVv = (vv * aPp - d * aPv) / determinant;
      const dx = (out.east[n] as number) - (ahead.east[n] as number);
      const du = (out.eastward[n] as number) - (ahead.eastward[n] as number);
      const dy = (out.north[n] as number) - (ahead.north[n] as number);
      const dv = (out.northward[n] as number) - (ahead.northward[n] as number);
      out.east[k] = (out.east[k] as number) + gPp * dx + gPv * du;
      out.eastward[k] = (out.eastward[k] as number) + gVp * dx + gVv * du;
      out.north[k] = (out.north[k] as number) + gPp * dy + gPv * dv;
      out.northward[k] = (out.northward[k] as number) + gVp * dy + gVv * dv;
    }
  }

  #reserve(count: number): void {
    if (count <= this.#size) return;
    const size = (this.#size = bufferSize(count));
    const column = () => new Float64Array(size);
    [this.#pp, this.#pv, this.#vv] = [column(), column(), column()];
    [this.#aheadPp, this.#aheadPv, this.#aheadVv] = [column(), column(), column()];
    this.#ahead = newPath(size);
  }
}

/**
 * Noise of each fix relative to the spectral density of the noise: the inverse of the time that the fix stands for, and
 * of its weight.
 *
 * @param weights above 0. @param out receives the values, in 1/s.
 */
export function errorsOf(times: Float64Array, weights: Float64Array, count: number, out: Float64Array): void {
  for (let k = 0; k < count; k++) {
    const from = times[Math.max(0, k - 1)] as number;
    const to = times[Math.min(count - 1, k + 1)] as number;
    const step = k > 0 && k + 1 < count ? (to - from) / 2 : to - from;
    out[k] = 1 / (Math.max(SHORTEST, step) * (weights[k] as number));
  }
}
