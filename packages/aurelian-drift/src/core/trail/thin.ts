import { InputError } from '../check/input-error.js';
import { checkOptions, numberFrom, yesOrNo } from '../check/options.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Trail } from './trail.js';
import { partOf } from './part.js';

/** Options of `thinTrail`. */
export interface ThinOptions {
  /**
   * Keep the times too: a fix is left out only when the line was within the tolerance of it at its time. Default false.
   */
  readonly timeAware?: boolean;
}

/** Maximum stretch of the plane in which a piece is thinned; the tolerance is reduced accordingly. */
const STRETCH = 0.01;
/** Points of a block whose corner is found first: fewer keep more fixes than necessary, more cost time (measured). */
const BLOCK = 128;

/**
 * A trail with few fixes, whose straight lines (in longitude and latitude) pass within `tolerance` metres of every fix
 * that is left out. The fixes that stay are unchanged; the first and last of each segment stay.
 *
 * Method of Douglas and Peucker (1973), in planes whose stretch is below one percent, with a tolerance reduced by it.
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
      // Plane coordinates replace the degrees, except those of the last point, from which the next piece starts.
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

/** A piece of a trail in a plane, in metres; `t` is the time where it counts. */
interface Piece {
  readonly x: Float64Array;
  readonly y: Float64Array;
  readonly t: Float64Array | undefined;
}

/** The last point that is inside the plane around a point. */
function endOfPiece(lats: Float64Array, from: number): number {
  const lat0 = lats[from] as number;
  // The plane ends where a degree of longitude is 1 % longer or shorter; near a pole at once.
  const slope = Math.abs(Math.tan((lat0 * Math.PI) / 180)) * (Math.PI / 180);
  const reach = Math.min(0.5, STRETCH / Math.max(slope, 1e-9) / 2);
  let to = from + 1;
  while (to + 1 < lats.length && Math.abs((lats[to + 1] as number) - lat0) <= reach) to++;
  return to;
}

/** Converts points to metres from the first, in place of their degrees. */
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
  // Longitudes continue across the date line.
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
 * Marks the points of a piece that are kept: both ends, and between two of them the one that is farthest from their
 * line.
 */
function keep(piece: Piece, kept: Uint8Array, offset: number, limit: number): void {
  const last = piece.x.length - 1;
  kept[offset] = kept[offset + last] = 1;
  // From corners that are found block by block, so that the first halvings need not visit all points.
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

/** Marks the kept points between two others. */
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

/** The point between two others that is farthest from their straight line, if farther than the limit; otherwise −1. */
function farthestOff(x: Float64Array, y: Float64Array, from: number, to: number, limit: number): number {
  const ax = x[from] as number;
  const ay = y[from] as number;
  const dx = (x[to] as number) - ax;
  const dy = (y[to] as number) - ay;
  const square = dx * dx + dy * dy;
  // Distances are multiplied by the squared length of the line, to avoid a division.
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

/**
 * The point between two others that is farthest from the position of the line at its time, if farther than the limit;
 * otherwise −1.
 */
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
