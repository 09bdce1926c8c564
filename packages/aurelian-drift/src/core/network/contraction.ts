import { lists } from './int-lists.js';
import { eliminationOrder, type PlaneGraph } from './elimination-order.js';

/** Costs of the arcs of a contraction: upwards from the lower end to the higher one, and downwards. */
export interface ArcCosts {
  readonly up: Float32Array;
  readonly down: Float32Array;
}

/** Rounds a cost down to single precision, so that it stays a lower bound. */
const DOWN = 1 - 2 ** -23;

/**
 * A road network with shortcuts that do not depend on costs: its nodes are eliminated in order, and the higher
 * neighbours of an eliminated node become neighbours of each other. Costs are laid over it per rule in one pass
 * (J. Dibbelt, B. Strasser, D. Wagner, Customizable contraction hierarchies, 2016).
 */
export class Contraction {
  /** Rank of each node. */
  readonly rank: Int32Array;
  /** Arcs of rank r: those from `starts[r]` to `starts[r + 1]`, excluded. */
  readonly starts: Int32Array;
  /** Higher end of each arc, as a rank; ascending for each rank. */
  readonly heads: Int32Array;
  readonly #ends: PlaneGraph['ends'];

  constructor(graph: PlaneGraph) {
    this.rank = eliminationOrder(graph);
    this.#ends = graph.ends;
    const { starts, heads } = eliminated(this.rank, graph.ends);
    this.starts = starts;
    this.heads = heads;
  }

  /** The lowest of the higher neighbours of a rank; −1 for none. All of its higher neighbours are above each other. */
  above(rank: number): number {
    const start = this.starts[rank] as number;
    return start < (this.starts[rank + 1] as number) ? (this.heads[start] as number) : -1;
  }

  /**
   * Lays costs over it.
   *
   * @param cost cost of an edge from its first end to its second, or back; `Infinity` for a closed direction.
   */
  costs(cost: (edge: number, back: boolean) => number): ArcCosts {
    const { starts, heads, rank } = this;
    const [tails, others] = this.#ends;
    const up = new Float32Array(heads.length).fill(Infinity);
    const down = new Float32Array(heads.length).fill(Infinity);
    for (let edge = 0; edge < tails.length; edge++) {
      const [a, b] = [rank[tails[edge] as number] as number, rank[others[edge] as number] as number];
      if (a === b) continue;
      const arc = this.#arc(Math.min(a, b), Math.max(a, b));
      const [forth, back] = [cost(edge, a > b) * DOWN, cost(edge, a < b) * DOWN];
      if (forth < (up[arc] as number)) up[arc] = forth;
      if (back < (down[arc] as number)) down[arc] = back;
    }
    /** Arc from the present rank to a higher one. */
    const mark = new Int32Array(rank.length).fill(-1);
    for (let low = 0; low < rank.length; low++) {
      const [start, end] = [starts[low] as number, starts[low + 1] as number];
      for (let arc = start; arc < end; arc++) mark[heads[arc] as number] = arc;
      for (let arc = start; arc < end; arc++) {
        const [rises, falls] = [up[arc] as number, down[arc] as number];
        if (rises === Infinity && falls === Infinity) continue;
        const middle = heads[arc] as number;
        const last = starts[middle + 1] as number;
        for (let over = starts[middle] as number; over < last; over++) {
          const other = mark[heads[over] as number] as number;
          if (other < 0) continue;
          const forth = (falls + (up[other] as number)) * DOWN;
          const back = ((down[other] as number) + rises) * DOWN;
          if (forth < (up[over] as number)) up[over] = forth;
          if (back < (down[over] as number)) down[over] = back;
        }
      }
      for (let arc = start; arc < end; arc++) mark[heads[arc] as number] = -1;
    }
    return { up, down };
  }

  #arc(low: number, high: number): number {
    let [from, to] = [this.starts[low] as number, (this.starts[low + 1] as number) - 1];
    while (from < to) {
      const middle = (from + to) >> 1;
      if ((this.heads[middle] as number) < high) from = middle + 1;
      else to = middle;
    }
    return from;
  }
}

/** Eliminates all nodes in order. An eliminated node hands its neighbours to the lowest of them. */
function eliminated(rank: Int32Array, [tails, heads]: PlaneGraph['ends']) {
  const count = rank.length;
  const edges = lists(count, tails.length, (edge) => {
    const [a, b] = [rank[tails[edge] as number] as number, rank[heads[edge] as number] as number];
    return a === b ? undefined : [Math.min(a, b), Math.max(a, b)];
  });
  const starts = new Int32Array(count + 1);
  let found = new Int32Array(2 * tails.length + 16);
  let size = 0;
  const [first, next] = [new Int32Array(count).fill(-1), new Int32Array(count).fill(-1)];
  const seen = new Int32Array(count).fill(-1);
  for (let low = 0; low < count; low++) {
    const start = size;
    starts[low] = start;
    const add = (high: number) => {
      if (high === low || seen[high] === low) return;
      seen[high] = low;
      if (size === found.length) {
        const larger = new Int32Array(2 * size);
        larger.set(found);
        found = larger;
      }
      found[size++] = high;
    };
    for (let i = edges.starts[low] as number; i < (edges.starts[low + 1] as number); i++)
      add(edges.items[i] as number);
    for (let child = first[low] as number; child !== -1; child = next[child] as number)
      for (let arc = starts[child] as number; arc < (starts[child + 1] as number); arc++)
        add(found[arc] as number);
    if (size === start) continue;
    found.subarray(start, size).sort();
    const parent = found[start] as number;
    next[low] = first[parent] as number;
    first[parent] = low;
  }
  starts[count] = size;
  return { starts, heads: found.slice(0, size) };
}
