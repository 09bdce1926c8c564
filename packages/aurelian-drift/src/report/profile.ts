import { isUnsound } from '../core/estimate/fix-order.js';
import { DistanceCounter } from '../core/distance/distance-counter.js';
import type { Fix } from '../core/fix/fix.js';
import { HeightSmoother, type HeightAt } from '../core/trail/smooth-heights.js';
import type { Trail } from '../core/trail/trail.js';

/** A point along a trail. */
export interface ProfilePoint {
  /** Metres along the distance of the summary. */
  readonly distance: number;
  /** Seconds since the trail began. */
  readonly elapsed: number;
  /** Metres; absent when unknown. */
  readonly altitude?: number;
  /** The smoothed altitude, of which climb and descent are counted; absent where heights are too few to be smoothed. */
  readonly smoothAltitude?: number;
  /** Metres per second; absent when unknown. */
  readonly speed?: number;
}

/** Maximum points of a chart. */
const STEPS = 240;
/** A height whose stated accuracy is this many times the usual one is ignored: the first ones after a silence. */
const COARSE = 2.5;
/** Seconds over which a speed is measured where no fix reports one. */
const SPEED_SPAN = 20;

/** A fix, and its distance along the trail once that is final. */
interface Reached {
  readonly fix: Fix;
  distance: number;
}

/**
 * Points of the profiles: the accepted fixes of a trail in runs without a gap. Where no fix reports a speed, it is that
 * of the distance in the last 20 s.
 */
export function profileOf(trail: Trail): ProfilePoint[][] {
  const start = trail.number(0, 'time');
  const coarse = COARSE * medianOf(trail.column('altitudeAccuracy'));
  const reports = trail.column('speed').some((speed) => !Number.isNaN(speed));
  return runsOf(trail).map((run) => {
    const points: ProfilePoint[] = [];
    const smoothAt = smoothHeightsOf(run);
    let behind = 0;
    for (const { fix, distance } of run) {
      const elapsed = (fix.time - start) / 1000;
      while (elapsed - (points[behind + 1]?.elapsed ?? Infinity) >= SPEED_SPAN) behind++;
      const from = points[behind];
      const span = from === undefined ? 0 : elapsed - from.elapsed;
      const derived =
        reports || from === undefined || span < SPEED_SPAN / 2
          ? undefined
          : (distance - from.distance) / span;
      const speed = fix.speed ?? derived;
      const smoothAltitude = smoothAt(fix.time);
      points.push({
        distance,
        elapsed,
        ...(fix.altitude !== undefined &&
          !((fix.altitudeAccuracy ?? 0) > coarse) && { altitude: fix.altitude }),
        ...(smoothAltitude !== undefined && { smoothAltitude }),
        ...(speed !== undefined && { speed }),
      });
    }
    return points;
  });
}

/** Smoothed heights of a run, by time in increasing order; `undefined` before the first and after the last. */
function smoothHeightsOf(run: readonly Reached[]): (time: number) => number | undefined {
  const heights: HeightAt[] = [];
  const smoother = new HeightSmoother((height) => heights.push(height));
  for (const { fix } of run) smoother.take(fix);
  smoother.breakSegment();
  let next = 0;
  return (time) => {
    while (next < heights.length && (heights[next] as HeightAt).time < time) next++;
    const [from, to] = [heights[next - 1], heights[next]];
    if (from === undefined || to === undefined) return to?.time === time ? to.altitude : undefined;
    const share = (time - from.time) / (to.time - from.time);
    return from.altitude + (to.altitude - from.altitude) * share;
  };
}

/** The accepted fixes in runs without a gap, with their distances. */
function runsOf(trail: Trail): Reached[][] {
  const runs: Reached[][] = [];
  const all: Reached[] = [];
  let [settled, distance] = [0, 0];
  const settle = (time: number, sum: number) => {
    for (let next = all[settled]; next !== undefined && next.fix.time <= time; next = all[++settled])
      next.distance = next.fix.time < time ? distance : sum;
    distance = sum;
  };
  const counter = new DistanceCounter({}, (_, to, tally) => settle(to, tally.distance));
  for (const segment of trail.segments) {
    let run: Reached[] = [];
    runs.push(run);
    for (const fix of trail.fixesOf(segment)) {
      if (isUnsound(fix)) continue;
      const reached = { fix, distance: NaN };
      const continuation = counter.add(fix);
      if (continuation === 'older') continue;
      if (continuation !== 'continues') runs.push((run = []));
      all.push(reached);
      run.push(reached);
    }
    counter.breakSegment();
    settle(Infinity, counter.tally.distance);
  }
  return runs.filter((run) => run.length > 0);
}

/** Median of the known values; NaN when there is none. */
function medianOf(values: Float64Array): number {
  const known = values.filter((value) => !Number.isNaN(value)).sort();
  return known[known.length >> 1] ?? NaN;
}

/** Runs of a chart's points: means of the values in each step, in its middle. */
export function meansOf(
  runs: readonly (readonly ProfilePoint[])[],
  xOf: (point: ProfilePoint) => number,
  yOf: (point: ProfilePoint) => number | undefined,
): [x: number, y: number][][] {
  const xs = runs.flatMap((run) => run.map(xOf));
  const min = xs.reduce((a, b) => Math.min(a, b), Infinity);
  const max = xs.reduce((a, b) => Math.max(a, b), -Infinity);
  const width = (max - min) / STEPS;
  return runs
    .map((run) => {
      const sums = new Map<number, { x: number; y: number; count: number }>();
      for (const point of run) {
        const y = yOf(point);
        if (y === undefined) continue;
        const x = xOf(point);
        const step = width > 0 ? Math.min(STEPS - 1, Math.floor((x - min) / width)) : 0;
        const sum = sums.get(step) ?? { x: 0, y: 0, count: 0 };
        sums.set(step, { x: sum.x + x, y: sum.y + y, count: sum.count + 1 });
      }
      return Array.from(sums.values(), ({ x, y, count }): [number, number] => [x / count, y / count]);
    })
    .filter((run) => run.length > 0);
}
