import FlatQueue from 'flatqueue';
import type { Point } from './terrain.js';
import { distanceOf, type Way } from './ways.js';

interface Edge {
  readonly to: string;
  readonly points: readonly Point[];
  readonly length: number;
}

const keyOf = ([x, y]: Point) => `${x.toFixed(1)},${y.toFixed(1)}`;

/** Plans rounds on the finished ways, so that a round follows them exactly. */
export class RoundPlanner {
  readonly #edges = new Map<string, Edge[]>();
  readonly #places = new Map<string, Point>();

  constructor(ways: readonly Way[]) {
    for (const { points } of ways) {
      const first = points[0] as Point;
      const last = points.at(-1) as Point;
      const length = lengthOf(points);
      this.#add(first, { to: keyOf(last), points, length });
      this.#add(last, { to: keyOf(first), points: points.toReversed(), length });
    }
  }

  #add(from: Point, edge: Edge): void {
    const key = keyOf(from);
    this.#places.set(key, from);
    this.#edges.set(key, [...(this.#edges.get(key) ?? []), edge]);
  }

  /**
   * The shortest line past the junctions nearest to the given points; a part that was walked already costs three times
   * its length.
   */
  line(past: readonly Point[]): Point[] {
    const stops = past.map((place) => this.#nearest(place));
    const used = new Set<readonly Point[]>();
    const line: Point[] = [this.#places.get(stops[0] as string) as Point];
    for (let i = 0; i + 1 < stops.length; i++) {
      for (const edge of this.#leg(stops[i] as string, stops[i + 1] as string, used)) {
        line.push(...edge.points.slice(1));
        used.add(edge.points);
        used.add(edge.points.toReversed());
      }
    }
    return line;
  }

  #nearest(place: Point): string {
    let best = '';
    let min = Infinity;
    for (const [key, point] of this.#places) {
      const metres = distanceOf(place, point);
      if (metres < min) [best, min] = [key, metres];
    }
    return best;
  }

  #leg(from: string, to: string, used: ReadonlySet<readonly Point[]>): Edge[] {
    const walked = new Set(
      [...used].map(
        (points) => `${keyOf(points[0] as Point)}/${keyOf(points.at(-1) as Point)}/${points.length}`,
      ),
    );
    const cost = new Map<string, number>([[from, 0]]);
    const arrival = new Map<string, { before: string; edge: Edge }>();
    const keys = [from];
    const queue = new FlatQueue<number>();
    queue.push(0, 0);
    while (queue.length > 0) {
      const here = keys[queue.pop() as number] as string;
      if (here === to) break;
      for (const edge of this.#edges.get(here) ?? []) {
        const again = walked.has(`${here}/${edge.to}/${edge.points.length}`);
        const total = (cost.get(here) as number) + edge.length * (again ? 3 : 1);
        if (total >= (cost.get(edge.to) ?? Infinity)) continue;
        cost.set(edge.to, total);
        arrival.set(edge.to, { before: here, edge });
        keys.push(edge.to);
        queue.push(keys.length - 1, total);
      }
    }
    const edges: Edge[] = [];
    for (let here = to; here !== from;) {
      const step = arrival.get(here);
      if (step === undefined) throw new Error(`no way from ${from} to ${to}`);
      edges.unshift(step.edge);
      here = step.before;
    }
    return edges;
  }
}

export function lengthOf(points: readonly Point[]): number {
  let sum = 0;
  for (let i = 1; i < points.length; i++) sum += distanceOf(points[i - 1] as Point, points[i] as Point);
  return sum;
}

/** The point on a line at this many metres, and the direction there as a unit vector. */
export function alongLine(points: readonly Point[], metres: number): { at: Point; dx: number; dy: number } {
  let left = metres;
  for (let i = 1; i < points.length; i++) {
    const [ax, ay] = points[i - 1] as Point;
    const [bx, by] = points[i] as Point;
    const length = Math.hypot(bx - ax, by - ay);
    if (left <= length || i === points.length - 1) {
      const t = length === 0 ? 0 : left / length;
      return { at: [ax + (bx - ax) * t, ay + (by - ay) * t], dx: (bx - ax) / length, dy: (by - ay) / length };
    }
    left -= length;
  }
  throw new Error('a line of one point has no direction');
}
