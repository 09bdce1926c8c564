import { RADIUS_IN_DEVIATIONS } from '../fix/confidence.js';
import type { Fix } from '../fix/fix.js';
import type { Motion } from '../fix/motion.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { isUnsound } from './fix-order.js';
import { offsetTo } from './local-offset.js';
import { UNSTATED } from './receiver-error.js';

/** Seconds of the windows through which a line is laid, from short to long. */
const WINDOWS = [4, 8, 16, 32] as const;
/** Fewest fixes in a window. */
const FEWEST = 4;
/** Milliseconds between fixes after which the motion in between is unknown. */
const SILENCE = 20_000;
/**
 * Weight of one comparison of two windows, and the multiple of the variance beyond which a difference counts no more.
 */
const LEARNING = 0.1;
const MEDIAN = Math.LN2;
/** Deviations within which a longer window agrees with a shorter one, and within which a speed may be none at all. */
const AGREES = 2;
const RESTS = 2.45;
/** Deviations that hold 95 % of a normal distribution. */
const NEARLY_ALL = 1.96;
/** Number of neighbouring fixes that share their error. */
const SHARED = 4;
/** Standard deviation of the speed of a user around its mean over some seconds, as a share of it. */
const PACE = 0.08;
/** Least standard deviation of a velocity, m/s. */
const LEAST = 0.05;
/** Greatest error of a course that is of use, degrees. */
const COURSE_WITHIN = 60;

/** A fix, as an offset in metres from the first one of the segment. */
interface Point {
  readonly time: number;
  readonly east: number;
  readonly north: number;
}

interface Fitted extends Velocity {
  readonly count: number;
  /** Seconds from the first to the last point. */
  readonly span: number;
  /** Variance of the slope along an axis, from the distances of the points from the line, m²/s². */
  readonly variance: number;
}

interface Velocity {
  readonly east: number;
  readonly north: number;
}

/**
 * Speed and course, fix by fix: as the fixes state them, else derived from their positions, with their uncertainty, and
 * absent at rest.
 *
 * Straight lines are laid through the last 4, 8, 16 and 32 s by least squares. How exact each is, is seen from how well
 * it agrees with the one of the same length before it, whatever the kind of noise. The longest that agrees with all
 * shorter ones is taken (O. V. Lepski, On a problem of adaptive estimation in Gaussian white noise, 1990): a long one
 * on a straight way, a short one after a turn.
 */
export class MotionMeter {
  readonly #lines = WINDOWS.map((seconds) => new Line(seconds));
  #points: Point[] = [];
  #first: Fix | undefined;
  #last: Fix | undefined;
  /** Whether a speed above 0 was stated: some platforms state 0 when they do not know it. */
  #states = false;

