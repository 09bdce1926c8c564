import { quantileOf } from './quantile.js';
import type { SmoothedPath } from './position-smoother.js';

/** Weight of a fix that is taken for displaced: it bridges nothing and moves nothing. */
const DISPLACED = 0.001;
/** Minimum length of a jump in metres, and as a multiple of the usual difference between fixes. */
const MIN_JUMP = 15;
const UNUSUAL = 6;
/** A jump is faster than this many times the speed, and this many m/s. */
const FASTER = 1.2;
const BESIDE = 2;
/** Longest displacement in seconds. */
const LONGEST = 40;
/** A jump back undoes a jump when less than this share of it is left. */
const UNDONE = 0.5;
/** Fixes on either side over which the usual velocity is taken. */
const AROUND = 5;
/** Squared distance from the path at which a fix has no weight any more, in variances along an axis (J. W. Tukey). */
const LIMIT = 18;
/** Share of that square up to which no fix is in doubt. */
const CLEAN = 0.4;
/** Smallest variance of a fix along an axis, m². */
const LEAST = 1;
/** A corner is this far from the smoothed path, as a share of the way in one scale. */
const CORNER = 0.35;

interface Jump {
  readonly east: number;
  readonly north: number;
  /** Index of the fix after it. */
  readonly at: number;
}

/**
 * Gives the fixes of displaced stretches next to no weight: near a wall, positions jump aside by some ten metres, stay
 * there for some seconds, and jump back.
 */
export function markJumps(
  times: Float64Array,
  east: Float64Array,
  north: Float64Array,
  weights: Float64Array,
  count: number,
): void {
  const jumps = jumpsIn(times, east, north, count);
  for (let i = 0; i < jumps.length; i++) {
    const aside = jumps[i] as Jump;
    for (let j = i + 1; j < jumps.length; j++) {
      const back = jumps[j] as Jump;
      if ((times[back.at] as number) - (times[aside.at] as number) > LONGEST) break;
      const left = Math.hypot(aside.east + back.east, aside.north + back.north);
      if (!(left < UNDONE * Math.hypot(aside.east, aside.north))) continue;
      weights.fill(DISPLACED, aside.at, back.at);
      i = j;
      break;
    }
  }
}

/** Steps that are far longer than those around them. */
function jumpsIn(times: Float64Array, east: Float64Array, north: Float64Array, count: number): Jump[] {
  const steps = count - 1;
  if (steps < 3) return [];
  // Most windows have no jump: the costly comparison is made only where a step is long.
  const lengths = new Float64Array(steps);
  for (let k = 0; k < steps; k++) {
    const dx = (east[k + 1] as number) - (east[k] as number);
    const dy = (north[k + 1] as number) - (north[k] as number);
    lengths[k] = Math.sqrt(dx * dx + dy * dy);
  }
  const usual = quantileOf(lengths.slice(), 0.5);
  const found: Jump[] = [];
  let noise: number | undefined;
  for (let k = 0; k < steps; k++) {
    if (!((lengths[k] as number) > Math.max(MIN_JUMP, 2 * usual))) continue;
    const seconds = (times[k + 1] as number) - (times[k] as number);
    const eastward = usualSpeed(times, east, k, steps);
    const northward = usualSpeed(times, north, k, steps);
    const jumpEast = (east[k + 1] as number) - (east[k] as number) - eastward * seconds;
    const jumpNorth = (north[k + 1] as number) - (north[k] as number) - northward * seconds;
    const room = (FASTER * Math.hypot(eastward, northward) + BESIDE) * seconds;
    noise ??= UNUSUAL * differences(times, east, north, steps);
    if (Math.hypot(jumpEast, jumpNorth) > Math.max(MIN_JUMP, room, noise))
      found.push({ east: jumpEast, north: jumpNorth, at: k + 1 });
  }
  return found;
}

/** Median velocity along an axis over the steps around one. */
function usualSpeed(times: Float64Array, along: Float64Array, k: number, steps: number): number {
  const from = Math.max(0, k - AROUND);
  const to = Math.min(steps, k + AROUND + 1);
  const speeds = new Float64Array(to - from);
  for (let i = from; i < to; i++)
    speeds[i - from] =
      ((along[i + 1] as number) - (along[i] as number)) /
      Math.max(1e-3, (times[i + 1] as number) - (times[i] as number));
  return quantileOf(speeds, 0.5);
}

/** Median change from a step to the next, metres. */
function differences(times: Float64Array, east: Float64Array, north: Float64Array, steps: number): number {
  const changes = new Float64Array(steps - 1);
  for (let k = 0; k + 1 < steps; k++) {
    const share =
      ((times[k + 2] as number) - (times[k + 1] as number)) /
      Math.max(1e-3, (times[k + 1] as number) - (times[k] as number));
    const dx =
      (east[k + 2] as number) -
      (east[k + 1] as number) -
      share * ((east[k + 1] as number) - (east[k] as number));
    const dy =
      (north[k + 2] as number) -
      (north[k + 1] as number) -
      share * ((north[k + 1] as number) - (north[k] as number));
    changes[k] = Math.sqrt(dx * dx + dy * dy);
  }
  return quantileOf(changes, 0.5);
}

/**
 * Weights of fixes by their distance from a smoothed path: none beyond three standard deviations or so, and beyond the
 * distance at which the path passes a corner (J. W. Tukey's biweight).
 *
 * Returns whether no fix is in doubt: another round would change little.
 *
 * @param given weights without it. @param scale of the path in seconds. @param speed usual speed in m/s.
 */
export function weighResiduals(
  path: SmoothedPath,
  east: Float64Array,
  north: Float64Array,
  given: Float64Array,
  scale: number,
  speed: number,
  count: number,
  out: Float64Array,
): boolean {
  const squares = new Float64Array(count);
  for (let k = 0; k < count; k++) {
    const dx = (east[k] as number) - (path.east[k] as number);
    const dy = (north[k] as number) - (path.north[k] as number);
    squares[k] = dx * dx + dy * dy;
  }
  const usual = quantileOf(squares.slice(), 0.5) / (2 * Math.LN2);
  const limit = LIMIT * Math.max(LEAST, usual, (CORNER * speed * scale) ** 2 / 2);
  let most = 0;
  for (let k = 0; k < count; k++) {
    const share = (squares[k] as number) / limit;
    most = Math.max(most, share);
    out[k] = (given[k] as number) * (share < 1 ? (1 - share) ** 2 + DISPLACED : DISPLACED);
  }
  return most < CLEAN;
}
