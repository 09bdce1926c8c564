import type { Fence } from '../fence/fence.js';
import { shapeOf } from '../fence/shape.js';
import { alongStraight } from '../geodesy/straight.js';
import type { LaneGraph } from './lane-graph.js';

/** A part of an edge that costs more. */
export interface RaisedPart {
  /** Metres along the edge. */
  readonly from: number;
  readonly to: number;
  /** Multiple of the cost, 1 or more; `Infinity` for closed. */
  readonly factor: number;
  /** The fence that it is in. */
  readonly fence?: Fence;
}

/** Parts of edges that cost more than usual, by edge. */
export type Raised = ReadonlyMap<number, readonly RaisedPart[]>;

/** Multiple of the cost in an area to avoid: a way around it may be up to this much longer. */
const AVOIDED = 20;
/** Metres of an edge that may lie in a closed area: lanes along its border stay open. */
const BORDER = 0.5;

/** Parts of the edges that lie in areas to avoid, and in closed areas. */
export function raisedBy(network: LaneGraph, avoid: readonly Fence[], closed: readonly Fence[]): Raised {
  const raised = new Map<number, RaisedPart[]>();
  for (const fence of avoid) raise(network, fence, AVOIDED, raised);
  for (const fence of closed) raise(network, fence, Infinity, raised);
  return raised;
}

function raise(network: LaneGraph, fence: Fence, factor: number, raised: Map<number, RaisedPart[]>): void {
  const shape = shapeOf(fence);
  const { firsts, lasts } = network.parts;
  for (const edge of network.edgesIn(shape.bounds)) {
    let along = 0;
    for (let k = firsts[edge] as number; k < (lasts[edge] as number); k++) {
      const [start, end, length] = [network.point(k), network.point(k + 1), network.stepLength(k)];
      const cuts = [0, ...shape.cuts(start, end), 1];
      for (let i = 1; i < cuts.length; i++) {
        const [low, high] = [cuts[i - 1] as number, cuts[i] as number];
        const middle = alongStraight(start, end, (low + high) / 2);
        if (high <= low || shape.depth(middle.lat, middle.lon) < 0) continue;
        const part = { from: along + low * length, to: along + high * length, factor, fence };
        const parts = raised.get(edge) ?? [];
        if (parts.push(part) === 1) raised.set(edge, parts);
      }
      along += length;
    }
  }
}

/** Length of a stretch of an edge, with its raised parts counted as often as they cost. */
export function raisedLength(raised: Raised, edge: number, from: number, to: number): number {
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  let length = high - low;
  for (const part of raised.get(edge) ?? []) {
    const inside = Math.min(high, part.to) - Math.max(low, part.from);
    if (inside <= 0 || (part.factor === Infinity && inside <= BORDER)) continue;
    length += inside * (part.factor - 1);
  }
  return length;
}
