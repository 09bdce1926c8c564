import { unzipSync } from 'fflate';
import { readFile, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { TileOptions, TileReader } from 'aurelian-drift/map';
import { Misuse } from './misuse.js';

/** Endings of the pictures of tiles. */
const ENDINGS = ['png', 'jpg', 'jpeg', 'webp'];

/** What `about.json` beside tiles tells of them. */
interface About {
  readonly credit?: string;
  readonly zooms?: readonly [number, number];
}

/**
 * Tiles as an argument says: a template of addresses, a folder with ZOOM/COLUMN/ROW.png, or such a folder as a ZIP
 * file, as `keptArchive` writes it.
 *
 * @param credit source of the tiles. Default: that of `about.json` beside them.
 * @throws {Misuse} for something else, and when the source of the tiles is not named.
 */
export async function tilesFrom(
  where: string,
  credit: string | undefined,
): Promise<TileOptions | TileReader> {
  if (/\{[a-z]+\}/.test(where)) return { template: where, credit: creditOf(credit, where) };
  const found = await stat(where).catch(() => undefined);
  if (found === undefined)
    throw new Misuse(`${where}: neither a template with {z}, {x} and {y}, nor a folder or ZIP file of tiles`);
  const file = found.isDirectory() ? folderOf(where) : await archiveOf(where);
  const about = await aboutOf(where, file);
  return {
    credit: creditOf(credit ?? about.credit, where),
    ...(about.zooms !== undefined && { minZoom: about.zooms[0], maxZoom: about.zooms[1] }),
    async read(z, x, y) {
      for (const ending of ENDINGS) {
        const bytes = await file(`${z}/${x}/${y}.${ending}`);
        if (bytes !== undefined) return bytes;
      }
      return undefined;
    },
  };
}

function creditOf(credit: string | undefined, where: string): string {
  if (credit === undefined)
    throw new Misuse(
      `${where}: name the source of the tiles with --tile-credit, or in about.json beside them`,
    );
  return credit;
}

type ReadName = (name: string) => Promise<Uint8Array | undefined>;

function folderOf(folder: string): ReadName {
  return async (name) => {
    try {
      return await readFile(join(folder, name));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code === 'ENOENT') return undefined;
      throw error;
    }
  };
}

async function archiveOf(file: string): Promise<ReadName> {
  const bytes = await readFile(file);
  const names = new Set<string>();
  try {
    unzipSync(bytes, { filter: ({ name }) => names.add(name).size < 0 });
  } catch {
    throw new Misuse(`${file}: this is not a ZIP file of tiles`);
  }
  return (name) =>
    Promise.resolve(
      names.has(name) ? unzipSync(bytes, { filter: (entry) => entry.name === name })[name] : undefined,
    );
}

async function aboutOf(where: string, file: ReadName): Promise<About> {
  const bytes = await file('about.json');
  if (bytes === undefined) return {};
  try {
    return JSON.parse(new TextDecoder().decode(bytes)) as About;
  } catch {
    throw new Misuse(`${where}: its about.json is not JSON`);
  }
}
