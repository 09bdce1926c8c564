import { KEPT_NAMES } from '../core/check/kept-names.js';
import { tileBlocks, tilesOf, isCovered, type TileName } from '../core/scene/tile-cover.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import { tileAddress, type TileOptions } from './tile-options.js';

/** An area whose tiles are kept in this browser for use offline. */
export interface KeptArea {
  readonly name: string;
  readonly area: Bounds;
  /** Smallest and largest zoom. */
  readonly zooms: readonly [from: number, to: number];
  readonly template: string;
  readonly credit: string;
  /** Number of its tiles, and of those that are kept: fewer while it is loaded, or when that was cancelled. */
  readonly count: number;
  readonly kept: number;
  /** Bytes of the kept tiles. */
  readonly bytes: number;
  /** When the tiles may no longer be used, milliseconds since 1970 UTC. */
  readonly expires: number;
}

/** The record of a kept area, with what is needed to find its tiles again. */
export interface AreaRecord extends KeptArea {
  readonly tiles: Pick<TileOptions, 'template' | 'key' | 'sharp'>;
  /** Device pixels that make one CSS pixel, for which the tiles were loaded. */
  readonly ratio: number;
}

/** Name of the cache, by which a service worker of the app finds the same tiles: `caches.match(request)`. */
export const KEPT_TILES = KEPT_NAMES.tiles;
const RECORDS = KEPT_NAMES.areas;
/** Header of a kept tile: when it expires, milliseconds since 1970 UTC. */
const EXPIRES = 'x-aurelian-expires';

/** The store of tiles of this browser; `undefined` where the page has none, as on an insecure origin. */
function tileCaches(): CacheStorage | undefined {
  try {
    return (globalThis as { caches?: CacheStorage }).caches;
  } catch {
    return undefined; // a frame without an origin of its own
  }
}

let opened: Promise<Cache | undefined> | undefined;

/** The kept tile at an address, while it has not expired. Never rejects: without it, the service is asked. */
export async function keptTile(address: string): Promise<Response | undefined> {
  try {
    opened ??= openedIfThere();
    const found = await (await opened)?.match(absolute(address));
    return found !== undefined && expiryOf(found) > Date.now() ? found : undefined;
  } catch {
    return undefined;
  }
}

async function openedIfThere(): Promise<Cache | undefined> {
  const store = tileCaches();
  return (await store?.has(KEPT_TILES)) === true ? store?.open(KEPT_TILES) : undefined;
}

/** Stores a tile until it expires. @returns its bytes. */
export async function keepTile(
  cache: Cache,
  address: string,
  tile: Response,
  expires: number,
): Promise<number> {
  const body = await tile.arrayBuffer();
  const type = tile.headers.get('content-type') ?? 'image/png';
  const headers = {
    'content-type': type,
    'content-length': String(body.byteLength),
    [EXPIRES]: String(expires),
  };
  await cache.put(absolute(address), new Response(body, { headers }));
  return body.byteLength;
}

/** Bytes of a kept tile that has not expired; `undefined` for none. */
export async function keptBytes(cache: Cache, address: string): Promise<number | undefined> {
  const found = await cache.match(absolute(address));
  if (found === undefined || expiryOf(found) <= Date.now()) return undefined;
  return Number(found.headers.get('content-length') ?? 0);
}

/** Opens the store of tiles, which is made when it is not there. @throws {Error} where the page has none. */
export async function openTiles(): Promise<Cache> {
  const store = tileCaches();
  if (store === undefined) throw new Error('this page has no store of tiles: its origin is not secure');
  const cache = await store.open(KEPT_TILES);
  opened = Promise.resolve(cache);
  return cache;
}

export async function writeRecord(cache: Cache, record: AreaRecord): Promise<void> {
  const headers = { 'content-type': 'application/json' };
  await cache.put(
    RECORDS + encodeURIComponent(record.name),
    new Response(JSON.stringify(record), { headers }),
  );
}

export async function recordsOf(cache: Cache): Promise<AreaRecord[]> {
  const records: AreaRecord[] = [];
  for (const { url } of await cache.keys()) {
    if (!url.startsWith(RECORDS)) continue;
    const found = await cache.match(url);
    if (found !== undefined) records.push((await found.json()) as AreaRecord);
  }
  return records;
}

/** Kept areas of this browser, by name. Expired ones are removed first. */
export async function keptAreas(): Promise<readonly KeptArea[]> {
  const store = tileCaches();
  if ((await store?.has(KEPT_TILES)) !== true) return [];
  const cache = await openTiles();
  const records = await recordsOf(cache);
  const now = Date.now();
  const left = records.filter(({ expires }) => expires > now);
  for (const record of records) if (record.expires <= now) await remove(cache, record, left);
  return left.map(areaOf).sort((a, b) => a.name.localeCompare(b.name));
}

/** A kept area for the app. */
export function areaOf({ tiles: _tiles, ratio: _ratio, ...area }: AreaRecord): KeptArea {
  return area;
}

/**
 * Removes a kept area, or all without a name. Tiles that another area needs stay. Returns the number of removed areas.
 */
export async function removeKeptArea(name?: string): Promise<number> {
  const store = tileCaches();
  if ((await store?.has(KEPT_TILES)) !== true) return 0;
  const cache = await openTiles();
  const records = await recordsOf(cache);
  const gone = records.filter((record) => name === undefined || record.name === name);
  if (name === undefined) {
    opened = undefined;
    await store?.delete(KEPT_TILES);
  } else {
    const left = records.filter((record) => record.name !== name);
    for (const record of gone) await remove(cache, record, left);
  }
  return gone.length;
}

/** Removes an area with its tiles, except those that an area that is left needs. */
async function remove(cache: Cache, record: AreaRecord, left: readonly AreaRecord[]): Promise<void> {
  const needed = left
    .filter((each) => sameSource(each, record))
    .flatMap(({ area, zooms }) => tileBlocks(area, zooms));
  for (const tile of tilesOf(tileBlocks(record.area, record.zooms))) {
    if (!isCovered(needed, tile)) await cache.delete(absolute(addressOf(record, tile)));
  }
  await cache.delete(RECORDS + encodeURIComponent(record.name));
}

function sameSource(a: AreaRecord, b: AreaRecord): boolean {
  return addressOf(a, [0, 0, 0]) === addressOf(b, [0, 0, 0]);
}

/** Address of a tile of a kept area. */
export function addressOf(
  { tiles, credit, ratio }: Pick<AreaRecord, 'tiles' | 'credit' | 'ratio'>,
  tile: TileName,
): string {
  return tileAddress({ ...tiles, credit }, tile, ratio);
}

function absolute(address: string): string {
  return new URL(address, globalThis.location.href).href;
}

function expiryOf(response: Response): number {
  return Number(response.headers.get(EXPIRES) ?? 0);
}
