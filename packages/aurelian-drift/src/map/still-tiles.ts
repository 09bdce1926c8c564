import { wholeOf } from '../core/scene/region.js';
import { columnIn, tilesIn, tilesOf } from '../core/scene/tile-cover.js';
import type { Camera } from '../core/scene/camera.js';
import type { TilePicture, TilePicturesLayer } from '../core/scene/layers/tile-pictures.js';
import { keptTile } from './kept-tiles.js';
import { checkTiles, isNoTile, tileAddress, tileZoom, type TileOptions } from './tile-options.js';

/** Where the tiles of a still picture come from, if not from a service: a folder or an archive. */
export interface TileReader {
  /** Source of the tiles; always shown. */
  readonly credit: string;
  /** Side of a tile in pixels of the picture. Default 256. */
  readonly size?: 256 | 512;
  /** Zooms that there are. Default 0 to 19. */
  readonly minZoom?: number;
  readonly maxZoom?: number;
  /** The bytes of a tile; `undefined` for none. */
  read(z: number, x: number, y: number): Promise<Uint8Array | undefined>;
}

/** More tiles than these are refused: the picture is too large for its zoom. */
const MOST = 400;

/**
 * Loads the tiles that a camera shows, as a layer for `sheetScene` and `stillPicture`. Tiles that are missing leave
 * paper.
 *
 * @throws {InputError} for a wrong option.
 * @throws {Error} when the service refuses or fails.
 */
export async function stillTiles(camera: Camera, from: TileOptions | TileReader): Promise<TilePicturesLayer> {
  const { credit } = from;
  const options: TileOptions = 'read' in from ? { ...limitsOf(from), credit, template: '{z}/{x}/{y}' } : from;
  checkTiles(options);
  const read = 'read' in from ? from.read.bind(from) : readerOf(options);
  const z = tileZoom(options, camera.zoom, 1);
  const block = tilesIn(camera, wholeOf(camera), z);
  // Each once, where the picture shows more than the world.
  const once = { ...block, x2: Math.min(block.x2, block.x1 + 2 ** z - 1) };
  const wanted = Array.from(tilesOf([once]), ([, x, y]) => [columnIn(z, x), y] as const);
  if (wanted.length > MOST) throw new Error(`the picture needs ${wanted.length} tiles, over ${MOST}`);
  const tiles = await Promise.all(
    wanted.map(async ([x, y]): Promise<TilePicture[]> => {
      const bytes = await read(z, x, y);
      return bytes === undefined
        ? []
        : [{ z, x, y, href: `data:${typeOf(bytes)};base64,${base64Of(bytes)}` }];
    }),
  );
  return { kind: 'tile-pictures', tiles: tiles.flat(), credit };
}

function limitsOf({ size, minZoom, maxZoom }: TileReader): Partial<TileOptions> {
  return {
    ...(size !== undefined && { size }),
    ...(minZoom !== undefined && { minZoom }),
    ...(maxZoom !== undefined && { maxZoom }),
  };
}

/** Reads from a service, the kept tiles first. */
function readerOf(options: TileOptions): TileReader['read'] {
  return async (z, x, y) => {
    const address = tileAddress(options, [z, x, y], 1);
    const response = (await keptTile(address)) ?? (await fetch(address));
    if (isNoTile(response)) return undefined;
    if (!response.ok)
      throw new Error(`the service of the tiles answers ${response.status} for ${z}/${x}/${y}`);
    return new Uint8Array(await response.arrayBuffer());
  };
}

function base64Of(bytes: Uint8Array): string {
  let text = '';
  // In pieces: a call takes a limited number of arguments.
  for (let i = 0; i < bytes.length; i += 4096) text += String.fromCharCode(...bytes.subarray(i, i + 4096));
  return btoa(text);
}

/** The media type of a picture, by its first bytes. */
function typeOf(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xd8) return 'image/jpeg';
  return bytes[0] === 0x52 && bytes[8] === 0x57 ? 'image/webp' : 'image/png';
}
