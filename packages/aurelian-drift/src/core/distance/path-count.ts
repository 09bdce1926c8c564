import { offsetTo, shifted } from '../estimate/local-offset.js';
import type { SmoothedPath } from '../estimate/position-smoother.js';
import type { Position } from '../geodesy/position.js';
import { distance } from '../geodesy/distance.js';
import { alongStraight } from '../geodesy/straight.js';
import { RESTING_SPEED } from './meter.js';
import type { PositionWindow } from './position-window.js';
import type { Tally } from './tally.js';
import { calmSpeed, speedAt, type WindowEstimate } from './window-estimate.js';

/** The way in which a user comes to rest or sets off is at most so long, in scales at the speed at its edge. */
const EDGE = 4;
/**
 * A path is at most this many times as long as the sum from fix to fix, plus some metres: a receiver that smooths cuts
 * corners, but a path that is much longer has swung beyond a jump.
 */
const LONGER = 1.15;
const SLACK = 20;
/** Seconds over which the usual speed follows. */
const USUAL = 200;

/** A rest that goes on at the last counted fix. */
interface OpenRest {
  /** Milliseconds since 1970 UTC. */
  readonly since: number;
  /** Mean place, and the number of fixes in it. */
  readonly place: Position;
  readonly count: number;
  /** Place and velocity in m/s at its start. */
  readonly from: Position;
  readonly eastward: number;
  readonly northward: number;
}

/** State of the count after a fix. */
export interface CountState {
  /** Time of the last counted fix, milliseconds since 1970 UTC; −Infinity before the first. */
  readonly until: number;
  readonly rest: OpenRest | undefined;
  /** Usual speed in motion, m/s. */
  readonly usual: number;
}

/** Adds the part of a window after the last counted fix and up to a time to a tally. */
export function countPath(
  window: PositionWindow,
  estimate: WindowEstimate,
  state: CountState,
  to: number,
  tally: Tally,
): CountState {
  const { moving, middle, quiet, quietSpread, spread } = estimate;
  let { until, rest, usual } = state;
  let [raw, counted] = [0, 0];
  const { times, seconds } = window;
  for (let k = 0; k < window.length; k++) {
    const time = times[k] as number;
    if (time <= until) continue;
    if (time > to) break;
    const before = times[k - 1];
    until = time;
    if (before === undefined) {
      if (moving[k] === 0) rest = restFrom(window, estimate, k, time);
      tally.stops.add(rest, time);
      continue;
    }
    const step = (seconds[k] as number) - (seconds[k - 1] as number);
    raw += rawStep(window, k);
    if (estimate.exact) {
      rest = countExact(window, estimate, k, rest, tally);
      continue;
    }
    tally.moving += (step * ((moving[k] as number) + (moving[k - 1] as number))) / 2;
    if (moving[k] === 0) {
      rest =
        rest === undefined
          ? restFrom(window, estimate, k, (before + time) / 2)
          : joined(rest, window, estimate, k);
    } else {
      const room = LONGER * raw + SLACK - counted;
      if (rest === undefined) {
        const metres = Math.min(stepTo(estimate, k, step), Math.max(0, room));
        counted += metres;
        tally.advance(before, time, metres);
      } else {
        const edge = comingToRest(rest, estimate) + settingOff(rest, window, estimate, k);
        // The rest ends half way between the fixes.
        tally.stops.add(rest, (before + time) / 2);
        tally.advance(before, time, edge);
      }
      rest = undefined;
      if (moving[k - 1] === 1) tally.speed(calmSpeed(quiet, k, quietSpread), quietSpread);
      usual += (calmSpeed(middle, k, spread.middle) - usual) * (1 - Math.exp(-step / USUAL));
    }
    tally.stops.add(rest, time);
  }
  return { until, rest, usual };
}

/** Metres from the fix before, as measured. */
function rawStep({ east, north }: PositionWindow, k: number): number {
  const [dx, dy] = [
    (east[k] as number) - (east[k - 1] as number),
    (north[k] as number) - (north[k - 1] as number),
  ];
  return Math.sqrt(dx * dx + dy * dy);
}

