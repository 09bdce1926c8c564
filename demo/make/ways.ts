import FlatQueue from 'flatqueue';
import simplify from 'simplify-js';
import { chaikin } from './areas.js';
import { CELL, COLUMNS, ROWS, cellOf, pointOf, type Point, type Terrain } from './terrain.js';

/** Steps of a way on the grid: to the eight neighbours and the knight's moves, so that ways are less angular. */
const STEPS: readonly (readonly [number, number])[] = [
  [1, 0], [-1, 0], [0, 1], [0, -1], [1, 1], [1, -1], [-1, 1], [-1, -1],
  [2, 1], [2, -1], [-2, 1], [-2, -1], [1, 2], [1, -2], [-1, 2], [-1, -2],
]; // prettier-ignore

export type WayKind = 'lane' | 'path';

/** A part of a lane or path between two junctions. */
export interface Way {
  readonly kind: WayKind;
  readonly name?: string;
  readonly points: readonly Point[];
}

/** Finds and stores ways over the terrain; a new way joins an older one where that is easier. */
export class WayNetwork {
  readonly #terrain: Terrain;
  readonly #kinds = new Map<number, WayKind>();
  readonly #names = new Map<number, string>();
  readonly #links = new Map<number, Set<number>>();
  /** Ends of ways: junctions even if nothing else joins there. */
  readonly #ends = new Set<number>();

  constructor(terrain: Terrain) {
    this.#terrain = terrain;
  }

  /** The easiest way between two points, along cells, added to the network. */
  lay(kind: WayKind, from: Point, to: Point, name?: string): void {
    const cells = this.#route(from, to);
    this.#ends.add(cellOf(from)).add(cellOf(to));
    for (const cell of cells) if (this.#kinds.get(cell) !== 'lane') this.#kinds.set(cell, kind);
    if (name !== undefined) for (const cell of cells) if (!this.#names.has(cell)) this.#names.set(cell, name);
    for (let i = 0; i + 1 < cells.length; i++) this.#link(cells[i] as number, cells[i + 1] as number);
  }

  #route(from: Point, to: Point): number[] {
    const start = cellOf(from);
    const goal = cellOf(to);
    const cost = new Map<number, number>([[start, 0]]);
    const parent = new Map<number, number>();
    const queue = new FlatQueue<number>();
    queue.push(start, 0);
    while (queue.length > 0) {
      const cell = queue.pop() as number;
      if (cell === goal) break;
      const known = cost.get(cell) as number;
      for (const [dc, dr] of STEPS) {
        const column = (cell % COLUMNS) + dc;
        const row = Math.floor(cell / COLUMNS) + dr;
        if (column < 0 || column >= COLUMNS || row < 0 || row >= ROWS) continue;
        const next = row * COLUMNS + column;
        const total = known + this.#cost(cell, next, Math.hypot(dc, dr) * CELL);
        if (total >= (cost.get(next) ?? Infinity)) continue;
        cost.set(next, total);
        parent.set(next, cell);
        queue.push(next, total + 0.32 * distanceOf(pointOf(next), pointOf(goal)));
      }
    }
    const cells = [goal];
    while (cells[0] !== start) {
      const before = parent.get(cells[0] as number);
      if (before === undefined) throw new Error('no way there');
      cells.unshift(before);
    }
    return cells;
  }

  #cost(from: number, to: number, length: number): number {
    const { height, lake } = this.#terrain;
    const h = height[to] as number;
    if (h < 1.2 || (lake[to] as number) > -0.06) return Infinity;
    const slope = (h - (height[from] as number)) / length;
    const known = this.#links.get(from)?.has(to) === true;
    const shore = h < 3 ? 1.6 : 1;
    return length * (1 + (slope / 0.07) ** 2) * shore * (known ? 0.32 : 1);
  }

  #link(a: number, b: number): void {
    for (const [from, to] of [
      [a, b],
      [b, a],
    ] as const) {
      const set = this.#links.get(from) ?? new Set();
      set.add(to);
      this.#links.set(from, set);
    }
  }

  /** Every way between junctions once, smoothed; ways share their junction point exactly. */
  ways(): Way[] {
    const isNode = (cell: number) => {
      const links = this.#links.get(cell) as Set<number>;
      return (
        links.size !== 2 ||
        this.#ends.has(cell) ||
        new Set([cell, ...links].map((each) => this.#kinds.get(each))).size > 1
      );
    };
    const done = new Set<string>();
    const ways: Way[] = [];
    for (const [cell, links] of this.#links) {
      if (!isNode(cell)) continue;
      for (const first of links) {
        if (done.has(`${cell}-${first}`)) continue;
        const cells = [cell, first];
        while (!isNode(cells.at(-1) as number)) {
          const [before, here] = cells.slice(-2) as [number, number];
          const next = [...(this.#links.get(here) as Set<number>)].find((each) => each !== before) as number;
          cells.push(next);
        }
        const [last, beforeLast] = [cells.at(-1) as number, cells.at(-2) as number];
        done.add(`${cell}-${first}`);
        done.add(`${last}-${beforeLast}`);
        const middle = cells[Math.floor(cells.length / 2)] as number;
        const kind = cells.length === 2 ? this.#pairKind(cell, first) : (this.#kinds.get(middle) as WayKind);
        const name = kind === 'lane' ? this.#names.get(middle) : undefined;
        ways.push({
          kind,
          ...(name !== undefined && { name }),
          points: smooth(cells.map(pointOf)),
        });
      }
    }
    return ways;
  }

  #pairKind(a: number, b: number): WayKind {
    return this.#kinds.get(a) === 'lane' && this.#kinds.get(b) === 'lane' ? 'lane' : 'path';
  }
}

export function smooth(points: readonly Point[]): Point[] {
  const thin = simplify(
    points.map(([x, y]) => ({ x, y })),
    9,
    true,
  ).map(({ x, y }): Point => [x, y]);
  const round = chaikin(thin, false);
  return simplify(
    round.map(([x, y]) => ({ x, y })),
    1.2,
    true,
  ).map(({ x, y }): Point => [x, y]);
}

export function distanceOf([ax, ay]: Point, [bx, by]: Point): number {
  return Math.hypot(bx - ax, by - ay);
}
