import { BoundsGatherer, boxAround, plainBoxes, type Bounds } from '../geodesy/bounds.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { UNITS, boxIndex, searchBoxes } from './boxes.js';
import type { DrawnLines } from './drawn-lines.js';
import { addTo } from './int-lists.js';
import { labelOf } from './lane-graph.js';
import type { NetworkFault } from './network-faults.js';

/** Metres up to which an end that was not joined is reported. */
const REPORTED = 5;
/** Steps of a line in one box of the index. */
const STEPS_IN_BOX = 16;

/** The place of another line that is nearest to an end. */
interface Touch {
  /** Index of the point before it, and the share of the step. */
  readonly at: number;
  readonly share: number;
  readonly metres: number;
  readonly line: number;
}

/**
 * Finds the ends of lines that nearly touch another line, and joins those within a tolerance: to a point of that line,
 * or to a new point in one of its steps.
 */
export function looseEnds(lines: DrawnLines, join: number): NetworkFault[] {
  const { points, starts, laneOf, lanes, table } = lines;
  const uses = new Int32Array(table.size);
  for (const point of points) addTo(uses, point, 1);
  const ends: { readonly line: number; readonly at: number }[] = [];
  for (let line = 0; line < laneOf.length; line++)
    for (const at of [starts[line] as number, (starts[line + 1] as number) - 1])
      if (uses[points[at] as number] === 1) ends.push({ line, at });
  if (ends.length === 0) return [];
  const search = nearSteps(lines);
  /** Points that have become another point. */
  const same = new Map<number, number>();
  const now = (point: number): number => {
    let last = point;
    for (let next = same.get(last); next !== undefined; next = same.get(last)) last = next;
    // The way there is short the next time.
    for (let each = point; each !== last;) {
      const next = same.get(each) as number;
      same.set(each, last);
      each = next;
    }
    return last;
  };
  /** New points in a step, by the index of the point before. */
  const added = new Map<number, { readonly share: number; readonly point: number }[]>();
  const faults: NetworkFault[] = [];
  for (const { line, at } of ends) {
    const end = points[at] as number;
    const touch = search(line, at, Math.max(join, REPORTED));
    if (touch === undefined) continue;
    const { metres, share } = touch;
    const corner = points[touch.at + Math.round(share)] as number;
    const isAtCorner = share === 0 || share === 1;
    if (isAtCorner && now(corner) === now(end)) continue;
    const lane = labelOf(lanes, laneOf[line] as number);
    const other = labelOf(lanes, laneOf[touch.line] as number);
    const position = { lat: table.y(end) / UNITS, lon: table.x(end) / UNITS };
    faults.push({ kind: metres <= join ? 'joined' : 'gap', lane, other, at: position, metres });
    if (metres > join) continue;
    if (isAtCorner) same.set(now(end), now(corner));
    else {
      const inStep = added.get(touch.at) ?? [];
      if (inStep.push({ share, point: end }) === 1) added.set(touch.at, inStep);
    }
  }
  if (same.size > 0 || added.size > 0) redraw(lines, now, added);
  return faults;
}

/** Replaces and adds points. */
function redraw(
  lines: DrawnLines,
  now: (point: number) => number,
  added: ReadonlyMap<number, readonly { readonly share: number; readonly point: number }[]>,
): void {
  const points: number[] = [];
  const starts = [0];
  const add = (point: number) => {
    const isFirst = points.length === starts.at(-1);
    if (isFirst || points.at(-1) !== now(point)) points.push(now(point));
  };
  for (let line = 0; line < lines.laneOf.length; line++) {
    for (let k = lines.starts[line] as number; k < (lines.starts[line + 1] as number); k++) {
      add(lines.points[k] as number);
      for (const { point } of (added.get(k) ?? []).toSorted((a, b) => a.share - b.share)) add(point);
    }
    starts.push(points.length);
  }
  lines.points = points;
  lines.starts = starts;
}

/** A search for the nearest step of a line to one of its ends or those of others. */
function nearSteps({ points, starts, laneOf, table }: DrawnLines) {
  const boxes: Bounds[] = [];
  const firsts: number[] = [];
  const lineOf: number[] = [];
  for (let line = 0; line < laneOf.length; line++) {
    const end = (starts[line + 1] as number) - 1;
    for (let start = starts[line] as number; start < end; start += STEPS_IN_BOX) {
      const gatherer = new BoundsGatherer();
      for (let k = start; k <= Math.min(end, start + STEPS_IN_BOX); k++)
        gatherer.add(table.y(points[k] as number) / UNITS, table.x(points[k] as number) / UNITS);
      for (const box of plainBoxes(gatherer.bounds as Bounds)) {
        boxes.push(box);
        firsts.push(start);
        lineOf.push(line);
      }
    }
  }
  const index = boxIndex(boxes);
  return (line: number, at: number, metres: number): Touch | undefined => {
    const end = points[at] as number;
    const from = { lat: table.y(end) / UNITS, lon: table.x(end) / UNITS };
    const scale = metresPerDegree(from.lat);
    let best: Touch | undefined;
    for (const box of searchBoxes(index, boxAround(from, metres))) {
      const [start, ofLine] = [firsts[box] as number, lineOf[box] as number];
      const last = Math.min((starts[ofLine + 1] as number) - 1, start + STEPS_IN_BOX);
      for (let k = start; k < last; k++) {
        // The own end touches itself, and a short line its other end.
        if (ofLine === line && Math.abs(k + 0.5 - at) < 3) continue;
        const x = (i: number) => wrapLongitude(table.x(points[i] as number) / UNITS - from.lon) * scale.east;
        const y = (i: number) => (table.y(points[i] as number) / UNITS - from.lat) * scale.north;
        const [dx, dy] = [x(k + 1) - x(k), y(k + 1) - y(k)];
        const length = Math.hypot(dx, dy);
        const exact = -(x(k) * dx + y(k) * dy) / (length * length);
        // A corner that is as near as the step counts: lines keep their points.
        const edge = Math.min(0.5, metres / 10 / length);
        const share = exact < edge ? 0 : exact > 1 - edge ? 1 : exact;
        const away = Math.hypot(x(k) + share * dx, y(k) + share * dy);
        if (away <= metres && away < (best?.metres ?? Infinity))
          best = { at: k, share, metres: away, line: ofLine };
      }
    }
    return best;
  };
}
