import { InputError } from '../check/input-error.js';
import { checkOptions, numberFrom, yesOrNo } from '../check/options.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Trail } from './trail.js';
import { partOf } from './part.js';

/** Options of `thinTrail`. */
export interface ThinOptions {
  /**
   * Keeps when one was where, too: a fix is left out only when the line was within the tolerance of it at its very
   * time. Default false.
   */
  readonly timeAware?: boolean;
}

/** How much a plane may stretch within a piece that is thinned in it; the tolerance is tightened by as much. */
const STRETCH = 0.01;
/**
 * Points of a block whose corner is found first: fewer cost some fixes more than are needed, more cost time (measured).
 */
const BLOCK = 128;

/**
 * The trail with the fewest fixes, as a good guess, whose straight lines (in longitude and latitude) pass every fix
 * that was left out within `tolerance` metres. Fixes that stay are as they were; the first and last of each segment
 * stay.
 *
 * Douglas and Peucker's method (1973), on planes small enough that their stretch is within a hundredth, and a tolerance
 * tightened by it.
 *
 * @throws {InputError} for a tolerance that is not above 0, or a misspelt option.
 */
export function thinTrail(trail: Trail, tolerance: number, options: ThinOptions = {}): Trail {
  checkOptions('thinTrail', options, { timeAware: yesOrNo });
  const problem = numberFrom(Number.MIN_VALUE, 1e7, 'metres')(tolerance);
  if (problem !== undefined) throw new InputError('bad-value', `thinTrail: tolerance ${problem}`);
  const kept = new Uint8Array(trail.length);
  for (const { start, end } of trail.segments) {
    const lats = trail.column('lat', start, end);
    const lons = trail.column('lon', start, end);
    const times = options.timeAware === true ? trail.column('time', start, end) : undefined;
    let from = 0;
    while (from < lats.length - 1) {
      const to = endOfPiece(lats, from);
      // The plane takes the place of the degrees, but for the last, from which the next piece starts.
      const [lat, lon] = [lats[to] as number, lons[to] as number];
      keep(flattened(lats, lons, times, from, to), kept, start + from, (tolerance * (1 - STRETCH)) ** 2);
      lats[to] = lat;
      lons[to] = lon;
      from = to;
    }
    kept[start] = kept[end - 1] = 1;
  }
  return partOf(trail, kept);
}

/** A stretch of a trail in a plane, in metres; `t` is the time where it counts. */
interface Piece {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly t: Float64Array | undefined;
}

/** The last point that a plane around a point holds. */
function endOfPiece(lats: Float64Array, from: number): number {
  const lat0 = lats[from] as number;
  // Where a degree of longitude is 1 % longer or shorter, the plane ends; near a pole at once.
  const slope = Math.abs(Math.tan((lat0 * Math.PI) / 180)) * (Math.PI / 180);
  const reach = Math.min(0.5, STRETCH / Math.max(slope, 1e-9) / 2);
  let to = from + 1;
  while (to + 1 < lats.length && Math.abs((lats[to + 1] as number) - lat0) <= reach) to++;
  return to;
}

/** Points from one to another in metres from the first, in place of their degrees. */
function flattened(
  lats: Float64Array,
  lons: Float64Array,
  times: Float64Array | undefined,
  from: number,
  to: number,
): Piece {
  const lat0 = lats[from] as number;
  const lon0 = lons[from] as number;
  const { east, north } = metresPerDegree(lat0);
  // Longitudes go on across the date line.
  let turns = 0;
  let before = lon0;
  for (let i = from; i <= to; i++) {
    const lon = lons[i] as number;
    if (lon - before > 180) turns -= 360;
    else if (lon - before < -180) turns += 360;
    before = lon;
    lons[i] = (lon + turns - lon0) * east;
    lats[i] = ((lats[i] as number) - lat0) * north;
  }
  return {
    x: lons.subarray(from, to + 1),
    y: lats.subarray(from, to + 1),
    t: times?.subarray(from, to + 1),
  };
}

/**
 * Marks the points to keep of a piece: both ends, and of each stretch between two the one that is farthest off its
 * line.
 */
function keep(piece: Piece, kept: Uint8Array, offset: number, limit: number): void {
  const last = piece.x.length - 1;
  kept[offset] = kept[offset + last] = 1;
  // From corners found block by block: the whole need not be gone through again for each of the first halvings.
  let corner = 0;
  for (let block = 0; block < last; block += BLOCK) {
    const end = Math.min(block + BLOCK, last);
    const next = end === last ? last : farthest(piece, block, end, limit);
    if (next < 0) continue;
    kept[offset + next] = 1;
    halve(piece, kept, offset, limit, corner, next);
    corner = next;
  }
  if (corner < last) halve(piece, kept, offset, limit, corner, last);
}

/** Marks the points to keep between two that are kept. */
function halve(
  piece: Piece,
  kept: Uint8Array,
  offset: number,
  limit: number,
  first: number,
  last: number,
): void {
  const stack = [first, last];
  while (stack.length > 0) {
    const to = stack.pop() as number;
    const from = stack.pop() as number;
    const middle = to - from > 1 ? farthest(piece, from, to, limit) : -1;
    if (middle < 0) continue;
    kept[offset + middle] = 1;
    stack.push(from, middle, middle, to);
  }
}

function farthest({ x, y, t }: Piece, from: number, to: number, limit: number): number {
  return t === undefined ? farthestOff(x, y, from, to, limit) : farthestInTime(x, y, t, from, to, limit);
}

/** The point between two that is farthest off the straight line between them, if farther than the limit; else −1. */
function farthestOff(x: Float64Array, y: Float64Array, from: number, to: number, limit: number): number {
  const ax = x[from] as number;
  const ay = y[from] as number;
  const dx = (x[to] as number) - ax;
  const dy = (y[to] as number) - ay;
  const square = dx * dx + dy * dy;
  // Distances are compared times the square of the line's length, so that nothing is divided.
  const scale = square === 0 ? 1 : square;
  let max = limit * scale;
  let farthest = -1;
  for (let i = from + 1; i < to; i++) {
    const px = (x[i] as number) - ax;
    const py = (y[i] as number) - ay;
    const along = px * dx + py * dy;
    let off: number;
    if (along <= 0) off = (px * px + py * py) * scale;
    else if (along >= square) {
      const qx = px - dx;
      const qy = py - dy;
      off = (qx * qx + qy * qy) * scale;
    } else {
      const across = px * dy - py * dx;
      off = across * across;
    }
    if (off > max) {
      max = off;
      farthest = i;
    }
  }
  return farthest;
}

/** The point between two that is farthest from where the line was at its time, if farther than the limit; else −1. */
function farthestInTime(
  x: Float64Array,
  y: Float64Array,
  t: Float64Array,
  from: number,
  to: number,
  limit: number,
): number {
  const [ax, ay, at] = [x[from] as number, y[from] as number, t[from] as number];
  const [dx, dy, dt] = [(x[to] as number) - ax, (y[to] as number) - ay, (t[to] as number) - at];
  let max = limit;
  let farthest = -1;
  for (let i = from + 1; i < to; i++) {
    const share = dt > 0 ? Math.max(0, Math.min(1, ((t[i] as number) - at) / dt)) : 0;
    const ex = (x[i] as number) - ax - share * dx;
    const ey = (y[i] as number) - ay - share * dy;
    const off = ex * ex + ey * ey;
    if (off > max) {
      max = off;
      farthest = i;
    }
  }
  return farthest;
}