  /** Takes the next fix, and returns the motion; `undefined` at rest, and while it is not known. */
  take(fix: Fix): Motion | undefined {
    if (isUnsound(fix)) return this.motion;
    const before = this.#last;
    if (before !== undefined && (fix.time <= before.time || fix.time - before.time > SILENCE))
      this.breakSegment();
    const first = (this.#first ??= fix);
    this.#last = fix;
    if ((fix.speed ?? 0) > 0) this.#states = true;
    if (this.#states && fix.speed !== undefined) return this.motion;
    const points = this.#points;
    points.push({ time: fix.time, ...offsetTo(first, fix) });
    const oldest = fix.time - (WINDOWS.at(-1) ?? 0) * 1000;
    while ((points[0]?.time ?? oldest) < oldest) points.shift();
    const spread = (fix.accuracy ?? UNSTATED) / RADIUS_IN_DEVIATIONS;
    for (const line of this.#lines) line.lay(points, spread);
    return this.motion;
  }

  /** Starts a new segment: the next fix does not continue the path. */
  breakSegment(): void {
    this.#points = [];
    this.#first = this.#last = undefined;
    for (const line of this.#lines) line.forget();
  }

  /** The motion at the last fix. */
  get motion(): Motion | undefined {
    const { speed, course } = this.#last ?? {};
    if (this.#states && speed !== undefined)
      return speed === 0 ? undefined : { speed, ...(course !== undefined && { course }), derived: false };
    const found = this.#longestThatAgrees();
    if (found === undefined) return undefined;
    const { velocity, error } = found;
    const known = Math.hypot(velocity.east, velocity.north);
    if (known < RESTS * error) return undefined;
    const courseAccuracy = Math.atan2(NEARLY_ALL * error, known) * DEGREES;
    return {
      speed: known,
      speedAccuracy: NEARLY_ALL * Math.hypot(error, PACE * known),
      ...(courseAccuracy <= COURSE_WITHIN && {
        course: wrapBearing(Math.atan2(velocity.east, velocity.north) * DEGREES),
        courseAccuracy,
      }),
      derived: true,
    };
  }

  #longestThatAgrees(): { readonly velocity: Velocity; readonly error: number } | undefined {
    const agreed: { velocity: Velocity; error: number }[] = [];
    for (const { velocity, error } of this.#lines) {
      if (velocity === undefined) continue;
      const agrees = agreed.every(
        (shorter) =>
          Math.hypot(velocity.east - shorter.velocity.east, velocity.north - shorter.velocity.north) <=
          AGREES * shorter.error,
      );
      if (!agrees) break;
      agreed.push({ velocity, error });
    }
    return agreed.at(-1);
  }
}

/** The line through the fixes of some seconds, and how exact its velocity is. */
class Line {
  readonly seconds: number;
  velocity: Velocity | undefined;
  /** Variance of the velocity along an axis, m²/s²; NaN before the first. */
  #variance = NaN;
  /** The same, from the distances of the fixes from the line. */
  #scatter = 0;
  /** Earlier velocities, of at most the length of the window. */
  #earlier: (Velocity & { readonly time: number })[] = [];

  constructor(seconds: number) {
    this.seconds = seconds;
  }

  /**
   * Standard deviation of the velocity along an axis, m/s: as usual, or more when the fixes lie far from the line. Of
   * fixes whose errors are alike, every second one counts for that.
   */
  get error(): number {
    return Math.max(LEAST, Math.sqrt(Math.max(this.#variance, SHARED * this.#scatter)));
  }

  /** Lays the line anew, after another point. @param spread standard deviation of its fix along an axis, metres. */
  lay(points: readonly Point[], spread: number): void {
    const last = points.at(-1);
    if (last === undefined) return;
    const start = last.time - this.seconds * 1000;
    const fitted = slopeOf(points, start);
    this.velocity = fitted;
    this.#scatter = fitted?.variance ?? 0;
    // It is filled when the fixes reach over nearly all of it.
    if (fitted === undefined || fitted.span < 0.7 * this.seconds) {
      this.velocity = undefined;
      return;
    }
    // Until it is known: as for errors that are new at every fix.
    if (Number.isNaN(this.#variance))
      this.#variance = (12 * spread * spread) / (fitted.count * this.seconds ** 2);
    const earlier = this.#earlier;
    let before: Velocity | undefined;
    while (earlier.length > 0 && (earlier[0]?.time ?? Infinity) <= start) before = earlier.shift();
    earlier.push({ time: last.time, ...fitted });
    if (before === undefined) return;
    // The difference of two independent velocities, of two axes each.
    const seen = ((fitted.east - before.east) ** 2 + (fitted.north - before.north) ** 2) / 4;
    this.#variance *= seen > MEDIAN * this.#variance ? 1 + LEARNING : 1 - LEARNING;
  }

  forget(): void {
    this.velocity = undefined;
    this.#earlier = [];
  }
}

/** Slope of the straight line through the points since a time, by least squares, m/s. */
function slopeOf(points: readonly Point[], start: number): Fitted | undefined {
  let begin = points.length;
  while (begin > 0 && (points[begin - 1] as Point).time >= start) begin--;
  const count = points.length - begin;
  if (count < FEWEST) return undefined;
  let [t, x, y] = [0, 0, 0];
  for (let i = begin; i < points.length; i++) {
    const { time, east, north } = points[i] as Point;
    t += time - start;
    x += east;
    y += north;
  }
  const [middle, east, north] = [t / count, x / count, y / count];
  let [tt, tx, ty, off] = [0, 0, 0, 0];
  for (let i = begin; i < points.length; i++) {
    const point = points[i] as Point;
    const away = (point.time - start - middle) / 1000;
    tt += away * away;
    const [dx, dy] = [point.east - east, point.north - north];
    tx += away * dx;
    ty += away * dy;
    off += dx * dx + dy * dy;
  }
  const span = ((points.at(-1) as Point).time - (points[begin] as Point).time) / 1000;
  if (tt === 0) return undefined;
  const rest = Math.max(0, off - (tx * tx + ty * ty) / tt);
  return { east: tx / tt, north: ty / tt, count, span, variance: rest / (2 * count - 4) / tt };
}
