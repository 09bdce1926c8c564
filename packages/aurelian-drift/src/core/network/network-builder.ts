import { InputError } from '../check/input-error.js';
import { checkOptions, numberFrom } from '../check/options.js';
import { coordinatesOf, eachFeature, partsOf } from '../formats/geojson/geojson.js';
import type { Position } from '../geodesy/position.js';
import { UNITS } from './boxes.js';
import type { DrawnLines } from './drawn-lines.js';
import { addTo } from './int-lists.js';
import { looseEnds } from './loose-ends.js';
import type { Network } from './network.js';
import type { NetworkFault } from './network-faults.js';
import { LaneGraph, labelOf, type Lanes } from './lane-graph.js';
import type { LaneProperties } from './travel-kinds.js';
import { PointTable } from './point-table.js';

/** Options of `networkFrom`. */
export interface NetworkOptions {
  /**
   * Metres up to which the end of a line is joined to another line that it nearly touches, 0 to 50. Default 1. Gaps up
   * to 5 m that are wider are reported.
   */
  readonly join?: number;
}

/**
 * Builds a network of the lines in a parsed GeoJSON document (RFC 7946): LineString and MultiLineString; other features
 * are passed over. Lines meet at points that they share, at 1e-7 degrees; lines that cross without a common point, such
 * as a bridge, do not.
 *
 * @returns the network, and what is likely wrong with it.
 * @throws {InputError} for an impossible position, with its path; when there is no line; and for a misspelt option.
 */
export function networkFrom(
  document: unknown,
  options: NetworkOptions = {},
): { readonly network: Network; readonly faults: readonly NetworkFault[] } {
  checkOptions('networkFrom', options, { join: numberFrom(0, 50, 'metres') });
  const faults: NetworkFault[] = [];
  const lines = drawn(document, faults);
  faults.push(...looseEnds(lines, options.join ?? 1));
  const network = networkOf(lines);
  faults.push(...duplicates(network), ...islands(network));
  return { network, faults };
}

function drawn(document: unknown, faults: NetworkFault[]): DrawnLines {
  const properties: LaneProperties[] = [];
  const ids = new Map<number, string>();
  const lanes: Lanes = { properties, ids };
  const table = new PointTable(1024);
  const lines: DrawnLines = { lanes, table, points: [], starts: [0], laneOf: [] };
  let any = false;
  for (const feature of eachFeature(document, (error) => {
    throw error;
  })) {
    const { geometry, coordinatesPath } = feature;
    const parts =
      geometry?.type === 'LineString'
        ? [coordinatesOf(geometry.coordinates, coordinatesPath)]
        : geometry?.type === 'MultiLineString'
          ? partsOf(geometry.coordinates, coordinatesPath)
          : [];
    if (parts.length === 0) continue;
    any = true;
    const lane = properties.push(feature.properties) - 1;
    if (feature.id !== undefined) ids.set(lane, feature.id);
    for (const part of parts) {
      const numbers = part.map((at) => pointOf(table, at));
      const points = numbers.filter((point, i) => point !== numbers[i - 1]);
      if (points.length < 2) {
        const at = part[0];
        if (at !== undefined)
          faults.push({ kind: 'short', lane: labelOf(lanes, lane), at: { lat: at.lat, lon: at.lon } });
        continue;
      }
      for (const point of points) lines.points.push(point);
      lines.starts.push(lines.points.length);
      lines.laneOf.push(lane);
    }
  }
  if (!any)
    throw new InputError(
      'nothing-inside',
      'there is no line in it',
      {},
      'A network is made of LineString features.',
    );
  return lines;
}

function pointOf(table: PointTable, { lat, lon }: Position): number {
  return table.numberOf(Math.round((lon === 180 ? -180 : lon) * UNITS), Math.round(lat * UNITS));
}

