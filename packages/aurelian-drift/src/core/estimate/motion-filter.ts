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
export type Belief = Float64Array;

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
export function isBelief(numbers: unknown): boolean {
  return (
    isPrediction(numbers) && [PP, VV, BB].every((i) => ((numbers as readonly number[])[i] as number) >= 0)
  );
}

export function newBelief(): Belief {
  return new Float64Array(SIZE);
}

/** Its numbers, four times as fast as by spreading it (measured). */
export function numbersOf(belief: Belief): number[] {
  const numbers: number[] = [];
  for (const number of belief) numbers.push(number);
  return numbers;
}

/** The belief after a first fix at the origin: shared error and error of its own are all that is known of the place. */
export function beginWith(belief: Belief, wander: number, white: number, speed: number): void {
  belief.fill(0);
  // The place is the fix less its error, so the two are bound to one another.
  belief[PP] = wander + white;
  belief[PB] = -wander;
  belief[VV] = speed * speed;
  belief[BB] = wander;
}

/** Puts into `out` the belief some seconds later. @param acceleration power of the white acceleration, m²/s³. */
export function predictInto(
  out: Belief,
  belief: Belief,
  seconds: number,
  acceleration: number,
  wander: number,
  memory: number,
): void {
  const t = seconds;
  const q = acceleration;
  const keep = Math.exp(-t / memory);
  const pv = belief[PV] as number;
  const pb = belief[PB] as number;
  const vv = belief[VV] as number;
  const vb = belief[VB] as number;
  for (let axis = 0; axis < 2; axis++) {
    const velocity = belief[VELOCITY + axis] as number;
    out[PLACE + axis] = (belief[PLACE + axis] as number) + t * velocity;
    out[VELOCITY + axis] = velocity;
    out[ERROR + axis] = keep * (belief[ERROR + axis] as number);
  }
  out[PP] = (belief[PP] as number) + 2 * t * pv + t * t * vv + (q * t * t * t) / 3;
  out[PV] = pv + t * vv + (q * t * t) / 2;
  out[PB] = keep * (pb + t * vb);
  out[VV] = vv + q * t;
  out[VB] = keep * vb;
  out[BB] = keep * keep * (belief[BB] as number) + wander * (1 - keep * keep);
}

/** How far a fix is from where it was expected, m², of both axes together: twice `placeSpread` on average. */
export function unexpected(belief: Belief, east: number, north: number): number {
  const dE = east - (belief[PLACE] as number) - (belief[ERROR] as number);
  const dN = north - (belief[PLACE + 1] as number) - (belief[ERROR + 1] as number);
  return dE * dE + dN * dN;
}

/** Takes a fix in: place plus shared error were seen here, with an error of its own. */
export function takePlace(belief: Belief, east: number, north: number, white: number): void {
  const dE = east - (belief[PLACE] as number) - (belief[ERROR] as number);
  const dN = north - (belief[PLACE + 1] as number) - (belief[ERROR + 1] as number);
  const sp = (belief[PP] as number) + (belief[PB] as number);
  const sv = (belief[PV] as number) + (belief[VB] as number);
  const sb = (belief[PB] as number) + (belief[BB] as number);
  update(belief, sp, sv, sb, placeSpread(belief, white), dE, dN);
}

/** Takes a velocity in, with the variance of its error. */
export function takeVelocity(belief: Belief, east: number, north: number, error: number): void {
  const dE = east - (belief[VELOCITY] as number);
  const dN = north - (belief[VELOCITY + 1] as number);
  const vv = belief[VV] as number;
  update(belief, belief[PV] as number, vv, belief[VB] as number, vv + error, dE, dN);
}

/** Variance along an axis of where a fix is expected. */
export function placeSpread(belief: Belief, white: number): number {
  return (belief[PP] as number) + 2 * (belief[PB] as number) + (belief[BB] as number) + white;
}

/**
 * Kalman's update (R. E. Kalman, 1960) with one observation an axis: `sp`, `sv`, `sb` are its covariances with each
 * state.
 */
function update(
  belief: Belief,
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
  belief[PLACE] = (belief[PLACE] as number) + gp * dE;
  belief[PLACE + 1] = (belief[PLACE + 1] as number) + gp * dN;
  belief[VELOCITY] = (belief[VELOCITY] as number) + gv * dE;
  belief[VELOCITY + 1] = (belief[VELOCITY + 1] as number) + gv * dN;
  belief[ERROR] = (belief[ERROR] as number) + gb * dE;
  belief[ERROR + 1] = (belief[ERROR + 1] as number) + gb * dN;
  belief[PP] = Math.max(0, (belief[PP] as number) - gp * sp);
  belief[PV] = (belief[PV] as number) - gp * sv;
  belief[PB] = (belief[PB] as number) - gp * sb;
  belief[VV] = Math.max(0, (belief[VV] as number) - gv * sv);
  belief[VB] = (belief[VB] as number) - gv * sb;
  belief[BB] = Math.max(0, (belief[BB] as number) - gb * sb);
}

/**
 * The belief of an earlier time, once that of a later one is known from all that came after (H. E. Rauch, F. Tung, C.
 * T. Striebel, "Maximum likelihood estimates of linear dynamic systems", AIAA Journal 3, 1965). All three in one
 * origin.
 *
 * @param now what was believed at the earlier time. @param ahead what that foretold for the later one, `seconds` after.
 */
export function smoothed(now: Belief, ahead: Belief, later: Belief, seconds: number, memory: number): Belief {
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
  const foretold = covarianceOf(ahead);
  const difference = square(
    covarianceOf(later).map((value, i) => value - (foretold[i] as number)) as unknown as Six,
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

function covarianceOf(belief: Belief): Six {
  return [...belief.subarray(PP)] as unknown as Six;
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
