import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import {
  abortSignal,
  anything,
  callable,
  checkOptions,
  numberFrom,
  someText,
  isMissing,
} from '../core/check/options.js';
import { boundsProblem, type Bounds } from '../core/geodesy/bounds.js';
import { tileBlocks, tileCount, tilesOf, type TileBlock, type TileName } from '../core/scene/tile-cover.js';
import {
  addressOf,
  areaOf,
  keepTile,
  keptBytes,
  openTiles,
  writeRecord,
  type AreaRecord,
  type KeptArea,
} from './kept-tiles.js';
import { checkTiles, isNoTile, keyProblem, zoomsOf, type TileOptions } from './tile-options.js';

/** Which tiles are kept. */
export interface TilesOfArea {
  /** The service, as in a layer of tiles. Its `mayKeep` must be true: the provider allows that its tiles are stored. */
  readonly tiles: TileOptions;
  /** [west, south, east, north] in degrees. */
  readonly area: Bounds;
  /** Smallest and largest zoom, whole numbers. */
  readonly zooms: readonly [from: number, to: number];
}

/** Options of `keepTiles`. */
export interface KeepTilesOptions extends TilesOfArea {
  /** Name of the area, to show, extend or remove it. The same name again goes on where it was cancelled. */
  readonly name: string;
  /** Seconds after which the tiles may no longer be used. Default: 30 days. */
  readonly keepFor?: number;
  /** Called after each tile. */
  readonly onProgress?: (progress: TileProgress) => void;
  /** Cancels it. What was stored stays, and counts when it is taken up again. */
  readonly signal?: AbortSignal;
}

/** How far an area is loaded. */
export interface TileProgress {
  /** Number of tiles that are done, of all. */
  readonly done: number;
  readonly count: number;
  /** Bytes so far. */
  readonly bytes: number;
}

/** What keeping an area costs. */
export interface TileMeasure {
  /** Number of tiles. */
  readonly count: number;
  /** Bytes, estimated from a few tiles of each zoom. */
  readonly bytes: number;
  /** Bytes that this browser lets the page store beside what it has stored; `undefined` where it does not say. */
  readonly free: number | undefined;
}

/** More tiles are refused: no provider would like it, and no user would wait. */
const MOST = 20_000;
/** Requests at a time, tries of a tile, and milliseconds before the second and third. */
const AT_ONCE = 4;
const TRIES = 3;
const PAUSE = 800;
/** Tiles of each zoom that are loaded to estimate the size. */
const SAMPLES = 3;
const MONTH = 30 * 86_400;

/**
 * Number and size of the tiles of an area, before they are kept. It loads a few of them.
 *
 * @throws {InputError} for a wrong option, an area of too many tiles, or a service that does not allow it.
 */
export async function measureTiles(options: TilesOfArea): Promise<TileMeasure> {
  const blocks = blocksOf(options);
  let bytes = 0;
  for (const block of blocks) {
    const tiles = [...tilesOf([block])];
    const step = Math.max(1, Math.floor(tiles.length / SAMPLES));
    const sampled = tiles.filter((_, i) => i % step === 0).slice(0, SAMPLES);
    let sum = 0;
    for (const tile of sampled) sum += (await loaded(options, tile, undefined))?.size ?? 0;
    bytes += (sum / sampled.length) * tiles.length;
  }
  return { count: tileCount(blocks), bytes: Math.round(bytes), free: await freeBytes() };
}

/**
 * Stores the tiles of an area in this browser, for maps without a network: every layer of tiles with the same template
 * finds them, and so does a service worker of the app.
 *
 * @returns the area, complete: tiles that the service does not have are counted as done.
 * @throws {InputError} for a wrong option, an area of too many tiles, or a service that does not allow it.
 * @throws {DOMException} of name `AbortError` when it was cancelled, `QuotaExceededError` when the store is full; what
 *   was stored stays.
 * @throws {Error} when the service refuses or fails; what was stored stays.
 */