/** Fixes without noise count as they are. Returns the rest after the fix. */
function countExact(
  window: PositionWindow,
  estimate: WindowEstimate,
  k: number,
  rest: OpenRest | undefined,
  tally: Tally,
): OpenRest | undefined {
  const [before, time] = [window.times[k - 1] as number, window.times[k] as number];
  const way = distance(window.position(k - 1), window.position(k));
  const speed = (way * 1000) / (time - before);
  const rests = speed < RESTING_SPEED;
  if (!rests) {
    tally.moving += (time - before) / 1000;
    tally.speed(speed);
  }
  const now = rests ? (rest ?? restFrom(window, estimate, k, before)) : undefined;
  tally.stops.add(now, time);
  if (way > 0) tally.advance(before, time, way);
  return now;
}

/** Length of the path from the fix before, metres: without noise, and with what smoothing takes from corners. */
function stepTo(estimate: WindowEstimate, k: number, seconds: number): number {
  const { fine, middle, spread } = estimate;
  const own = calmStep(fine, k, seconds, spread.fine);
  const next = calmStep(middle, k, seconds, spread.middle);
  return Math.max(0, 2 * own - next);
}

/** Length of a step of a path without the noise in its speeds. */
function calmStep(path: SmoothedPath, k: number, seconds: number, noise: number): number {
  const excess = (i: number) => speedAt(path, i) - calmSpeed(path, i, noise);
  return curve(path, k, seconds) - (seconds * (excess(k - 1) + excess(k))) / 2;
}

/** Length of the cubic curve between two fixes with their velocities, by Simpson's rule. */
function curve({ east, north, eastward, northward }: SmoothedPath, k: number, seconds: number): number {
  const middleOf = (place: Float64Array, velocity: Float64Array) =>
    (1.5 * ((place[k] as number) - (place[k - 1] as number))) / seconds -
    ((velocity[k] as number) + (velocity[k - 1] as number)) / 4;
  const [u, v] = [middleOf(east, eastward), middleOf(north, northward)];
  const path = { eastward, northward };
  return (seconds / 6) * (speedAt(path, k - 1) + 4 * Math.sqrt(u * u + v * v) + speedAt(path, k));
}

/** Position of a path at a fix. */
export function placeOn(window: PositionWindow, { east, north }: SmoothedPath, k: number): Position {
  return shifted(window.position(0), { east: east[k] as number, north: north[k] as number });
}

function restFrom(window: PositionWindow, { fine }: WindowEstimate, k: number, since: number): OpenRest {
  const place = placeOn(window, fine, k);
  const at = Math.max(0, k - 1);
  const [eastward, northward] = [fine.eastward[at] as number, fine.northward[at] as number];
  return { since: Math.round(since), place, count: 1, from: place, eastward, northward };
}

function joined(rest: OpenRest, window: PositionWindow, { fine }: WindowEstimate, k: number): OpenRest {
  const count = rest.count + 1;
  const place = alongStraight(rest.place, placeOn(window, fine, k), 1 / count);
  return { ...rest, place, count };
}

/** The last metres of the path to the place of a rest, along the velocity at its start. */
function comingToRest({ from, place, eastward, northward }: OpenRest, { scale }: WindowEstimate): number {
  return along(offsetTo(from, place), eastward, northward, scale);
}

/** The first metres of the path from the place of a rest to a fix. */
function settingOff(
  { place }: OpenRest,
  window: PositionWindow,
  { fine, scale }: WindowEstimate,
  k: number,
): number {
  const way = offsetTo(place, placeOn(window, fine, k));
  return along(way, fine.eastward[k] as number, fine.northward[k] as number, scale);
}

function along(
  way: { readonly east: number; readonly north: number },
  eastward: number,
  northward: number,
  scale: number,
): number {
  const speed = Math.hypot(eastward, northward);
  if (!(speed > 0)) return 0;
  const metres = (way.east * eastward + way.north * northward) / speed;
  return Math.max(0, Math.min(metres, EDGE * scale * speed));
}
