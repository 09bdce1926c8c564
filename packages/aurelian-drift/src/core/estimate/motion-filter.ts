/**
 * What is believed of a place, its velocity and the error that its fixes share, along two axes at a time. Metres,
 * seconds.
 *
 * The model: velocity changes by white acceleration (a "nearly constant velocity"); a fix is the place, plus an error
 * that wanders and forgets itself (first-order Gauss-Markov), plus an error of its own. The wandering error is a state
 * beside place and velocity, so that many fixes in a row with the same error are not taken for many witnesses (Y.
 * Bar-Shalom, X. R. Li, T. Kirubarajan, Estimation with Applications to Tracking and Navigation, 2001, sections 6.2.2
 * and 8.2.3).
 *
 * Both axes have the same noise, so one covariance serves both. Places are offsets from wherever the caller has its
 * origin. Twelve numbers: place, velocity and shared error, east and then north of each; then the upper triangle of the
 * covariance of one axis, pp, pv, pb, vv, vb, bb. Errors are told as variances along an axis: `wander` of the shared
 * one, `white` of that of one fix alone.
 */
export type Estimate = Float64Array;

/** Where each number stands. */
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
 * Beyond this, in metres and their squares, a number has been damaged: the variance of the coarsest fix that is
 * accepted, ±1e9 m, is 2e17.
 */
const GREATEST = 1e19;

/**
 * Whether a value can be the numbers of a prediction: twelve, of a size that can be. Variances and covariances are not
 * held against one another: after fixes of very different accuracy, rounding leaves some that could not be.
 */
export function isPrediction(numbers: unknown): boolean {
  return (
    Array.isArray(numbers) &&
    numbers.length === SIZE &&
    numbers.every((number) => typeof number === 'number' && Math.abs(number) <= GREATEST)
  );
}

/**
 * Whether a value can be the numbers of a belief that took an observation: its variances, which every update keeps so,
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

/** Its numbers, four times as fast as by spreading it (measured). */
export function numbersOf(estimate: Estimate): number[] {
  const numbers: number[] = [];
  for (const number of estimate) numbers.push(number);
  return numbers;
}

/** The belief after a first fix at the origin: shared error and error of its own are all that is known of the place. */
export function beginWith(estimate: Estimate, wander: number, white: number, speed: number): void {
  estimate.fill(0);
  // The place is the fix less its error, so the two are bound to one another.
  estimate[PP] = wander + white;
  estimate[PB] = -wander;
  estimate[VV] = speed * speed;
  estimate[BB] = wander;
}

/** Puts into `out` the belief some seconds later. @param acceleration power of the white acceleration, m²/s³. */
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

/** How far a fix is from where it was expected, m², of both axes together: twice `placeSpread` on average. */
export function unexpected(estimate: Estimate, east: number, north: number): number {
  const dE = east - (estimate[PLACE] as number) - (estimate[ERROR] as number);
  const dN = north - (estimate[PLACE + 1] as number) - (estimate[ERROR + 1] as number);
  return dE * dE + dN * dN;
}

/** Takes a fix in: place plus shared error were seen here, with an error of its own. */
export function takePlace(estimate: Estimate, east: number, north: number, white: number): void {
  const dE = east - (estimate[PLACE] as number) - (estimate[ERROR] as number);
  const dN = north - (estimate[PLACE + 1] as number) - (estimate[ERROR + 1] as number);
  const sp = (estimate[PP] as number) + (estimate[PB] as number);
  const sv = (estimate[PV] as number) + (estimate[VB] as number);
  const sb = (estimate[PB] as number) + (estimate[BB] as number);
  update(estimate, sp, sv, sb, placeSpread(estimate, white), dE, dN);
}

/** Takes a velocity in, with the variance of its error. */
export function takeVelocity(estimate: Estimate, east: number, north: number, error: number): void {
  const dE = east - (estimate[VELOCITY] as number);
  const dN = north - (estimate[VELOCITY + 1] as number);
  const vv = estimate[VV] as number;
  update(estimate, estimate[PV] as number, vv, estimate[VB] as number, vv + error, dE, dN);
}

/** Variance along an axis of where a fix is expected. */
export function placeSpread(estimate: Estimate, white: number): number {
  return (estimate[PP] as number) + 2 * (estimate[PB] as number) + (estimate[BB] as number) + white;
}

/**
 * Kalman's update (R. E. Kalman, 1960) with one observation an axis: `sp`, `sv`, `sb` are its covariances with each
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
 * The belief of an earlier time, once that of a later one is known from all that came after (H. E. Rauch, F. Tung, C.
 * T. Striebel, "Maximum likelihood estimates of linear dynamic systems", AIAA Journal 3, 1965). All three in one
 * origin.
 *
 * @param now what was believed at the earlier time. @param ahead what that foretold for the later one, `seconds` after.
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
  // Covariance of the earlier state with the foretold one: P Fᵀ.
  const cross: Matrix = [
    [pp + seconds * pv, pv, keep * pb],
    [pv + seconds * vv, vv, keep * vb],
    [pb + seconds * vb, vb, keep * bb],
  ];
  const turned = inverse(covarianceOf(ahead));
  if (turned === undefined) return now; // two fixes of one time: nothing comes of the later one
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

/** Of a symmetric matrix, by its cofactors; `undefined` when it has none to speak of. */
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
