import FlatQueue from 'flatqueue';
import { COLUMNS, ROWS, cellOf, pointOf, type Point, type Terrain } from './terrain.js';
import { smooth } from './ways.js';

/**
 * The downstream neighbour of each cell, found by flooding the land upwards from the sea, so that all water reaches it
 * (the priority flood of R. Barnes and others, Computers & Geosciences 62, 2014).
 */
export function drainage(terrain: Terrain): Int32Array {
  const down = new Int32Array(COLUMNS * ROWS).fill(-1);
  const seen = new Uint8Array(COLUMNS * ROWS);
  const queue = new FlatQueue<number>();
  terrain.height.forEach((height, cell) => {
    if (height >= 0) return;
    seen[cell] = 1;
    queue.push(cell, height);
  });
  while (queue.length > 0) {
    const level = queue.peekValue() as number;
    const cell = queue.pop() as number;
    for (const step of [1, -1, COLUMNS, -COLUMNS, COLUMNS + 1, COLUMNS - 1, -COLUMNS + 1, -COLUMNS - 1]) {
      const next = cell + step;
      if (next < 0 || next >= seen.length || seen[next] === 1) continue;
      seen[next] = 1;
      down[next] = cell;
      queue.push(next, Math.max(level, terrain.height[next] as number));
    }
  }
  return down;
}

/** The stream from a spring to the sea or the lake, and what it joins; it ends at the first wet cell. */
export function streamFrom(spring: Point, down: Int32Array, terrain: Terrain, wet: Set<number>): Point[] {
  const cells = [cellOf(spring)];
  for (;;) {
    const next = down[cells.at(-1) as number] as number;
    if (next < 0) break;
    cells.push(next);
    const inLake = (terrain.lake[next] as number) > 0.03;
    if (wet.has(next) || (inLake && cells.length > 8) || (terrain.height[next] as number) < -2.2) break;
  }
  for (const cell of cells) wet.add(cell);
  return smooth(cells.map(pointOf));
}
