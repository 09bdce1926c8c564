/**
 * Estimate of a position, its velocity and the error that consecutive fixes share, along two axes at a time. Metres,
 * seconds.
 *
 * The model: velocity changes by white acceleration (a "nearly constant velocity" model); a fix is the position, plus a
 * correlated error (first-order Gauss-Markov process), plus white noise. The correlated error is a state beside
 * position and velocity, so that many fixes in a row with the same error do not count as many independent measurements
 * (Y. Bar-Shalom, X. R. Li, T. Kirubarajan, Estimation with Applications to Tracking and Navigation, 2001, sections
 * 6.2.2 and 8.2.3).
 *
 * Both axes have the same noise, so one covariance serves both. Positions are offsets from an origin of the caller.
 * Twelve numbers: position, velocity and correlated error, east and then north of each; then the upper triangle of the
 * covariance of one axis, pp, pv, pb, vv, vb, bb. Errors are variances along an axis: `wander` of the correlated error,
 * `white` of the white noise.
 */
export type Estimate = Float64Array;

/** Index of each number. */
export const PLACE = 0;
export const VELOCITY = 2;
const ERROR = 4;
export const PP = 6;
const PV = 7;
const PB = 8;
export const VV = 9;
const VB = 10;
const BB = 11;
const SIZE = 12;
/**
 * Larger numbers, in metres and their squares, are damaged: the variance of the coarsest accepted fix, ±1e9 m, is 2e17.
 */
const GREATEST = 1e19;

/**
 * Whether a value can be the numbers of a prediction: twelve, of a possible size. Variances and covariances are not
 * compared: after fixes of very different accuracy, rounding leaves some that are inconsistent.
 */
export function isPrediction(numbers: unknown): boolean {
  return (
    Array.isArray(numbers) &&
    numbers.length === SIZE &&
    numbers.every((number) => typeof number === 'number' && Math.abs(number) <= GREATEST)
  );
}

/**
 * Whether a value can be the numbers of an estimate after a measurement: its variances, which every update keeps so,
 * are not negative.
 */
export function isEstimate(numbers: unknown): boolean {
  return (
    isPrediction(numbers) && [PP, VV, BB].every((i) => ((numbers as readonly number[])[i] as number) >= 0)
  );
}

export function newEstimate(): Estimate {
  return new Float64Array(SIZE);
}

/** Its numbers; four times as fast as spreading (measured). */
export function numbersOf(estimate: Estimate): number[] {
  const numbers: number[] = [];
  for (const number of estimate) numbers.push(number);
  return numbers;
}

/** Estimate after a first fix at the origin: the position is known except for the two errors. */
export function beginWith(estimate: Estimate, wander: number, white: number, speed: number): void {
  estimate.fill(0);
  // The position is the fix minus its error, so the two are correlated.
  estimate[PP] = wander + white;
  estimate[PB] = -wander;
  estimate[VV] = speed * speed;
  estimate[BB] = wander;
}

/** Writes the estimate some seconds later to `out`. @param acceleration power of the white acceleration, m²/s³. */
export function predictInto(
  out: Estimate,
  estimate: Estimate,
  seconds: number,
  acceleration: number,
  wander: number,
  memory: number,
): void {
  const t = seconds;
  const q = acceleration;
  const keep = Math.exp(-t / memory);
  const pv = estimate[PV] as number;
  const pb = estimate[PB] as number;
  const vv = estimate[VV] as number;
  const vb = estimate[VB] as number;
  for (let axis = 0; axis < 2; axis++) {
    const velocity = estimate[VELOCITY + axis] as number;
    out[PLACE + axis] = (estimate[PLACE + axis] as number) + t * velocity;
    out[VELOCITY + axis] = velocity;
    out[ERROR + axis] = keep * (estimate[ERROR + axis] as number);
  }
  out[PP] = (estimate[PP] as number) + 2 * t * pv + t * t * vv + (q * t * t * t) / 3;
  out[PV] = pv + t * vv + (q * t * t) / 2;
  out[PB] = keep * (pb + t * vb);
  out[VV] = vv + q * t;
  out[VB] = keep * vb;
  out[BB] = keep * keep * (estimate[BB] as number) + wander * (1 - keep * keep);
}

/** Squared distance of a fix from its prediction, m², of both axes together: twice `placeSpread` on average. */
export function unexpected(estimate: Estimate, east: number, north: number): number {
  const dE = east - (estimate[PLACE] as number) - (estimate[ERROR] as number);
  const dN = north - (estimate[PLACE + 1] as number) - (estimate[ERROR + 1] as number);
  return dE * dE + dN * dN;
}

/** Update with a measured position: position plus correlated error, with white noise. */
export function takePlace(estimate: Estimate, east: number, north: number, white: number): void {
  const dE = east - (estimate[PLACE] as number) - (estimate[ERROR] as number);
  const dN = north - (estimate[PLACE + 1] as number) - (estimate[ERROR + 1] as number);
  const sp = (estimate[PP] as number) + (estimate[PB] as number);
  const sv = (estimate[PV] as number) + (estimate[VB] as number);
  const sb = (estimate[PB] as number) + (estimate[BB] as number);
  update(estimate, sp, sv, sb, placeSpread(estimate, white), dE, dN);
}

