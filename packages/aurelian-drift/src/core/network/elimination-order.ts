import { addTo } from './int-lists.js';
import { leastSeparator } from './least-separator.js';

/** Edges of an undirected graph with nodes on a plane. */
export interface PlaneGraph {
  readonly x: Float64Array;
  readonly y: Float64Array;
  /** Nodes at the two ends of each edge. */
  readonly ends: readonly [Int32Array, Int32Array];
}

/** Nodes with up to this many neighbours are eliminated first: that adds no edge. */
const FEW = 3;
/** A part of up to this size is not divided further. Its edges are bits of whole numbers. */
const SMALL = 32;
/** Share of the nodes before a cut, and after it, at least. */
const BALANCE = 0.4;
/** Share of the nodes before a cut, and after it, in which the fewest that separate are looked for. */
const BAND = 0.06;
/** A part of fewer nodes is cut in the first two directions only. */
const FEW_CUTS = 1000;
/** Directions in which a part may be cut. */
const CUTS = [[1, 0], [0, 1], [1, 1], [1, -1]] as const; // prettier-ignore

/**
 * An order in which to eliminate the nodes of a road network so that few edges are added: the rank of each node. Nodes
 * with few neighbours come first; the rest is dissected: cut in two, both halves in the same way, and the nodes that
 * part them last (A. George, Nested dissection of a regular finite element mesh, 1973). A straight cut in one of four
 * directions is chosen that meets few edges; near it the fewest nodes that part the halves are taken (A. Schild,
 * C. Sommer, On balanced separators in road networks, 2015).
 */
export function eliminationOrder({ x, y, ends: [tails, heads] }: PlaneGraph): Int32Array {
  const count = x.length;
  const neighbours: number[][] = Array.from({ length: count }, () => []);
  for (let edge = 0; edge < tails.length; edge++)
    link(neighbours, tails[edge] as number, heads[edge] as number);
  const rank = new Int32Array(count).fill(-1);
  const eliminated = eliminateFew(neighbours, rank);
  const nodes = Int32Array.from({ length: count }, (_, node) => node).filter((node) => rank[node] === -1);
  const index = new Int32Array(count);
  nodes.forEach((node, i) => (index[node] = i));
  const edges: number[] = [];
  for (const node of nodes)
    for (const other of neighbours[node] as number[])
      if (node < other) edges.push(index[node] as number, index[other] as number);
  dissect({ nodes, edges: Int32Array.from(edges), first: eliminated }, x, y, rank);
  return rank;
}

function link(neighbours: number[][], a: number, b: number): void {
  const [ofA, ofB] = [neighbours[a] as number[], neighbours[b] as number[]];
  // The shorter list tells it sooner: where very many lanes meet, theirs are short.
  if (a === b || (ofA.length < ofB.length ? ofA.includes(b) : ofB.includes(a))) return;
  ofA.push(b);
  ofB.push(a);
}

/** Eliminates nodes with few neighbours, the fewest first. Returns their number. */
function eliminateFew(neighbours: number[][], rank: Int32Array): number {
  const waiting: number[][] = Array.from({ length: FEW + 1 }, () => []);
  const queue = (node: number) => waiting[(neighbours[node] as number[]).length]?.push(node);
  neighbours.forEach((_, node) => queue(node));
  let next = 0;
  for (;;) {
    const node = waiting.find((list) => list.length > 0)?.pop();
    if (node === undefined) return next;
    const around = neighbours[node] as number[];
    if (rank[node] !== -1 || around.length > FEW) continue;
    rank[node] = next++;
    for (const other of around) {
      const list = neighbours[other] as number[];
      // Nodes are taken from the end of the lists.
      list[list.lastIndexOf(node)] = list.at(-1) as number;
      list.pop();
    }
    for (const a of around) for (const b of around) if (a < b) link(neighbours, a, b);
    around.forEach(queue);
  }
}

/** A part of the graph: its nodes, and its edges as pairs of indices of these. */
interface Part {
  readonly nodes: Int32Array;
  readonly edges: Int32Array;
  /** Rank of its first node. */
  readonly first: number;
}

function dissect(whole: Part, x: Float64Array, y: Float64Array, rank: Int32Array): void {
  const parts = [whole];
  for (let part = parts.pop(); part !== undefined; part = parts.pop()) {
    const { nodes, edges, first } = part;
    if (nodes.length <= SMALL) {
      orderSmall(part, rank);
      continue;
    }
    let best: Cut | undefined;
    for (const [east, north] of nodes.length < FEW_CUTS ? CUTS.slice(0, 2) : CUTS) {
      const cut = thinnest(
        Float64Array.from(nodes, (node) => east * (x[node] as number) + north * (y[node] as number)),
        edges,
      );
      if (best === undefined || cut.crossed < best.crossed) best = cut;
    }
    const sides = separated(best as Cut, edges);
    const low = partOf(part, sides, 0, first);
    const high = partOf(part, sides, 2, first + low.nodes.length);
    parts.push(low, high);
    let next = first + low.nodes.length + high.nodes.length;
    nodes.forEach((node, i) => {
      if (sides[i] === 1) rank[node] = next++;
    });
  }
}

