import { openDB } from 'idb';
import { KEPT_NAMES } from '../core/check/kept-names.js';

/** What was erased. */
export interface Forgotten {
  /** Trails, with their fixes and crossings. */
  readonly trails: number;
  /** Views of maps. */
  readonly views: number;
  /** Memories that the user shares: 0 or 1. */
  readonly sharing: number;
  /** Areas whose tiles were kept, and the tiles. */
  readonly areas: number;
  readonly tiles: number;
  /** What could not be erased, with the reason. */
  readonly failed: readonly string[];
}

/**
 * Erases all that the library keeps in this browser, for this origin: trails with their crossings, views of maps, the
 * memory of sharing, kept tiles, and notes of pages that followed. What was looked up is kept in memory only, and goes
 * with the page. End recorders, sharing and `keepTiles` first: they would go on writing.
 *
 * Nothing of the app itself is touched. Never rejects: what fails is in the result.
 *
 * @param databases names that the app gave to `browserStore` beside the default one.
 */
export async function forgetAll(databases: readonly string[] = []): Promise<Forgotten> {
  const failed: string[] = [];
  const attempt = async (what: string, erase: () => number | Promise<number>): Promise<number> => {
    try {
      return await erase();
    } catch (cause) {
      failed.push(`${what}: ${String(cause)}`);
      return 0;
    }
  };
  let trails = 0;
  for (const name of new Set([KEPT_NAMES.database, ...databases]))
    trails += await attempt(`the trails of "${name}"`, () => eraseTrails(name));
  const views = await attempt('views', () => eraseKeys(localStorage, KEPT_NAMES.views));
  const sharing = await attempt('sharing', () => eraseKeys(localStorage, KEPT_NAMES.sharing));
  await attempt('notes of pages', () => eraseKeys(sessionStorage, KEPT_NAMES.running));
  let areas = 0;
  const tiles = await attempt('tiles', async () => {
    if (!('caches' in globalThis) || !(await caches.has(KEPT_NAMES.tiles))) return 0;
    const kept = await (await caches.open(KEPT_NAMES.tiles)).keys();
    await caches.delete(KEPT_NAMES.tiles);
    areas = kept.filter(({ url }) => url.startsWith(KEPT_NAMES.areas)).length;
    return kept.length - areas;
  });
  return { trails, views, sharing, areas, tiles, failed };
}

/** Empties a database of trails. Its tabs have it open, so it is not deleted. */
async function eraseTrails(name: string): Promise<number> {
  if (!(await indexedDB.databases()).some((each) => each.name === name)) return 0;
  const database = await openDB(name);
  try {
    const names = [...database.objectStoreNames];
    if (!names.includes('heads')) throw new Error('this is not a database of trails');
    const transaction = database.transaction(names, 'readwrite');
    const count = await transaction.objectStore('heads').count();
    await Promise.all([...names.map((each) => transaction.objectStore(each).clear()), transaction.done]);
    return count;
  } finally {
    database.close();
  }
}

function eraseKeys(storage: Storage, beginning: string): number {
  const names = Object.keys(storage).filter((name) => name.startsWith(beginning));
  for (const name of names) storage.removeItem(name);
  return names.length;
}
