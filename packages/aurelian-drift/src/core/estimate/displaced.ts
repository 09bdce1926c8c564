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
/** Noise of a second difference over equal steps, as a multiple of that of a fix. */
const OF_EQUAL_STEPS = 6;
/** Steps on either side over which the usual velocity is taken: at least, and as a multiple of those of the jump. */
const AROUND = 5;
const WIDER = 4;
/** Squared distance from the path at which a fix has no weight any more, in variances along an axis (J. W. Tukey). */
const LIMIT = 18;
/** Share of that square up to which no fix is in doubt. */
const CLEAN = 0.4;
/** Smallest variance of a fix along an axis, m². */
const LEAST = 1;
/** A corner is this far from the smoothed path, as a share of the way in one scale. */
const CORNER = 0.35;

interface Jump {
  /** Metres beside the usual motion. */
  east: number;
  north: number;
  /** Index of the last fix before it, and of the first after it. */
  readonly from: number;
  to: number;
}

/**
 * Gives the fixes of displaced stretches next to no weight: near a wall, positions jump aside by some ten metres, stay
 * there for some seconds, and jump back.
 *
 * @param span seconds that a jump takes: 0 for one from a fix to the next.
 */
export function markJumps(
  times: Float64Array,
  east: Float64Array,
  north: Float64Array,
  weights: Float64Array,
  count: number,
  span: number,
): void {
  const jumps = jumpsIn(times, east, north, count, span);
  for (let i = 0; i < jumps.length; i++) {
    const aside = jumps[i] as Jump;
    for (let j = i + 1; j < jumps.length; j++) {
      const back = jumps[j] as Jump;
      if ((times[back.from] as number) - (times[aside.to] as number) > LONGEST) break;
      const left = Math.hypot(aside.east + back.east, aside.north + back.north);
      if (!(left < UNDONE * Math.hypot(aside.east, aside.north))) continue;
      weights.fill(DISPLACED, aside.from + 1, back.to);
      i = j;
      break;
    }
  }
}

/** Movements that are far faster than those around them. Overlapping ones are one, with the largest difference. */
function jumpsIn(
  times: Float64Array,
  east: Float64Array,
  north: Float64Array,
  count: number,
  span: number,
): Jump[] {
  const steps = count - 1;
  if (steps < 3) return [];
  const usual = usualStep(east, north, steps);
  const found: Jump[] = [];
  let noise: number | undefined;
  for (let from = 0, to = 1; from < steps; from++) {
    to = Math.max(to, from + 1);
    while (to < steps && (times[to] as number) - (times[from] as number) < span) to++;
    const dx = (east[to] as number) - (east[from] as number);
    const dy = (north[to] as number) - (north[from] as number);
    // Most windows have no jump: the costly comparison is made only where a step is long.
    const long = Math.max(MIN_JUMP, 2 * usual * (to - from));
    if (dx * dx + dy * dy < long * long) continue;
    const seconds = (times[to] as number) - (times[from] as number);
    const around = Math.max(AROUND, WIDER * (to - from));
    const eastward = usualSpeed(times, east, from, steps, around);
    const northward = usualSpeed(times, north, from, steps, around);
    const [jumpEast, jumpNorth] = [dx - eastward * seconds, dy - northward * seconds];
    const room = (FASTER * Math.hypot(eastward, northward) + BESIDE) * seconds;
    noise ??= UNUSUAL * differences(times, east, north, steps);
    const far = Math.hypot(jumpEast, jumpNorth);
    if (far <= Math.max(MIN_JUMP, room, noise)) continue;
    const before = found.at(-1);
    if (before === undefined || from >= before.to || before.east * jumpEast + before.north * jumpNorth < 0) {
      found.push({ east: jumpEast, north: jumpNorth, from, to });
      continue;
    }
    before.to = to;
    if (far > Math.hypot(before.east, before.north)) [before.east, before.north] = [jumpEast, jumpNorth];
  }
  return found;
}

/** Median length of a step, metres. */
function usualStep(east: Float64Array, north: Float64Array, steps: number): number {
  const lengths = new Float64Array(steps);
  for (let k = 0; k < steps; k++) {
    const dx = (east[k + 1] as number) - (east[k] as number);
    const dy = (north[k + 1] as number) - (north[k] as number);
    lengths[k] = Math.sqrt(dx * dx + dy * dy);
  }
  return quantileOf(lengths, 0.5);
}

/** Median velocity along an axis over the steps around one. */
function usualSpeed(
  times: Float64Array,
  along: Float64Array,
  k: number,
  steps: number,
  around: number,
): number {
  const from = Math.max(0, k - around);
  const to = Math.min(steps, k + around + 1);
  const speeds = new Float64Array(to - from);
  for (let i = from; i < to; i++)
    speeds[i - from] =
      ((along[i + 1] as number) - (along[i] as number)) /
      Math.max(1e-3, (times[i + 1] as number) - (times[i] as number));
  return quantileOf(speeds, 0.5);
}

/** Median change from a step to the next, metres, as of equal steps: a long step after a short one multiplies noise. */
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
    const noise = 1 + (1 + share) ** 2 + share * share;
    changes[k] = Math.sqrt(((dx * dx + dy * dy) * OF_EQUAL_STEPS) / noise);
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