/** Update with a measured velocity and its variance. */
export function takeVelocity(estimate: Estimate, east: number, north: number, error: number): void {
  const dE = east - (estimate[VELOCITY] as number);
  const dN = north - (estimate[VELOCITY + 1] as number);
  const vv = estimate[VV] as number;
  update(estimate, estimate[PV] as number, vv, estimate[VB] as number, vv + error, dE, dN);
}

/** Variance along an axis of the prediction of a fix. */
export function placeSpread(estimate: Estimate, white: number): number {
  return (estimate[PP] as number) + 2 * (estimate[PB] as number) + (estimate[BB] as number) + white;
}

/**
 * Kalman update (R. E. Kalman, 1960) with one measurement per axis: `sp`, `sv`, `sb` are its covariances with each
 * state.
 */
function update(
  estimate: Estimate,
  sp: number,
  sv: number,
  sb: number,
  spread: number,
  dE: number,
  dN: number,
): void {
  const gp = sp / spread;
  const gv = sv / spread;
  const gb = sb / spread;
  estimate[PLACE] = (estimate[PLACE] as number) + gp * dE;
  estimate[PLACE + 1] = (estimate[PLACE + 1] as number) + gp * dN;
  estimate[VELOCITY] = (estimate[VELOCITY] as number) + gv * dE;
  estimate[VELOCITY + 1] = (estimate[VELOCITY + 1] as number) + gv * dN;
  estimate[ERROR] = (estimate[ERROR] as number) + gb * dE;
  estimate[ERROR + 1] = (estimate[ERROR + 1] as number) + gb * dN;
  estimate[PP] = Math.max(0, (estimate[PP] as number) - gp * sp);
  estimate[PV] = (estimate[PV] as number) - gp * sv;
  estimate[PB] = (estimate[PB] as number) - gp * sb;
  estimate[VV] = Math.max(0, (estimate[VV] as number) - gv * sv);
  estimate[VB] = (estimate[VB] as number) - gv * sb;
  estimate[BB] = Math.max(0, (estimate[BB] as number) - gb * sb);
}

/**
 * Smoothed estimate of an earlier time, from that of a later one (H. E. Rauch, F. Tung, C. T. Striebel, "Maximum
 * likelihood estimates of linear dynamic systems", AIAA Journal 3, 1965). All three with the same origin.
 *
 * @param now filtered estimate of the earlier time. @param ahead its prediction for the later time, `seconds` after.
 */
export function smoothed(
  now: Estimate,
  ahead: Estimate,
  later: Estimate,
  seconds: number,
  memory: number,
): Estimate {
  const [pp, pv, pb, vv, vb, bb] = covarianceOf(now);
  const keep = Math.exp(-seconds / memory);
  // Covariance of the earlier state with the predicted one: P Fᵀ.
  const cross: Matrix = [
    [pp + seconds * pv, pv, keep * pb],
    [pv + seconds * vv, vv, keep * vb],
    [pb + seconds * vb, vb, keep * bb],
  ];
  const turned = inverse(covarianceOf(ahead));
  if (turned === undefined) return now; // two fixes with the same time: the later one adds nothing
  const gain = product(cross, turned);
  const earlier = Float64Array.from(now);
  for (const axis of [0, 1]) {
    const change = [PLACE, VELOCITY, ERROR].map(
      (at) => (later[at + axis] as number) - (ahead[at + axis] as number),
    ) as unknown as Row;
    gain.forEach((row, i) => {
      earlier[2 * i + axis] = (earlier[2 * i + axis] as number) + dot(row, change);
    });
  }
  const predicted = covarianceOf(ahead);
  const difference = square(
    covarianceOf(later).map((value, i) => value - (predicted[i] as number)) as unknown as Six,
  );
  const spread = product(product(gain, difference), transposed(gain));
  earlier[PP] = Math.max(0, pp + spread[0][0]);
  earlier[PV] = pv + spread[0][1];
  earlier[PB] = pb + spread[0][2];
  earlier[VV] = Math.max(0, vv + spread[1][1]);
  earlier[VB] = vb + spread[1][2];
  earlier[BB] = Math.max(0, bb + spread[2][2]);
  return earlier;
}

function covarianceOf(estimate: Estimate): Six {
  return [...estimate.subarray(PP)] as unknown as Six;
}

type Six = readonly [number, number, number, number, number, number];
type Row = readonly [number, number, number];
type Matrix = readonly [Row, Row, Row];

function square([a, b, c, d, e, f]: Six): Matrix {
  return [
    [a, b, c],
    [b, d, e],
    [c, e, f],
  ];
}

/** Inverse of a symmetric matrix, by its cofactors; `undefined` when it is singular. */
function inverse([a, b, c, d, e, f]: Six): Matrix | undefined {
  const [A, B, C] = [d * f - e * e, c * e - b * f, b * e - c * d];
  const determinant = a * A + b * B + c * C;
  if (!(determinant > Number.EPSILON * a * d * f)) return undefined;
  const cofactors = square([A, B, C, a * f - c * c, b * c - a * e, a * d - b * b]);
  return cofactors.map((row) => row.map((value) => value / determinant)) as unknown as Matrix;
}

function product(left: Matrix, right: Matrix): Matrix {
  const columns = transposed(right);
  return left.map((row) => columns.map((column) => dot(row, column))) as unknown as Matrix;
}

function transposed(matrix: Matrix): Matrix {
  return [0, 1, 2].map((i) => matrix.map((row) => row[i as 0 | 1 | 2])) as unknown as Matrix;
}

function dot([a, b, c]: Row, [x, y, z]: Row): number {
  return a * x + b * y + c * z;
}
