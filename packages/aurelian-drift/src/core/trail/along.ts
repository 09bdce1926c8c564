import { checkOptions, numberFrom } from '../check/options.js';
import { fixFrom, type Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight, shareOfStraight } from '../geodesy/straight.js';
import { labelsOf } from './part.js';
import { Trail } from './trail.js';

/** A point on the path of a trail. */
export interface TrailPoint extends Position {
  /** Milliseconds since 1970 UTC, interpolated between the fixes around it. */
  readonly time: number;
  /** Index of the fix at or before it. */
  readonly index: number;
}

/**
 * Position of the trail at a time, on the straight line between two fixes; `undefined` before the start, after the end,
 * and in a gap.
 */
export function placeAt(trail: Trail, time: number): TrailPoint | undefined {
  for (const { start, end } of trail.segments) {
    if (!(time >= trail.number(start, 'time') && time <= trail.number(end - 1, 'time'))) continue;
    let [low, high] = [start, end - 1];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if (trail.number(middle, 'time') <= time) low = middle;
      else high = middle;
    }
    const [before, after] = [trail.number(low, 'time'), trail.number(high, 'time')];
    const share = after > before ? (time - before) / (after - before) : 0;
    return {
      ...alongStraight(position(trail, low), position(trail, high), share),
      time,
      index: share === 1 ? high : low,
    };
  }
  return undefined;
}

/** The point of a trail that is nearest to a position, with the distance in metres; `undefined` for an empty trail. */
export function nearestOnTrail(
  trail: Trail,
  at: Position,
): (TrailPoint & { readonly distance: number }) | undefined {
  let best: TrailPoint | undefined;
  let min = Infinity;
  for (const { start, end } of trail.segments) {
    for (let i = start; i < end; i++) {
      const from = position(trail, i);
      const to = i + 1 < end ? position(trail, i + 1) : from;
      const share = Math.max(0, Math.min(1, shareOfStraight(at, from, to)));
      const point = alongStraight(from, to, share);
      const far = distance(at, point);
      if (!(far < min)) continue;
      min = far;
      const time = trail.number(i, 'time');
      const next = i + 1 < end ? trail.number(i + 1, 'time') : time;
      best = { ...point, time: time + share * (next - time), index: i };
    }
  }
  return best === undefined ? undefined : { ...best, distance: min };
}

/**
 * The trail at regular times, on the straight lines between its fixes, from the start of each segment. A time that
 * falls on a fix keeps its data; other points have time and position only.
 *
 * @throws {InputError} for an interval outside 0.001 to 86 400 seconds.
 */
export function resampleTrail(trail: Trail, every: number): Trail {
  checkOptions('resampleTrail', { every }, { every: numberFrom(0.001, 86_400, 'seconds') });
  const even = new Trail(labelsOf(trail));
  for (const { start, end } of trail.segments) {
    const first = trail.number(start, 'time');
    const last = trail.number(end - 1, 'time');
    let i = start;
    for (let n = 0; first + n * every * 1000 <= last; n++) {
      const time = first + n * every * 1000;
      while (i + 1 < end && trail.number(i + 1, 'time') <= time) i++;
      even.append(fixAt(trail, i, time));
    }
    even.breakSegment();
  }
  return even;
}

function fixAt(trail: Trail, i: number, time: number): Fix {
  const before = trail.number(i, 'time');
  const fix = trail.at(i) as Fix;
  if (before >= time) return fix;
  const share = (time - before) / (trail.number(i + 1, 'time') - before);
  return fixFrom({ time, ...alongStraight(fix, position(trail, i + 1), share), origin: fix.origin });
}

function position(trail: Trail, i: number): Position {
  return { lat: trail.number(i, 'lat'), lon: trail.number(i, 'lon') };
}
