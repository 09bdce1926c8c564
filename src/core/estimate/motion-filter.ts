/**
 * What is believed of a place, its velocity and the error that its fixes share, along two axes at a time. Metres, seconds.
 *
 * The model: velocity changes by white acceleration (a "nearly constant velocity"); a fix is the place, plus an error that wanders and
 * forgets itself (first-order Gauss-Markov), plus an error of its own. The wandering error is a state beside place and velocity, so that many
 * fixes in a row with the same error are not taken for many witnesses (Y. Bar-Shalom, X. R. Li, T. Kirubarajan, Estimation with Applications to
 * Tracking and Navigation, 2001, sections 6.2.2 and 8.2.3).
 *
 * Both axes have the same noise, so one covariance serves both. Places are offsets from wherever the caller has its origin.
 */
export interface Belief {
  /** Place, velocity and shared error, east and then north of each. */
  readonly state: Float64Array;
  /** Upper triangle of the covariance of one axis: pp, pv, pb, vv, vb, bb. */
  readonly covariance: Float64Array;
}

/** The belief after a first fix at the origin: shared error and error of its own are all that is known of the place. */
export function firstBelief(wander: number, white: number, speed: number): Belief {
  const shared = wander * wander;
  // The place is the fix less its error, so the two are bound to one another.
  return {
    state: new Float64Array(6),
    covariance: Float64Array.of(shared + white * white, 0, -shared, speed * speed, 0, shared),
  };
}

/** The belief some seconds later. @param acceleration power of the white acceleration, m²/s³. */
export function predicted(
  { state, covariance }: Belief,
  seconds: number,
  acceleration: number,
  wander: number,
  memory: number,
): Belief {
  const keep = Math.exp(-seconds / memory);
  const [pE, pN, vE, vN, bE, bN] = state as unknown as Six;
  const [pp, pv, pb, vv, vb, bb] = covariance as unknown as Six;
  const t = seconds;
  const q = acceleration;
  return {
    state: Float64Array.of(pE + t * vE, pN + t * vN, vE, vN, keep * bE, keep * bN),
    covariance: Float64Array.of(
      pp + 2 * t * pv + t * t * vv + (q * t * t * t) / 3,
      pv + t * vv + (q * t * t) / 2,
      keep * (pb + t * vb),
      vv + q * t,
      keep * vb,
      keep * keep * bb + wander * wander * (1 - keep * keep),
    ),
  };
}

/** How far a fix is from where it was expected, in units of what is expected; squared. Of two axes together, so 2 on average. */
export function surprise({ state, covariance }: Belief, east: number, north: number, white: number): number {
  const [pp, , pb, , , bb] = covariance as unknown as Six;
  const spread = pp + 2 * pb + bb + white * white;
  const dE = east - (state[0] as number) - (state[4] as number);
  const dN = north - (state[1] as number) - (state[5] as number);
  return (dE * dE + dN * dN) / spread;
}

/** The belief once a fix is taken in: place plus shared error were seen here, with an error of its own. */
export function withPlace(belief: Belief, east: number, north: number, white: number): Belief {
  const { state, covariance } = belief;
  const [pp, pv, pb, vv, vb, bb] = covariance as unknown as Six;
  const spread = pp + 2 * pb + bb + white * white;
  const seen: readonly [number, number, number] = [pp + pb, pv + vb, pb + bb];
  const dE = east - (state[0] as number) - (state[4] as number);
  const dN = north - (state[1] as number) - (state[5] as number);
  return updated(state, [pp, pv, pb, vv, vb, bb], seen, spread, dE, dN);
}

/** The belief once a velocity is taken in. @param error standard deviation of each axis. */
export function withVelocity(belief: Belief, east: number, north: number, error: number): Belief {
  const { state, covariance } = belief;
  const [pp, pv, pb, vv, vb, bb] = covariance as unknown as Six;
  const dE = east - (state[2] as number);
  const dN = north - (state[3] as number);
  return updated(state, [pp, pv, pb, vv, vb, bb], [pv, vv, vb], vv + error * error, dE, dN);
}

/** Kalman's update (R. E. Kalman, 1960) with one observation an axis: `seen` is the covariance with each state. */
function updated(
  state: Float64Array,
  [pp, pv, pb, vv, vb, bb]: readonly [number, number, number, number, number, number],
  [sp, sv, sb]: readonly [number, number, number],
  spread: number,
  dE: number,
  dN: number,
): Belief {
  const [gp, gv, gb] = [sp / spread, sv / spread, sb / spread];
  return {
    state: Float64Array.of(
      (state[0] as number) + gp * dE,
      (state[1] as number) + gp * dN,
      (state[2] as number) + gv * dE,
      (state[3] as number) + gv * dN,
      (state[4] as number) + gb * dE,
      (state[5] as number) + gb * dN,
    ),
    covariance: Float64Array.of(
      Math.max(0, pp - gp * sp),
      pv - gp * sv,
      pb - gp * sb,
      Math.max(0, vv - gv * sv),
      vb - gv * sb,
      Math.max(0, bb - gb * sb),
    ),
  };
}

/**
 * The belief of an earlier time, once that of a later one is known from all that came after (H. E. Rauch, F. Tung, C. T. Striebel, "Maximum likelihood
 * estimates of linear dynamic systems", AIAA Journal 3, 1965). All three in one origin.
 *
 * @param now what was believed at the earlier time. @param ahead what that foretold for the later one, `seconds` after.
 */
export function smoothed(now: Belief, ahead: Belief, later: Belief, seconds: number, memory: number): Belief {
  const [pp, pv, pb, vv, vb, bb] = now.covariance as unknown as Six;
  const keep = Math.exp(-seconds / memory);
  // Covariance of the earlier state with the foretold one: P Fᵀ.
  const cross: Matrix = [
    [pp + seconds * pv, pv, keep * pb],
    [pv + seconds * vv, vv, keep * vb],
    [pb + seconds * vb, vb, keep * bb],
  ];
  const gain = product(cross, inverse(ahead.covariance as unknown as Six));
  const change = (axis: 0 | 1): Row =>
    [0, 2, 4].map(
      (i) => (later.state[i + axis] as number) - (ahead.state[i + axis] as number),
    ) as unknown as Row;
  const state = Float64Array.from(now.state);
  for (const axis of [0, 1] as const) {
    const moved = change(axis);
    gain.forEach((row, i) => {
      state[2 * i + axis] = (state[2 * i + axis] as number) + dot(row, moved);
    });
  }
  const difference = square(
    later.covariance.map((value, i) => value - (ahead.covariance[i] as number)) as unknown as Six,
  );
  const spread = product(product(gain, difference), transposed(gain));
  return {
    state,
    covariance: Float64Array.of(
      Math.max(0, pp + spread[0][0]),
      pv + spread[0][1],
      pb + spread[0][2],
      Math.max(0, vv + spread[1][1]),
      vb + spread[1][2],
      Math.max(0, bb + spread[2][2]),
    ),
  };
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

/** Of a symmetric matrix, by its cofactors. */
function inverse([a, b, c, d, e, f]: Six): Matrix {
  const [A, B, C] = [d * f - e * e, c * e - b * f, b * e - c * d];
  const determinant = a * A + b * B + c * C;
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