export async function keepTiles(options: KeepTilesOptions): Promise<KeptArea> {
  checkOptions<Required<KeepTilesOptions>>('keepTiles', options as Required<KeepTilesOptions>, {
    ...AREA_RULES,
    name: someText,
    keepFor: numberFrom(60, 366 * 86_400, 'seconds'),
    onProgress: callable,
    signal: abortSignal,
  });
  const blocks = blocksOf(options);
  const { name, area, zooms, tiles, signal, keepFor = MONTH } = options;
  if (isMissing(name)) throw new InputError('bad-value', 'keepTiles: the name is missing');
  const { template, key, sharp, credit } = tiles;
  const count = tileCount(blocks);
  const expires = Date.now() + keepFor * 1000;
  const cache = await openTiles();
  let record: AreaRecord = {
    ...{ name, area, zooms, template, credit, count, kept: 0, bytes: 0, expires },
    tiles: { template, ...(key !== undefined && { key }), ...(sharp !== undefined && { sharp }) },
    ratio: ratioOfScreen(),
  };
  // The record first: no tile is without one, whatever happens.
  await writeRecord(cache, record);
  const names = tilesOf(blocks);
  const stopped = new AbortController();
  const cancel = AbortSignal.any([stopped.signal, ...(signal === undefined ? [] : [signal])]);
  let done = 0;
  const work = async (): Promise<void> => {
    for (const tile of names) {
      cancel.throwIfAborted();
      const address = addressOf(record, tile);
      const there = await keptBytes(cache, address);
      const blob = there === undefined ? await loaded(options, tile, cancel) : undefined;
      const bytes =
        blob === undefined ? (there ?? 0) : await keepTile(cache, address, new Response(blob), expires);
      record = { ...record, kept: record.kept + 1, bytes: record.bytes + bytes };
      done++;
      options.onProgress?.({ done, count, bytes: record.bytes });
    }
  };
  try {
    await Promise.all(Array.from({ length: AT_ONCE }, work));
  } catch (error) {
    stopped.abort();
    throw error;
  } finally {
    await writeRecord(cache, record);
  }
  return areaOf(record);
}

const AREA_RULES = { tiles: anything, area: boundsProblem, zooms: zoomsProblem };

/** The tiles to keep. @throws {InputError} for a wrong option. */
function blocksOf(options: TilesOfArea): TileBlock[] {
  const { tiles, area, zooms } = options;
  for (const [name, rule] of Object.entries(AREA_RULES)) {
    const problem = rule(options[name as keyof TilesOfArea]);
    if (problem !== undefined) throw new InputError('bad-value', `keepTiles: ${name} ${problem}`);
  }
  checkTiles(tiles);
  if (tiles.mayKeep !== true)
    throw new InputError(
      'bad-value',
      'keepTiles: tiles.mayKeep must be true: say that the provider of the tiles allows that they are stored',
    );
  const missing = keyProblem(tiles);
  if (missing !== undefined) throw new InputError('bad-value', missing);
  const [minZoom, maxZoom] = zoomsOf(tiles);
  const blocks = tileBlocks(area, [Math.max(minZoom, zooms[0]), Math.min(maxZoom, zooms[1])]);
  const count = tileCount(blocks);
  if (count > MOST)
    throw new InputError(
      'bad-value',
      `keepTiles: the area has ${count} tiles at zooms ${zooms.join(' to ')}, over ${MOST}; ` +
        'ask for a smaller area or fewer zooms',
    );
  return blocks;
}

function zoomsProblem(value: unknown): string | undefined {
  const [from, to] = Array.isArray(value) && value.length === 2 ? (value as unknown[]) : [];
  const whole = [from, to].every((zoom) => Number.isInteger(zoom) && Number(zoom) >= 0 && Number(zoom) <= 24);
  return whole && Number(from) <= Number(to)
    ? undefined
    : `must be [from, to], two whole zooms of 0 to 24, got ${formatValue(value)}`;
}

/** A tile from the service; `undefined` when it does not have it. @throws {Error} when it refuses or fails. */
async function loaded(
  { tiles }: TilesOfArea,
  name: TileName,
  signal: AbortSignal | undefined,
): Promise<Blob | undefined> {
  const address = addressOf({ tiles, credit: tiles.credit, ratio: ratioOfScreen() }, name);
  const where = `tile ${name.join('/')}`;
  for (let tries = 1; ; tries++) {
    try {
      const response = await fetch(address, signal === undefined ? {} : { signal });
      const { status } = response;
      if (isNoTile(response)) return undefined;
      if (response.ok) return await response.blob();
      if (status < 500 && status !== 429 && status !== 408)
        throw new Refused(`the service refuses ${where}: it answers ${status}`);
      throw new Error(`the service fails: it answers ${status} for ${where}`);
    } catch (error) {
      if (error instanceof Refused || signal?.aborted === true || tries === TRIES) throw error;
      await new Promise((resolve) => setTimeout(resolve, PAUSE * tries));
    }
  }
}

/** Bytes that this browser lets the page store beside what it has stored; `undefined` where it does not say. */
async function freeBytes(): Promise<number | undefined> {
  const { storage } = navigator as { readonly storage?: StorageManager };
  const { quota, usage } = (await storage?.estimate()) ?? {};
  return quota === undefined || usage === undefined ? undefined : quota - usage;
}

class Refused extends Error {}

function ratioOfScreen(): number {
  return (globalThis as { devicePixelRatio?: number }).devicePixelRatio ?? 1;
}
