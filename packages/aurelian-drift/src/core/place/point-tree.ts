import { earthCentredInto } from '../geodesy/earth-centred.js';

/** Coordinates are stored in 256ths of a metre: the radius of the earth is 1.63e9 of them, which fits. */
const PER_METRE = 256;
/** Points in a leaf: fewer make the tree deeper, more make leaves slower (measured: 8 to 24 are alike). */
const LEAF = 10;
/**
 * Scratch: the position in earth-centred coordinates, and pending parts, one per halving; 2^32 points are halved 32
 * times.
 */
const AT = new Float64Array(3);
const LEFTS = new Uint32Array(34);
const RIGHTS = new Uint32Array(34);
const OFFS = new Float64Array(34);

/**
 * A static tree of points on the earth, for the nearest points and for all within a distance. It divides space by
 * earth-centred coordinates (a k-d tree, Bentley 1975, each node divided across its longest side), so date line and
 * poles need no special case, and nearest means nearest in metres.
 */
export class PointTree {
  readonly #points: Int32Array;
  readonly #ids: Uint32Array;
  /** The axis of a node, at the index of its middle point. */
  readonly #axes: Uint8Array;

  /** @param ids points of the tree, which it sorts; `lats` and `lons` are degrees by id. */
  constructor(ids: Uint32Array, lats: Float64Array, lons: Float64Array) {
    this.#ids = ids;
    this.#points = new Int32Array(ids.length * 3);
    this.#axes = new Uint8Array(ids.length);
    for (let i = 0; i < ids.length; i++) {
      const id = ids[i] as number;
      earthCentredInto(AT, 0, lats[id] as number, lons[id] as number);
      for (let axis = 0; axis < 3; axis++)
        this.#points[3 * i + axis] = Math.round((AT[axis] as number) * PER_METRE);
    }
    build(this.#points, ids, this.#axes, 0, ids.length - 1);
  }

  get size(): number {
    return this.#ids.length;
  }

  /**
   * Ids of at most `max` points within `metres` of a position, nearest first.
   *
   * `metres` is measured straight through the earth, which is never more than on the ground: 1 mm less over 10 km, 1 km
   * less over 1000 km; accurate to half a centimetre. Keep `max` to some thousands; `within` is for all points.
   */
  nearest(lat: number, lon: number, max: number, metres = Infinity): number[] {
    if (!(max >= 1) || this.#ids.length === 0) return [];
    const points = this.#points;
    const ids = this.#ids;
    const axes = this.#axes;
    earthCentredInto(AT, 0, lat, lon);
    const x = (AT[0] as number) * PER_METRE;
    const y = (AT[1] as number) * PER_METRE;
    const z = (AT[2] as number) * PER_METRE;
    const found: number[] = [];
    const squares: number[] = [];
    let limit = (metres * PER_METRE) ** 2; // a chord is never longer than its arc
    // Pending parts, and their minimum distances: the far sides of the divisions on the way down.
    let waiting = 0;
    let left = 0;
    let right = ids.length - 1;
    for (;;) {
      let from = left;
      let to = right;
      if (right - left >= LEAF) {
        const middle = (left + right) >> 1;
        const axis = axes[middle] as number;
        const off = (axis === 0 ? x : axis === 1 ? y : z) - (points[3 * middle + axis] as number);
        const [farLeft, farRight] = off < 0 ? [middle + 1, right] : [left, middle - 1];
        LEFTS[waiting] = farLeft;
        RIGHTS[waiting] = farRight;
        OFFS[waiting++] = off * off;
        if (off < 0) right = middle - 1;
        else left = middle + 1;
        from = to = middle;
      }
      for (let i = from; i <= to; i++) {
        const dx = (points[3 * i] as number) - x;
        const dy = (points[3 * i + 1] as number) - y;
        const dz = (points[3 * i + 2] as number) - z;
        const square = dx * dx + dy * dy + dz * dz;
        if (square > limit) continue;
        let place = found.length;
        if (place === max) {
          if (square === limit) continue;
          place--;
        }
        for (; place > 0 && (squares[place - 1] as number) > square; place--) {
          squares[place] = squares[place - 1] as number;
          found[place] = found[place - 1] as number;
        }
        squares[place] = square;
        found[place] = ids[i] as number;
        if (found.length === max) limit = squares[max - 1] as number;
      }
      if (from !== left || to !== right) continue; // a middle point: its near side comes next
      do {
        if (waiting === 0) return found;
        waiting--;
      } while ((OFFS[waiting] as number) > limit);
      left = LEFTS[waiting] as number;
      right = RIGHTS[waiting] as number;
    }
  }

  /** Ids of all points within `metres`, measured as in `nearest`, in no order. */
  within(lat: number, lon: number, metres: number): number[] {
    earthCentredInto(AT, 0, lat, lon);
    for (let axis = 0; axis < 3; axis++) AT[axis] = (AT[axis] as number) * PER_METRE;
    const found: number[] = [];
    this.#gather(0, this.#ids.length - 1, (metres * PER_METRE) ** 2, found);
    return found;
  }

  #gather(left: number, right: number, limit: number, found: number[]): void {
    if (right - left < LEAF) {
      for (let i = left; i <= right; i++) if (this.#square(i) <= limit) found.push(this.#ids[i] as number);
      return;
    }
    const middle = (left + right) >> 1;
    const axis = this.#axes[middle] as number;
    const off = (AT[axis] as number) - (this.#points[3 * middle + axis] as number);
    if (this.#square(middle) <= limit) found.push(this.#ids[middle] as number);
    if (off < 0 || off * off <= limit) this.#gather(left, middle - 1, limit, found);
    if (off >= 0 || off * off <= limit) this.#gather(middle + 1, right, limit, found);
  }

  #square(i: number): number {
    const points = this.#points;
    const dx = (points[3 * i] as number) - (AT[0] as number);
    const dy = (points[3 * i + 1] as number) - (AT[1] as number);
    const dz = (points[3 * i + 2] as number) - (AT[2] as number);
    return dx * dx + dy * dy + dz * dz;
  }
}

/** Puts the middle point of a part in its place, along the part's longest side, and so on in its halves. */
function build(points: Int32Array, ids: Uint32Array, axes: Uint8Array, left: number, right: number): void {
  if (right - left < LEAF) return;
  const middle = (left + right) >> 1;
  const axis = longestAxis(points, left, right);
  axes[middle] = axis;
  select(points, ids, middle, left, right, axis);
  build(points, ids, axes, left, middle - 1);
  build(points, ids, axes, middle + 1, right);
}

function longestAxis(points: Int32Array, left: number, right: number): number {
  let best = 0;
  let longest = -1;
  for (let axis = 0; axis < 3; axis++) {
    let min = Infinity;
    let max = -Infinity;
    for (let i = 3 * left + axis; i <= 3 * right + axis; i += 3) {
      const value = points[i] as number;
      if (value < min) min = value;
      if (value > max) max = value;
    }
    if (max - min > longest) [best, longest] = [axis, max - min];
  }
  return best;
}

/**
 * Floyd and Rivest's selection (1975): afterwards no point left of `k` is beyond it on the axis, and none right of it
 * before.
 */
function select(
  points: Int32Array,
  ids: Uint32Array,
  k: number,
  from: number,
  to: number,
  axis: number,
): void {
  let left = from;
  let right = to;
  while (right > left) {
    if (right - left > 600) {
      // Bounds of a sample that very probably contains the wanted one: their formula, with their constants.
      const n = right - left + 1;
      const m = k - left + 1;
      const z = Math.log(n);
      const s = 0.5 * Math.exp((2 * z) / 3);
      const sd = 0.5 * Math.sqrt((z * s * (n - s)) / n) * (m - n / 2 < 0 ? -1 : 1);
      const low = Math.max(left, Math.floor(k - (m * s) / n + sd));
      const high = Math.min(right, Math.floor(k + ((n - m) * s) / n + sd));
      select(points, ids, k, low, high, axis);
    }
    const pivot = points[3 * k + axis] as number;
    let i = left;
    let j = right;
    swap(points, ids, left, k);
    if ((points[3 * right + axis] as number) > pivot) swap(points, ids, left, right);
    while (i < j) {
      swap(points, ids, i, j);
      i++;
      j--;
      while ((points[3 * i + axis] as number) < pivot) i++;
      while ((points[3 * j + axis] as number) > pivot) j--;
    }
    if (points[3 * left + axis] === pivot) swap(points, ids, left, j);
    else swap(points, ids, ++j, right);
    if (j <= k) left = j + 1;
    if (k <= j) right = j - 1;
  }
}

function swap(points: Int32Array, ids: Uint32Array, i: number, j: number): void {
  const [a, b] = [3 * i, 3 * j];
  const x = points[a] as number;
  const y = points[a + 1] as number;
  const z = points[a + 2] as number;
  points[a] = points[b] as number;
  points[a + 1] = points[b + 1] as number;
  points[a + 2] = points[b + 2] as number;
  points[b] = x;
  points[b + 1] = y;
  points[b + 2] = z;
  const id = ids[i] as number;
  ids[i] = ids[j] as number;
  ids[j] = id;
}
