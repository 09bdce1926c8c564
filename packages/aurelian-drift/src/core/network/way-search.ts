import FlatQueue from 'flatqueue';
import { LowerBounds } from './lower-bounds.js';
import type { LaneGraph, Stretch } from './lane-graph.js';
import { raisedLength, type Raised } from './raised.js';
import type { Travel } from './travel.js';

/** A place on an edge, in metres from its first point. */
export interface OnEdge {
  readonly edge: number;
  readonly along: number;
}

/** A way of least cost. */
export interface FoundWay {
  readonly stretches: readonly Stretch[];
  readonly cost: number;
}

/** A place at the end of a search: a node, and the cost between it and the place itself. */
interface EndNode {
  readonly node: number;
  readonly arc: number;
  readonly cost: number;
}

/** Nodes around a start that are looked at one by one, and nodes that are tested by their bounds. */
const FEW = 2000;
const TESTS = 200;

/**
 * Finds the ways of least cost over a network: a search from the start that is guided by lower bounds of the cost to
 * the target (P. Hart, N. Nilsson, B. Raphael, A formal basis for the heuristic determination of minimum cost paths,
 * 1968). Raised costs need no preparation, as they leave lower bounds valid.
 */
export class WaySearch {
  readonly #network: LaneGraph;
  readonly #bounds: LowerBounds;
  readonly #cost: Float64Array;
  /** Arc by which a node was reached. */
  readonly #by: Int32Array;
  /** Round in which a node was reached. */
  readonly #reached: Int32Array;
  #round = 0;
  readonly #queue = new FlatQueue<number>();

  constructor(network: LaneGraph) {
    this.#network = network;
    this.#bounds = new LowerBounds(network.contraction);
    const count = network.nodeCount;
    this.#cost = new Float64Array(count);
    this.#by = new Int32Array(count);
    this.#reached = new Int32Array(count);
  }

  /** The way of least cost between two places; `undefined` if there is none. */
  find(travel: Travel, from: OnEdge, to: OnEdge, raised: Raised): FoundWay | undefined {
    const costOf = (arc: number, start: number, end: number) =>
      travel.costOf(arc, raisedLength(raised, arc >> 1, start, end));
    const direct = this.#direct(from, to, costOf);
    const starts = this.#leaving(from, costOf);
    const targets = this.#entering(to, costOf);
    this.#bounds.begin(travel.costs, targets);
    const best = this.#search(travel, starts, targets, raised, direct?.cost ?? Infinity);
    return best === undefined ? direct : this.#unwound(from, to, best.target, best.cost);
  }

