import { isTooFar } from '../estimate/fix-order.js';
import { SLOW } from '../estimate/estimate-numbers.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { DEGREES, wrapBearing } from '../geodesy/wgs84.js';
import { countsAsDense } from './density.js';
import { placeOn } from './path-count.js';
import { PositionWindow } from './position-window.js';
import { WindowEstimator, calmSpeed, noExperience } from './window-estimate.js';

/** Seconds that are smoothed at a time, and those before and after them that are looked at. */
const TOGETHER = 60;
const MARGIN = 90;

/**
 * Smooths fixes that state no speed, each from those before and after it. At rest all have the mean place, speed 0 and
 * no course. `undefined` stands for a fix that says nothing: an outlier, or one with the time of another.
 *
 * @returns `undefined` where there are too few fixes, or too far apart, to know their noise; and after a jump.
 */
export function smoothPositions(fixes: readonly Fix[]): (Fix | undefined)[] | undefined {
  const places: (Fix | undefined)[] = Array.from({ length: fixes.length });
  const used = usable(fixes);
  if (!countsAsDense(used.length, fixes[used[0] ?? 0], fixes[used.at(-1) ?? 0])) return undefined;
  const estimator = new WindowEstimator();
  let experience = noExperience();
  const resting = new Set<number>();
  let next = 0;
  while (next < used.length) {
    const from = timeOf(fixes, used[next]);
    const window = new PositionWindow();
    let first = next;
    while (first > 0 && timeOf(fixes, used[first - 1]) >= from - MARGIN * 1000) first--;
    for (let k = first; k < used.length && timeOf(fixes, used[k]) <= from + (TOGETHER + MARGIN) * 1000; k++)
      window.add(fixes[used[k] as number] as Fix);
    if (window.length < 2) break;
    window.unfold(NaN);
    const { way, level, noise, fine, middle, spread, scale, moving } = estimator.estimate(window, experience);
    // A fast user has gone round a corner in the time of the wider scale.
    const [path, error] = way.name === 'walking' ? [middle, spread.middle] : [fine, spread.fine];
    experience = { ...experience, way, level, noise };
    for (; next < used.length && timeOf(fixes, used[next]) < from + TOGETHER * 1000; next++) {
      const k = next - first;
      if (k >= window.length) break;
      const index = used[next] as number;
      const { speed: _, course: __, ...raw } = fixes[index] as Fix;
      const speed = moving[k] === 1 ? calmSpeed(path, k, error) : 0;
      // More smoothing would cut the corners of a fast user: one whose receiver smooths, or among slow movement.
      const fast = scale > way.scale * (level + 1) || speed > way.max;
      const at = fast ? window.position(k) : placeOn(window, path, k);
      const course = Math.atan2(path.eastward[k] as number, path.northward[k] as number) * DEGREES;
      if (moving[k] === 0) resting.add(index);
      places[index] = Object.freeze({
        ...raw,
        lat: at.lat,
        lon: at.lon,
        speed,
        ...(speed >= SLOW && { course: wrapBearing(course) }),
      });
    }
  }
  return gatherRests(places, resting);
}

function timeOf(fixes: readonly Fix[], index: number | undefined): number {
  return fixes[index ?? -1]?.time ?? NaN;
}

/** Indices of the fixes that say something, in the order of time; none where the user has jumped. */
function usable(fixes: readonly Fix[]): number[] {
  const used: number[] = [];
  let doubted: Fix | undefined;
  for (const [i, fix] of fixes.entries()) {
    const last = fixes[used.at(-1) ?? -1];
    if (last !== undefined && !(fix.time > last.time)) continue;
    if (last === undefined || !isTooFar(last, fix)) {
      used.push(i);
      doubted = undefined;
    } else if (doubted === undefined || isTooFar(doubted, fix)) doubted = fix;
    else return [];
  }
  return used;
}

/** Moves the fixes of each rest to their mean place. */
function gatherRests(
  places: readonly (Fix | undefined)[],
  resting: ReadonlySet<number>,
): (Fix | undefined)[] {
  const gathered = [...places];
  for (let from = 0; from < places.length; from++) {
    if (!resting.has(from)) continue;
    let to = from;
    let middle: Position | undefined;
    for (let count = 1; to < places.length && (resting.has(to) || places[to] === undefined); to++) {
      const place = places[to];
      if (place !== undefined)
        middle = middle === undefined ? place : alongStraight(middle, place, 1 / ++count);
    }
    for (let k = from; k < to; k++) {
      const place = places[k];
      if (place !== undefined && middle !== undefined)
        gathered[k] = Object.freeze({ ...place, lat: middle.lat, lon: middle.lon });
    }
    from = to;
  }
  return gathered;
}
