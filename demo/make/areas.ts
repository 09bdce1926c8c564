import { contours } from 'd3-contour';
import simplify from 'simplify-js';
import { CELL, COLUMNS, ROWS, type Point } from './terrain.js';

/** An outline and its holes. */
export type Area = readonly (readonly Point[])[];

/**
 * An irregular area around a line: all points nearer to it than a width in metres that varies. It is computed on its
 * own fine grid, so that its outline never crosses itself.
 */
export function areaAround(line: readonly Point[], widthAt: (x: number, y: number) => number): Point[] {
  const cell = 6;
  const reach = 140;
  const left = Math.min(...line.map(([x]) => x)) - reach;
  const top = Math.max(...line.map(([, y]) => y)) + reach;
  const columns = Math.ceil((Math.max(...line.map(([x]) => x)) + reach - left) / cell);
  const rows = Math.ceil((top - Math.min(...line.map(([, y]) => y)) + reach) / cell);
  const values = Array.from({ length: columns * rows }, (_, i) => {
    const [x, y] = [left + ((i % columns) + 0.5) * cell, top - (Math.floor(i / columns) + 0.5) * cell];
    return widthAt(x, y) - Math.min(...line.map(([lx, ly]) => Math.hypot(x - lx, y - ly)));
  });
  const [polygon] = contours().size([columns, rows]).smooth(true).contour(values, 0).coordinates;
  const ring = (polygon?.[0] ?? []).map(([x = 0, y = 0]) => ({ x: left + x * cell, y: top - y * cell }));
  return simplify(ring, 4, true).map(({ x, y }): Point => [x, y]);
}

/** Areas where a field on the grid is above a level; smoothed, thinned, and without areas below `least` m². */
export function areasAbove(field: Float64Array, level: number, min: number): Area[] {
  const made = contours().size([COLUMNS, ROWS]).smooth(true).contour(Array.from(field), level);
  return made.coordinates
    .map((polygon) =>
      polygon.map((ring) => ringOf(ring as [number, number][])).filter((ring) => areaOf(ring) >= min / 3),
    )
    .filter((rings) => rings.length > 0 && areaOf(rings[0] as Point[]) >= min);
}

function ringOf(ring: readonly (readonly [number, number])[]): Point[] {
  const metres = ring.map(([x, y]) => ({ x: (x - COLUMNS / 2) * CELL, y: (ROWS / 2 - y) * CELL }));
  const rounded = chaikin(
    simplify(metres, 14, true).map(({ x, y }): Point => [x, y]),
    true,
  );
  return simplify(
    rounded.map(([x, y]) => ({ x, y })),
    2.5,
    true,
  ).map(({ x, y }): Point => [x, y]);
}

/** Corner cutting at one quarter, twice (G. Chaikin, 1974). A closed ring repeats its first point. */
export function chaikin(points: readonly Point[], closed: boolean): Point[] {
  let now = [...points];
  for (let round = 0; round < 2; round++) {
    const next: Point[] = closed ? [] : [now[0] as Point];
    for (let i = 0; i + 1 < now.length; i++) {
      const [ax, ay] = now[i] as Point;
      const [bx, by] = now[i + 1] as Point;
      next.push(
        [ax * 0.75 + bx * 0.25, ay * 0.75 + by * 0.25],
        [ax * 0.25 + bx * 0.75, ay * 0.25 + by * 0.75],
      );
    }
    next.push(closed ? (next[0] as Point) : (now.at(-1) as Point));
    now = next;
  }
  return now;
}

function areaOf(ring: readonly Point[]): number {
  let twice = 0;
  ring.forEach(([x, y], i) => {
    const [px, py] = ring.at(i - 1) as Point;
    twice += px * y - x * py;
  });
  return Math.abs(twice) / 2;
}
