import FlatQueue from 'flatqueue';
import type { LaneGraph, Stretch } from './lane-graph.js';
import type { OnEdge } from './way-search.js';

/** Shortest ways from a place to places near it: a search of everything within some metres (E. Dijkstra, 1959). */
export class NearWays {
  readonly #network: LaneGraph;
  readonly #isOpen: (arc: number) => boolean;
  readonly #metres: Float64Array;
  readonly #by: Int32Array;
  readonly #reached: Int32Array;
  #round = 0;
  #from: OnEdge = { edge: 0, along: 0 };
  readonly #queue = new FlatQueue<number>();
  /** Metres within which everything has been searched, and up to which it shall be. */
  #searched = 0;
  #limit = 0;

  constructor(network: LaneGraph, isOpen: (arc: number) => boolean) {
    this.#network = network;
    this.#isOpen = isOpen;
    this.#metres = new Float64Array(network.nodeCount);
    this.#by = new Int32Array(network.nodeCount);
    this.#reached = new Int32Array(network.nodeCount);
  }

  /** Begins at a place. Nothing farther than a limit is found. */
  begin(from: OnEdge, limit: number): void {
    this.#from = from;
    this.#round++;
    this.#queue.clear();
    this.#searched = 0;
    this.#limit = limit;
    const { parts, lengths } = this.#network;
    const { edge, along } = from;
    const arc = 2 * edge;
    if (this.#isOpen(arc)) this.#offer(parts.to[edge] as number, (lengths[edge] as number) - along, -1 - arc);
    if (this.#isOpen(arc + 1)) this.#offer(parts.from[edge] as number, along, -2 - arc);
  }

  /** Metres to a place; `Infinity` beyond the limit. */
  metresTo(to: OnEdge): number {
    const { edge, along } = this.#from;
    if (edge === to.edge) {
      const arc = 2 * edge + Number(to.along < along);
      if (this.#isOpen(arc)) return Math.abs(to.along - along);
    }
    return Math.min(...this.#ends(to).map(({ metres }) => metres));
  }

  /** The way to a place, without stretches of no length; `undefined` beyond the limit. */
  wayTo(to: OnEdge): Stretch[] | undefined {
    const { edge, along } = this.#from;
    if (edge === to.edge && this.#isOpen(2 * edge + Number(to.along < along)))
      return along === to.along ? [] : [{ edge, from: along, to: to.along }];
    const [one, other] = this.#ends(to);
    const best = one.metres <= other.metres ? one : other;
    if (best.metres === Infinity) return undefined;
    const stretches: Stretch[] = [{ ...this.#network.whole(best.arc), to: to.along }];
    let arc = this.#by[best.node] as number;
    for (; arc >= 0; arc = this.#by[this.#network.tailOf(arc)] as number)
      stretches.push(this.#network.whole(arc));
    stretches.push({ ...this.#network.whole(-1 - arc), from: along });
    return stretches.reverse().filter(({ from, to: end }) => from !== end);
  }

  /** The two ends of an edge by which a place on it is reached, with the metres to the place. */
  #ends({ edge, along }: OnEdge) {
    const { parts, lengths } = this.#network;
    const [start, end] = [parts.from[edge] as number, parts.to[edge] as number];
    const [forth, back] = [2 * edge, 2 * edge + 1];
    const length = lengths[edge] as number;
    return [
      { node: start, arc: forth, metres: this.#isOpen(forth) ? this.#to(start) + along : Infinity },
      { node: end, arc: back, metres: this.#isOpen(back) ? this.#to(end) + length - along : Infinity },
    ] as const;
  }

  /** Metres to a node. The search goes on as far as it must. */
  #to(node: number): number {
    const { arcs, lengths } = this.#network;
    for (;;) {
      if (this.#reached[node] === this.#round && (this.#metres[node] as number) <= this.#searched)
        return this.#metres[node] as number;
      const next = this.#queue.peekValue();
      if (next === undefined || next > this.#limit)
        return this.#reached[node] === this.#round ? (this.#metres[node] as number) : Infinity;
      const here = this.#queue.pop() as number;
      if (next > (this.#metres[here] as number)) continue;
      this.#searched = next;
      for (let i = arcs.starts[here] as number; i < (arcs.starts[here + 1] as number); i++) {
        const arc = arcs.items[i] as number;
        if (this.#isOpen(arc))
          this.#offer(this.#network.headOf(arc), next + (lengths[arc >> 1] as number), arc);
      }
    }
  }

  #offer(node: number, metres: number, arc: number): void {
    if (this.#reached[node] === this.#round && (this.#metres[node] as number) <= metres) return;
    this.#reached[node] = this.#round;
    this.#metres[node] = metres;
    this.#by[node] = arc;
    this.#queue.push(node, metres);
  }
}
