import { zipSync } from 'fflate';
import { tileBlocks, tilesOf } from '../core/scene/tile-cover.js';
import { addressOf, keptTile, openTiles, recordsOf } from './kept-tiles.js';

/** Name of the file in an archive that tells what its tiles are. */
const ARCHIVE_ABOUT = 'about.json';

/**
 * A kept area as a ZIP file: each tile as ZOOM/COLUMN/ROW with the ending of its type, and `about.json` with name,
 * area, zooms and credit. `aurelian map --tiles FILE.zip` draws with it, unpacked or not.
 *
 * @throws {Error} when no area of this name is kept.
 */
export async function keptArchive(name: string): Promise<Blob> {
  const record = (await recordsOf(await openTiles())).find((each) => each.name === name);
  if (record === undefined) throw new Error(`no tiles are kept under the name "${name}"`);
  const { area, zooms, credit } = record;
  const files: Record<string, Uint8Array> = {
    [ARCHIVE_ABOUT]: new TextEncoder().encode(JSON.stringify({ name, area, zooms, credit })),
  };
  for (const tile of tilesOf(tileBlocks(area, zooms))) {
    const kept = await keptTile(addressOf(record, tile));
    if (kept === undefined) continue;
    const ending = /jpe?g|webp/.exec(kept.headers.get('content-type') ?? '')?.[0] ?? 'png';
    files[`${tile.join('/')}.${ending}`] = new Uint8Array(await kept.arrayBuffer());
  }
  // Pictures are compressed already.
  return new Blob([zipSync(files, { level: 0 })], { type: 'application/zip' });
}
