import { plainBoxes, type Bounds } from '../geodesy/bounds.js';
import type { Camera } from './camera.js';
import { mercatorX, mercatorY } from './mercator.js';
import { worldBoxOf, type Region } from './region.js';

/** A tile: zoom, column from the west, row from the north. */
export type TileName = readonly [z: number, x: number, y: number];

/** Tiles of one zoom in a rectangle: columns from the west and rows from the north, both ends included. */
export interface TileBlock {
  readonly z: number;
  readonly x1: number;
  readonly y1: number;
  readonly x2: number;
  readonly y2: number;
}

/** The square Web Mercator tiles that cover a box, for whole zooms from one to another; two blocks at the date line. */
export function tileBlocks(bounds: Bounds, [from, to]: readonly [from: number, to: number]): TileBlock[] {
  const blocks: TileBlock[] = [];
  for (let z = from; z <= to; z++) {
    const count = 2 ** z;
    const at = (share: number) => Math.max(0, Math.min(count - 1, Math.floor(share * count)));
    for (const [west, south, east, north] of plainBoxes(bounds)) {
      blocks.push({
        z,
        x1: at(mercatorX(west)),
        y1: at(mercatorY(north)),
        x2: at(mercatorX(east)),
        y2: at(mercatorY(south)),
      });
    }
  }
  return blocks;
}

/** The tiles of a zoom in a region of a picture. Columns may go beyond the date line: see `columnIn`. */
export function tilesIn(camera: Camera, region: Region, z: number): TileBlock {
  const count = 2 ** z;
  const [x1, y1, x2, y2] = worldBoxOf(camera, region).map((part) => Math.floor(part * count)) as [
    number,
    number,
    number,
    number,
  ];
  return { z, x1, y1: Math.max(0, y1), x2, y2: Math.min(count - 1, y2) };
}

/** The column of the world for one that may be beyond the date line. */
export function columnIn(z: number, x: number): number {
  const count = 2 ** z;
  return ((x % count) + count) % count;
}

/** Number of tiles in blocks. */
export function tileCount(blocks: readonly TileBlock[]): number {
  return blocks.reduce((sum, { x1, y1, x2, y2 }) => sum + (x2 - x1 + 1) * (y2 - y1 + 1), 0);
}

/** The tiles of blocks, block after block. */
export function* tilesOf(blocks: readonly TileBlock[]): Generator<TileName> {
  for (const { z, x1, y1, x2, y2 } of blocks)
    for (let y = y1; y <= y2; y++) for (let x = x1; x <= x2; x++) yield [z, x, y];
}

/** Whether a tile is in one of some blocks. */
export function isCovered(blocks: readonly TileBlock[], [z, x, y]: TileName): boolean {
  return blocks.some((each) => each.z === z && x >= each.x1 && x <= each.x2 && y >= each.y1 && y <= each.y2);
}