/** Eliminates the nodes of a small part, always one with the fewest neighbours. */
function orderSmall({ nodes, edges, first }: Part, rank: Int32Array): void {
  const around: number[] = [];
  for (let i = 0; i < nodes.length; i++) around.push(0);
  for (let i = 0; i < edges.length; i += 2) {
    const [a, b] = [edges[i] as number, edges[i + 1] as number];
    around[a] = (around[a] as number) | (1 << b);
    around[b] = (around[b] as number) | (1 << a);
  }
  let left = nodes.length === SMALL ? -1 : (1 << nodes.length) - 1;
  for (let next = first; left !== 0; next++) {
    let [node, fewest] = [0, Infinity];
    for (let rest = left; rest !== 0; rest &= rest - 1) {
      const each = 31 - Math.clz32(rest & -rest);
      const count = bitsOf(around[each] as number);
      if (count < fewest) [node, fewest] = [each, count];
    }
    rank[nodes[node] as number] = next;
    left &= ~(1 << node);
    const clique = around[node] as number;
    for (let rest = clique; rest !== 0; rest &= rest - 1) {
      const each = 31 - Math.clz32(rest & -rest);
      around[each] = ((around[each] as number) | clique) & left & ~(1 << each);
    }
  }
}

/** Number of bits that are set in a whole number of 32 bits. */
function bitsOf(mask: number): number {
  const pairs = mask - ((mask >>> 1) & 0x55555555);
  const fours = (pairs & 0x33333333) + ((pairs >>> 2) & 0x33333333);
  return Math.imul((fours + (fours >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** The nodes on one side, and the edges between them. */
function partOf({ nodes, edges }: Part, sides: Uint8Array, side: number, first: number): Part {
  const index = new Int32Array(nodes.length);
  let count = 0;
  for (let i = 0; i < nodes.length; i++) if (sides[i] === side) index[i] = count++;
  const inside = new Int32Array(edges.length);
  let size = 0;
  for (let i = 0; i < edges.length; i += 2) {
    const [a, b] = [edges[i] as number, edges[i + 1] as number];
    if (sides[a] !== side || sides[b] !== side) continue;
    inside[size++] = index[a] as number;
    inside[size++] = index[b] as number;
  }
  return { nodes: nodes.filter((_, i) => sides[i] === side), edges: inside.slice(0, size), first };
}

/** A straight cut. */
interface Cut {
  /** Place of each node in the order along the direction of the cut. */
  readonly place: Int32Array;
  /** Number of nodes before it. */
  readonly at: number;
  /** Edges that it meets, counted as more away from the middle. */
  readonly crossed: number;
}

/** Where the fewest edges cross from the nodes before to those after, near the middle. */
function thinnest(values: Float64Array, edges: Int32Array): Cut {
  const size = values.length;
  const place = placesOf(values);
  const change = new Int32Array(size + 1);
  for (let i = 0; i < edges.length; i += 2) {
    const [a, b] = [place[edges[i] as number] as number, place[edges[i + 1] as number] as number];
    addTo(change, Math.min(a, b) + 1, 1);
    addTo(change, Math.max(a, b) + 1, -1);
  }
  const least = Math.floor(BALANCE * size);
  let best = { place, at: size >> 1, crossed: Infinity };
  let crossing = 0;
  for (let at = 1; at <= size - least; at++) {
    crossing += change[at] as number;
    const crossed = crossing * (1 + Math.abs(at / size - 0.5));
    if (at >= least && crossed < best.crossed) best = { place, at, crossed };
  }
  return best;
}

/** Place of each value in ascending order. */
function placesOf(values: Float64Array): Int32Array {
  const size = values.length;
  let [min, max] = [Infinity, -Infinity];
  for (let i = 0; i < size; i++) {
    const value = values[i] as number;
    if (value < min) min = value;
    if (value > max) max = value;
  }
  // The index in the low digits lets the native sort of numbers carry it along.
  const scale = max > min ? (2 ** 52 / size - 1) / (max - min) : 0;
  const keys = new Float64Array(size);
  for (let i = 0; i < size; i++) keys[i] = Math.floor(((values[i] as number) - min) * scale) * size + i;
  keys.sort();
  const place = new Int32Array(size);
  for (let k = 0; k < size; k++) place[(keys[k] as number) % size] = k;
  return place;
}

/**
 * Parts the nodes: those before the cut, those after it, and the fewest near it that keep the two apart. Returns the
 * side of each node: 0 before, 1 between, 2 after.
 */
function separated({ place, at }: Cut, edges: Int32Array): Uint8Array {
  const size = place.length;
  const wide = Math.ceil(BAND * size);
  const [first, last] = [Math.max(1, at - wide), Math.min(size - 1, at + wide)];
  const [inside, low, high]: [number[], Set<number>, Set<number>] = [[], new Set(), new Set()];
  const across = new Set<number>();
  for (let i = 0; i < edges.length; i += 2) {
    const [a, b] = [place[edges[i] as number] as number, place[edges[i + 1] as number] as number];
    const [from, to] = [Math.min(a, b), Math.max(a, b)];
    if (to < first || from >= last) continue;
    if (from < first && to >= last) across.add(from);
    else if (from < first) low.add(to - first);
    else if (to >= last) high.add(from - first);
    else inside.push(from - first, to - first);
  }
  const sides = leastSeparator({
    size: last - first,
    edges: Int32Array.from(inside),
    low: Int32Array.from(low),
    high: Int32Array.from(high),
  });
  return Uint8Array.from(place, (i) => {
    if (across.has(i)) return 1;
    return i < first ? 0 : i >= last ? 2 : (sides[i - first] as number);
  });
}
