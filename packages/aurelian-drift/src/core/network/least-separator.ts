import { addTo } from './int-lists.js';

/** A part of a graph between two sides. */
export interface Band {
  /** Number of nodes in it: 0 to `size` − 1. */
  readonly size: number;
  /** Edges within it: pairs of nodes. */
  readonly edges: Int32Array;
  /** Nodes with an edge to the low side, and to the high side. */
  readonly low: Int32Array;
  readonly high: Int32Array;
}

/** Capacity of an edge: more than that of a node, so that a cut goes through nodes only. */
const WIDE = 2;

/**
 * The fewest nodes whose removal parts the low side from the high side: a largest flow in which each node carries one
 * unit (Y. Dinitz, Algorithm for solution of a problem of maximum flow in networks with power estimation, 1970; the cut
 * by L. Ford, D. Fulkerson, 1956).
 *
 * @returns for each node: 0 on the low side, 1 in the separator, 2 on the high side.
 */
export function leastSeparator({ size, edges, low, high }: Band): Uint8Array {
  // Each node is two: in at 2 v, out at 2 v + 1. Arc i and its reverse i ^ 1 are neighbours.
  const [source, sink, count] = [2 * size, 2 * size + 1, 2 * size + 2];
  const heads = new Int32Array(2 * (size + edges.length + low.length + high.length));
  const capacity = new Uint8Array(heads.length);
  const next = new Int32Array(heads.length);
  const first = new Int32Array(count).fill(-1);
  let arcs = 0;
  const add = (from: number, to: number, most: number) => {
    for (const [tail, head, room] of [
      [from, to, most],
      [to, from, 0],
    ] as const) {
      heads[arcs] = head;
      capacity[arcs] = room;
      next[arcs] = first[tail] as number;
      first[tail] = arcs++;
    }
  };
  for (let v = 0; v < size; v++) add(2 * v, 2 * v + 1, 1);
  for (let i = 0; i < edges.length; i += 2) {
    const [a, b] = [edges[i] as number, edges[i + 1] as number];
    add(2 * a + 1, 2 * b, WIDE);
    add(2 * b + 1, 2 * a, WIDE);
  }
  for (const v of low) add(source, 2 * v, WIDE);
  for (const v of high) add(2 * v + 1, sink, WIDE);

  const level = new Int32Array(count);
  const queue = new Int32Array(count);
  const arc = new Int32Array(count);
  /** Distances from the source over arcs with room. Returns whether the sink is reached. */
  const rise = () => {
    level.fill(-1);
    level[source] = 0;
    queue[0] = source;
    for (let head = 0, tail = 1; head < tail; head++) {
      const node = queue[head] as number;
      for (let i = first[node] as number; i !== -1; i = next[i] as number) {
        const other = heads[i] as number;
        if (capacity[i] === 0 || level[other] !== -1) continue;
        level[other] = (level[node] as number) + 1;
        queue[tail++] = other;
      }
    }
    return level[sink] !== -1;
  };
  const path: number[] = [];
  while (rise()) {
    arc.set(first);
    path.length = 0;
    let node = source;
    for (;;) {
      if (node === sink) {
        for (const i of path) {
          addTo(capacity, i, -1);
          addTo(capacity, i ^ 1, 1);
        }
        path.length = 0;
        node = source;
        continue;
      }
      const i = arc[node] as number;
      if (i === -1) {
        const back = path.pop();
        if (back === undefined) break;
        node = heads[back ^ 1] as number;
        arc[node] = next[arc[node] as number] as number;
      } else if (capacity[i] !== 0 && level[heads[i] as number] === (level[node] as number) + 1) {
        path.push(i);
        node = heads[i] as number;
      } else arc[node] = next[i] as number;
    }
  }
  return Uint8Array.from({ length: size }, (_, v) =>
    level[2 * v] === -1 ? 2 : level[2 * v + 1] === -1 ? 1 : 0,
  );
}