  /** The nodes that can be reached from a place, if they are few; otherwise a test whether a node is one of them. */
  reachable(travel: Travel, from: OnEdge, raised: Raised): readonly number[] | ((node: number) => boolean) {
    const isOpen = (arc: number, start: number, end: number) =>
      travel.costOf(arc, raisedLength(raised, arc >> 1, start, end)) < Infinity;
    const starts = this.#leaving(from, (arc, start, end) => (isOpen(arc, start, end) ? 0 : Infinity));
    const seen = new Uint8Array(this.#network.nodeCount);
    const waiting = starts.map(({ node }) => node);
    for (const node of waiting) seen[node] = 1;
    const few = this.#spread(waiting, seen, isOpen, FEW);
    if (waiting.length === 0) return few;
    const isWhole = [...raised.values()].every((parts) => parts.every(({ factor }) => factor < Infinity));
    let tests = isWhole ? TESTS : 0;
    return (node) => {
      // The bounds tell it at once of a few nodes, unless lanes are closed that are open to them.
      if (tests-- > 0) {
        this.#bounds.begin(travel.costs, [{ node, cost: 0 }]);
        return starts.some((start) => this.#bounds.at(start.node) < Infinity);
      }
      this.#spread(waiting, seen, isOpen, Infinity);
      return seen[node] === 1;
    };
  }

  /** Marks what can be reached from waiting nodes, until some nodes have been gone through. Returns these. */
  #spread(
    waiting: number[],
    seen: Uint8Array,
    isOpen: (arc: number, start: number, end: number) => boolean,
    most: number,
  ): number[] {
    const { arcs, lengths } = this.#network;
    const done: number[] = [];
    while (done.length < most) {
      const node = waiting.pop();
      if (node === undefined) return done;
      done.push(node);
      for (let i = arcs.starts[node] as number; i < (arcs.starts[node + 1] as number); i++) {
        const arc = arcs.items[i] as number;
        const head = this.#network.headOf(arc);
        if (seen[head] === 1 || !isOpen(arc, 0, lengths[arc >> 1] as number)) continue;
        seen[head] = 1;
        waiting.push(head);
      }
    }
    return done;
  }

  #search(
    travel: Travel,
    starts: readonly EndNode[],
    targets: readonly EndNode[],
    raised: Raised,
    limit: number,
  ): { readonly target: EndNode; readonly cost: number } | undefined {
    const { arcs, lengths } = this.#network;
    const [cost, by, reached] = [this.#cost, this.#by, this.#reached];
    const round = ++this.#round;
    const queue = this.#queue;
    queue.clear();
    const offer = (node: number, value: number, arc: number) => {
      if (reached[node] === round && (cost[node] as number) <= value) return;
      const bound = value + this.#bounds.at(node);
      if (!(bound < least)) return;
      reached[node] = round;
      cost[node] = value;
      by[node] = arc;
      queue.push(node, bound);
    };
    let least = limit;
    let best: EndNode | undefined;
    for (const start of starts) offer(start.node, start.cost, -1 - start.arc);
    while (queue.length > 0 && (queue.peekValue() as number) < least) {
      const bound = queue.peekValue() as number;
      const node = queue.pop() as number;
      const here = cost[node] as number;
      if (bound > here + this.#bounds.at(node)) continue; // reached at a lower cost since
      for (const target of targets)
        if (target.node === node && here + target.cost < least) {
          least = here + target.cost;
          best = target;
        }
      for (let i = arcs.starts[node] as number; i < (arcs.starts[node + 1] as number); i++) {
        const arc = arcs.items[i] as number;
        const length = lengths[arc >> 1] as number;
        offer(
          this.#network.headOf(arc),
          here + travel.costOf(arc, raised.size === 0 ? length : raisedLength(raised, arc >> 1, 0, length)),
          arc,
        );
      }
    }
    return best === undefined ? undefined : { target: best, cost: least };
  }

  /** Nodes at the ends of an edge that can be reached from a place on it. */
  #leaving({ edge, along }: OnEdge, costOf: (arc: number, from: number, to: number) => number): EndNode[] {
    const { from, to } = this.#network.parts;
    return [
      {
        node: to[edge] as number,
        arc: 2 * edge,
        cost: costOf(2 * edge, along, this.#network.lengths[edge] as number),
      },
      { node: from[edge] as number, arc: 2 * edge + 1, cost: costOf(2 * edge + 1, 0, along) },
    ].filter(({ cost }) => cost < Infinity);
  }

  /** Nodes at the ends of an edge from which a place on it can be reached. */
  #entering({ edge, along }: OnEdge, costOf: (arc: number, from: number, to: number) => number): EndNode[] {
    const { from, to } = this.#network.parts;
    return [
      { node: from[edge] as number, arc: 2 * edge, cost: costOf(2 * edge, 0, along) },
      {
        node: to[edge] as number,
        arc: 2 * edge + 1,
        cost: costOf(2 * edge + 1, along, this.#network.lengths[edge] as number),
      },
    ].filter(({ cost }) => cost < Infinity);
  }

  /** The way between two places on one edge that does not leave it. */
  #direct(
    from: OnEdge,
    to: OnEdge,
    costOf: (arc: number, from: number, to: number) => number,
  ): FoundWay | undefined {
    if (from.edge !== to.edge) return undefined;
    const arc = 2 * from.edge + Number(to.along < from.along);
    const cost = from.along === to.along ? 0 : costOf(arc, from.along, to.along);
    return cost === Infinity
      ? undefined
      : { cost, stretches: [{ edge: from.edge, from: from.along, to: to.along }] };
  }

  #unwound(from: OnEdge, to: OnEdge, target: EndNode, cost: number): FoundWay {
    const stretches: Stretch[] = [{ ...this.#network.whole(target.arc), to: to.along }];
    let arc = this.#by[target.node] as number;
    for (; arc >= 0; arc = this.#by[this.#network.tailOf(arc)] as number)
      stretches.push(this.#network.whole(arc));
    stretches.push({ ...this.#network.whole(-1 - arc), from: from.along });
    return { cost, stretches: stretches.reverse() };
  }
}