/** Cuts the lines at their nodes: ends, and points that come more than once. */
function networkOf({ lanes, table, points, starts, laneOf }: DrawnLines): LaneGraph {
  const uses = new Int32Array(table.size);
  for (const point of points) addTo(uses, point, 1);
  for (let line = 0; line < laneOf.length; line++) {
    addTo(uses, points[starts[line] as number] as number, 2);
    addTo(uses, points[(starts[line + 1] as number) - 1] as number, 2);
  }
  const nodeOf = new Int32Array(table.size).fill(-1);
  const [nodePoints, firsts, lasts, from, to, lane]: [
    number[],
    number[],
    number[],
    number[],
    number[],
    number[],
  ] = [[], [], [], [], [], []];
  const nodeAt = (k: number) => {
    const point = points[k] as number;
    if (nodeOf[point] === -1) nodeOf[point] = nodePoints.push(k) - 1;
    return nodeOf[point] as number;
  };
  for (let line = 0; line < laneOf.length; line++) {
    const end = (starts[line + 1] as number) - 1;
    let first = starts[line] as number;
    for (let k = first + 1; k <= end; k++) {
      if ((uses[points[k] as number] as number) < 2) continue;
      firsts.push(first);
      lasts.push(k);
      from.push(nodeAt(first));
      to.push(nodeAt(k));
      lane.push(laneOf[line] as number);
      first = k;
    }
  }
  return new LaneGraph({
    lanes,
    lats: Int32Array.from(points, (point) => table.y(point)),
    lons: Int32Array.from(points, (point) => table.x(point)),
    firsts: Int32Array.from(firsts),
    lasts: Int32Array.from(lasts),
    from: Int32Array.from(from),
    to: Int32Array.from(to),
    laneOf: Int32Array.from(lane),
    nodePoints: Int32Array.from(nodePoints),
  });
}

/** Edges with the same points as another between the same nodes. */
function duplicates(network: LaneGraph): NetworkFault[] {
  const { from, to, firsts, lasts, lats, lons } = network.parts;
  const pairs = new PointTable(network.edgeCount);
  const first: number[] = [];
  const faults: NetworkFault[] = [];
  const isSame = (a: number, b: number, back: boolean) => {
    const [start, other] = [firsts[a] as number, back ? (lasts[b] as number) : (firsts[b] as number)];
    for (let k = 0; start + k <= (lasts[a] as number); k++) {
      const at = back ? other - k : other + k;
      if (lats[start + k] !== lats[at] || lons[start + k] !== lons[at]) return false;
    }
    return true;
  };
  for (let edge = 0; edge < network.edgeCount; edge++) {
    const [a, b] = [from[edge] as number, to[edge] as number];
    const pair = pairs.numberOf(Math.min(a, b), Math.max(a, b));
    const known = first[pair];
    if (known === undefined) {
      first[pair] = edge;
      continue;
    }
    const size = (each: number) => (lasts[each] as number) - (firsts[each] as number);
    if (size(edge) !== size(known) || !(isSame(edge, known, false) || isSame(edge, known, true))) continue;
    const [lane, other] = [network.label(edge), network.label(known)];
    faults.push({ kind: 'duplicate', lane, other, at: network.node(a) });
  }
  return faults;
}

/** Parts of the network without a connection to the largest. */
function islands(network: LaneGraph): NetworkFault[] {
  const { starts, items } = network.arcs;
  const seen = new Uint8Array(network.nodeCount);
  const parts: { readonly edge: number; readonly node: number; readonly metres: number }[] = [];
  for (let start = 0; start < network.nodeCount; start++) {
    if (seen[start] === 1) continue;
    seen[start] = 1;
    const waiting = [start];
    let metres = 0;
    for (let node = waiting.pop(); node !== undefined; node = waiting.pop())
      for (let i = starts[node] as number; i < (starts[node + 1] as number); i++) {
        const arc = items[i] as number;
        if ((arc & 1) === 0) metres += network.lengths[arc >> 1] as number;
        const head = network.headOf(arc);
        if (seen[head] === 1) continue;
        seen[head] = 1;
        waiting.push(head);
      }
    parts.push({ edge: (items[starts[start] as number] as number) >> 1, node: start, metres });
  }
  const most = parts.reduce((longest, { metres }) => Math.max(longest, metres), 0);
  return parts
    .filter(({ metres }) => metres < most)
    .map(({ edge, node, metres }) => ({
      kind: 'apart',
      lane: network.label(edge),
      at: network.node(node),
      metres,
    }));
}
