import type { Contraction, ArcCosts } from './contraction.js';

/**
 * The least cost from any node to a target, by the shortcuts: exact but for rounding, and never too high, so that it
 * guides a search also where costs have been raised since (B. Strasser, T. Zeitz, A fast and tight heuristic for A* in
 * road networks, 2021).
 */
export class LowerBounds {
  readonly #contraction: Contraction;
  readonly #value: Float64Array;
  /** Round of the search in which a rank got its bound from the target, and its final value. */
  readonly #reached: Int32Array;
  readonly #final: Int32Array;
  /** Ranks on the way to the top, for one call. */
  readonly #path: number[] = [];
  #round = 0;
  #costs: ArcCosts | undefined;

  constructor(contraction: Contraction) {
    this.#contraction = contraction;
    const count = contraction.rank.length;
    this.#value = new Float64Array(count);
    this.#reached = new Int32Array(count);
    this.#final = new Int32Array(count);
  }

  /** Begins a search. @param targets nodes with the cost from each of them to the target. */
  begin(costs: ArcCosts, targets: readonly { readonly node: number; readonly cost: number }[]): void {
    this.#costs = costs;
    this.#round++;
    const { rank, starts, heads } = this.#contraction;
    const { down } = costs;
    for (const { node, cost } of targets) {
      let low = rank[node] as number;
      this.#offer(low, cost);
      // All that is above a node lies on one path to the top.
      for (; low !== -1; low = this.#contraction.above(low)) {
        if (this.#reached[low] !== this.#round) continue;
        const value = this.#value[low] as number;
        for (let arc = starts[low] as number; arc < (starts[low + 1] as number); arc++)
          this.#offer(heads[arc] as number, value + (down[arc] as number));
      }
    }
  }

  /** Least cost from a node to the target; `Infinity` where there is no way. */
  at(node: number): number {
    const { rank, starts, heads } = this.#contraction;
    const { up } = this.#costs as ArcCosts;
    const own = rank[node] as number;
    const [value, final, round, path] = [this.#value, this.#final, this.#round, this.#path];
    let size = 0;
    for (let low = own; low !== -1 && final[low] !== round; low = this.#contraction.above(low))
      path[size++] = low;
    while (size > 0) {
      const low = path[--size] as number;
      let least = this.#reached[low] === round ? (value[low] as number) : Infinity;
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

  #offer(rank: number, cost: number): void {
    if (this.#reached[rank] === this.#round && (this.#value[rank] as number) <= cost) return;
    this.#reached[rank] = this.#round;
    this.#value[rank] = cost;
  }
}
