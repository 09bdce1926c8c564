import { list, someText } from '../../check/options.js';
import { sheetOf } from '../empty-sheet.js';
import type { LayerKind } from '../layer-kind.js';
import { LOOK } from '../look.js';
import type { Step } from '../scene.js';

/** A tile that has been loaded: zoom, column from the west, row from the north, and its picture. */
export interface TilePicture {
  readonly z: number;
  readonly x: number;
  readonly y: number;
  /** A `data:` address of type image/png, image/jpeg or image/webp. */
  readonly href: string;
}

/** Tiles for a still picture, loaded before. */
export interface TilePicturesLayer {
  readonly kind: 'tile-pictures';
  readonly tiles: readonly TilePicture[];
  /** Source of the tiles; always shown. */
  readonly credit: string;
}

/** Pixels by which a tile is larger than its place, so that no seam shows between two. */
const OVERLAP = 0.4;

export const TILE_PICTURES: LayerKind<TilePicturesLayer> = {
  kind: 'tile-pictures',
  options: { tiles: list, credit: someText },
  background: true,
  covers: true,
  prepare: ({ tiles, credit }) => ({
    credit,
    under: (camera) => [
      sheetOf('paper', LOOK.parchment, camera),
      {
        id: 'tiles',
        steps: tiles.map(({ z, x, y, href }): Step => {
          const count = 2 ** z;
          const corner = camera.pixelOfWorld(x / count, y / count);
          const side = camera.scale / count + OVERLAP;
          return { kind: 'image', ...corner, width: side, height: side, turn: -camera.turn, image: href };
        }),
      },
    ],
  }),
};
