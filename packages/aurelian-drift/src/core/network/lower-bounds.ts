import type { Contraction, ArcCosts } from './contraction.js';

/**
 * The least cost from any node to a target, by the shortcuts: exact but for rounding, and never too high, so that it
 * guides a search also where costs have been raised since (B. Strasser, T. Zeitz, A fast and tight heuristic for A* in
 * road networks, 2021).
 */
export class LowerBounds {
  readonly #contraction: Contraction;
  /** Least cost downwards from a rank to the target; `Infinity` for ranks that are not above it. */
  readonly #fromAbove: Float64Array;
  /** Ranks above the target. */
  readonly #above: number[] = [];
  /** Least cost from a rank to the target, where its round is the present one. */
  readonly #value: Float64Array;
  readonly #final: Int32Array;
  /** Ranks on the way to the top, for one call. */
  readonly #path: number[] = [];
  #round = 0;
  #up: Float32Array = new Float32Array(0);

  constructor(contraction: Contraction) {
    this.#contraction = contraction;
    const count = contraction.rank.length;
    this.#fromAbove = new Float64Array(count).fill(Infinity);
    this.#value = new Float64Array(count);
    this.#final = new Int32Array(count);
  }

  /** Begins a search. @param targets nodes with the cost from each of them to the target. */
  begin({ up, down }: ArcCosts, targets: readonly { readonly node: number; readonly cost: number }[]): void {
    this.#up = up;
    this.#round++;
    const { rank, starts, heads } = this.#contraction;
    const cost = this.#fromAbove;
    for (const each of this.#above) cost[each] = Infinity;
    this.#above.length = 0;
    for (const target of targets) {
      const low = rank[target.node] as number;
      cost[low] = Math.min(cost[low] as number, target.cost);
    }
    // All that is above a node lies on one path to the top, and the paths of several nodes become one.
    let ends = targets.map(({ node }) => rank[node] as number);
    while (ends.length > 0) {
      const low = ends.length === 1 ? (ends[0] as number) : Math.min(...ends);
      this.#above.push(low);
      const value = cost[low] as number;
      const end = starts[low + 1] as number;
      for (let arc = starts[low] as number; arc < end; arc++) {
        const head = heads[arc] as number;
        const total = value + (down[arc] as number);
        if (total < (cost[head] as number)) cost[head] = total;
      }
      const above = this.#contraction.above(low);
      if (ends.length === 1) {
        if (above === -1) break;
        ends[0] = above;
      } else
        ends = [...new Set(ends.map((each) => (each === low ? above : each)))].filter((each) => each !== -1);
    }
  }

  /** Least cost from a node to the target; `Infinity` where there is no way. */
  at(node: number): number {
    const { rank, starts, heads } = this.#contraction;
    const own = rank[node] as number;
    const [value, final, round, path, up, fromAbove] = [
      this.#value,
      this.#final,
      this.#round,
      this.#path,
      this.#up,
      this.#fromAbove,
    ];
    if (final[own] === round) return value[own] as number;
    let size = 0;
    for (let low = own; low !== -1 && final[low] !== round; low = this.#contraction.above(low))
      path[size++] = low;
    while (size > 0) {
      const low = path[--size] as number;
      let least = fromAbove[low] as number;
      const end = starts[low + 1] as number;
      for (let arc = starts[low] as number; arc < end; arc++) {
        const cost = (up[arc] as number) + (value[heads[arc] as number] as number);
        if (cost < least) least = cost;
      }
      value[low] = least;
      final[low] = round;
    }
    return value[own] as number;
  }
}
