import { InputError } from '../check/input-error.js';
import { checkOptions, numberFrom } from '../check/options.js';
import { distanceBetween } from '../geodesy/distance.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { appendTrail, labelsOf, partOf } from './part.js';
import { Trail, type TrailLabels } from './trail.js';

/** Part of a trail by time, in milliseconds since 1970 UTC, both ends included. */
export interface TimeSpan {
  readonly from?: number;
  readonly to?: number;
}

/** The fixes of a trail within a span of time. */
export function cutTrail(trail: Trail, span: TimeSpan): Trail {
  checkOptions('cutTrail', span, { from: numberFrom(0, Infinity, 'ms'), to: numberFrom(0, Infinity, 'ms') });
  const { from = -Infinity, to = Infinity } = span;
  return partOf(
    trail,
    Uint8Array.from(trail.column('time'), (time) => (time >= from && time <= to ? 1 : 0)),
  );
}

/**
 * Joins trails in the order of their times. Each begins a new segment, and nothing between two is counted.
 *
 * @throws {InputError} when two overlap in time, because the order of their fixes is then unknown.
 */
export function joinTrails(trails: readonly Trail[], labels?: TrailLabels): Trail {
  const parts = trails
    .filter((trail) => trail.length > 0)
    .toSorted((a, b) => a.number(0, 'time') - b.number(0, 'time'));
  const joined = new Trail(labels ?? (parts[0] === undefined ? {} : labelsOf(parts[0])));
  let end = -Infinity;
  for (const part of parts) {
    if (part.number(0, 'time') < end)
      throw new InputError(
        'bad-value',
        `"${part.name ?? 'a trail'}" begins before the one before it ends; cut one of them first`,
      );
    appendTrail(joined, part, false);
    end = part.number(part.length - 1, 'time');
  }
  return joined;
}

/** Where a trail is split. Exactly one way must be given. */
export interface SplitOptions {
  /** Length of a part in metres along the fixes. */
  readonly beyond?: number;
  /** Duration of a part in seconds. */
  readonly every?: number;
  /** Duration of a stop in seconds: no movement by more than `within` metres. */
  readonly stop?: number;
  /** Radius of a stop in metres. Default 25. */
  readonly within?: number;
  /** Times of the splits, milliseconds since 1970 UTC: those of crossings, for example. */
  readonly at?: readonly number[];
}

/**
 * Splits a trail. Each part begins with the last fix of the part before, so no length is lost. At a stop, a part ends
 * at the start of the stop, and the next begins at its end; the movement during the stop is in neither.
 *
 * @throws {InputError} unless exactly one way of splitting is given.
 */
export function splitTrail(trail: Trail, options: SplitOptions): Trail[] {
  checkOptions('splitTrail', options, {
    beyond: numberFrom(1, 1e9, 'metres'),
    every: numberFrom(1, 1e9, 'seconds'),
    stop: numberFrom(1, 86_400, 'seconds'),
    within: numberFrom(1, 10_000, 'metres'),
    at: (value) =>
      Array.isArray(value) && value.every((time) => typeof time === 'number')
        ? undefined
        : 'must be a list of times',
  });
  const { beyond, every, stop, within = 25, at } = options;
  const ways = [beyond, every, stop, at].filter((way) => way !== undefined);
  if (ways.length !== 1)
    throw new InputError(
      'bad-value',
      `splitTrail splits in one way at a time: beyond, every, stop or at; got ${ways.length}`,
    );
  if (stop !== undefined) return spans(trail, movesBetweenStops(trail, stop, within));
  const cuts =
    beyond !== undefined
      ? byDistance(trail, beyond)
      : byTimes(trail, at ?? evenTimes(trail, every as number));
  const starts = [0, ...cuts];
  return spans(
    trail,
    starts.map((from, i) => [from, starts[i + 1] ?? trail.length - 1]),
  );
}

/** Trails of the fixes from one index to another, both included. */
function spans(trail: Trail, ranges: readonly (readonly [from: number, to: number])[]): Trail[] {
  const labels = labelsOf(trail);
  return ranges
    .filter(([from, to]) => to > from || trail.length === 1)
    .map(([from, to], n) => {
      const marked = new Uint8Array(trail.length).fill(1, from, to + 1);
      return partOf(trail, marked, { ...labels, name: `${trail.name ?? 'Trail'}, part ${n + 1}` });
    });
}

/** Indices at which a length is reached since the last split. */
function byDistance(trail: Trail, beyond: number): number[] {
  const cuts: number[] = [];
  let walked = 0;
  for (const { start, end } of trail.segments) {
    for (let i = start + 1; i < end; i++) {
      walked += stepTo(trail, i);
      if (walked < beyond) continue;
      cuts.push(i);
      walked %= beyond;
    }
  }
  return cuts.filter((cut) => cut < trail.length - 1);
}

function evenTimes(trail: Trail, every: number): number[] {
  const start = trail.number(0, 'time');
  const end = trail.number(trail.length - 1, 'time');
  const count = Math.max(0, Math.ceil((end - start) / (every * 1000)) - 1);
  return Array.from({ length: count }, (_, i) => start + (i + 1) * every * 1000);
}

/** The first fix at or after each time. */
function byTimes(trail: Trail, times: readonly number[]): number[] {
  const cuts = new Set<number>();
  let i = 0;
  for (const time of times.toSorted((a, b) => a - b)) {
    while (i < trail.length && trail.number(i, 'time') < time) i++;
    if (i > 0 && i < trail.length - 1) cuts.add(i);
  }
  return [...cuts];
}

/**
 * Ranges of fixes between stops. A stop is a range of fixes that all lie within a radius of the mean of those before
 * them.
 */
function movesBetweenStops(trail: Trail, stop: number, within: number): [number, number][] {
  const moves: [number, number][] = [];
  let from = 0;
  for (let i = 0; i < trail.length;) {
    const stay = stayFrom(trail, i, within);
    const seconds = (trail.number(stay.end, 'time') - trail.number(stay.start, 'time')) / 1000;
    if (seconds >= stop) {
      if (stay.start > from) moves.push([from, stay.start]);
      from = stay.end;
      i = stay.end + 1;
    } else i++;
  }
  if (from < trail.length - 1) moves.push([from, trail.length - 1]);
  return moves;
}

/**
 * The fixes from an index that stay near the mean of those before them, without those at the start that are far from
 * the mean of all.
 */
function stayFrom(trail: Trail, from: number, within: number): { start: number; end: number } {
  const [lat0, lon0] = [trail.number(from, 'lat'), trail.number(from, 'lon')];
  let [north, east] = [0, 0];
  let end = from;
  const far = (i: number) => {
    const count = end - from + 1;
    const middle = { lat: lat0 + north / count, lon: lon0 + east / count };
    return distanceBetween(middle.lat, middle.lon, trail.number(i, 'lat'), trail.number(i, 'lon'));
  };
  while (end + 1 < trail.length && far(end + 1) <= within) {
    end++;
    north += trail.number(end, 'lat') - lat0;
    east += wrapLongitude(trail.number(end, 'lon') - lon0);
  }
  let start = from;
  while (start < end && far(start) > within) start++;
  return { start, end };
}

function stepTo(trail: Trail, i: number): number {
  return apart(trail, i - 1, i);
}

function apart(trail: Trail, a: number, b: number): number {
  return distanceBetween(
    trail.number(a, 'lat'),
    trail.number(a, 'lon'),
    trail.number(b, 'lat'),
    trail.number(b, 'lon'),
  );
}
