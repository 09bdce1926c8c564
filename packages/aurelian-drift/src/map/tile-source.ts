import type { Camera } from '../core/scene/camera.js';
import type { LayerError } from '../core/scene/layer-kind.js';
import { wholeOf, type Region } from '../core/scene/region.js';
import type { Step } from '../core/scene/scene.js';
import { columnIn, tilesIn, tilesOf, type TileBlock, type TileName } from '../core/scene/tile-cover.js';
import { askForTile } from './tile-answer.js';
import { checkTiles, keyProblem, tileZoom, type TileOptions } from './tile-options.js';
import { TileRequests } from './tile-requests.js';

interface Tile {
  state: 'loading' | 'there' | 'none' | 'refused' | 'failed';
  bitmap?: ImageBitmap;
  /** Why it is refused or failed. */
  text?: string;
  tries: number;
  /** Time of the page at which it may be asked for again, milliseconds. */
  again: number;
  used: number;
}

/** Maximum number of tiles in memory. */
const KEPT = 400;
/** Seconds until a failed tile is asked for again while it is wanted: after the first, second, … failure. */
const AGAIN_AFTER = [1.5, 3, 10, 30, 60, 300] as const;
/** Number of failures after which the user is told. */
const TOLD_AFTER = 3;
/** Seconds until a tile that was refused, or that does not exist, is asked for again. */
const REFUSED_AGAIN_AFTER = 60;
const NONE_AGAIN_AFTER = 600;
/** Number of zoom levels above a tile that are searched for a substitute. */
const PARENTS = 6;

/**
 * Tiles by address: loaded when needed, asked for again after a failure and when the network is back, kept in memory,
 * and replaced by tiles of smaller zooms meanwhile.
 */
export class TileSource {
  readonly #options: TileOptions;
  readonly #onTile: () => void;
  readonly #tiles = new Map<string, Tile>();
  readonly #requests = new TileRequests((name, signal) => this.#load(name, signal));
  readonly #keyProblem: string | undefined;
  readonly #online = () => this.#tryAgain();
  /** Tiles of the view. */
  #range: TileBlock | undefined;
  #ratio = 1;
  #closed = false;
  #clock = 0;
  #scheduled = false;
  #timer: ReturnType<typeof setTimeout> | undefined;

  /** @throws {InputError} for a wrong option. */
  constructor(options: TileOptions, onTile: () => void) {
    checkTiles(options);
    this.#options = options;
    this.#onTile = onTile;
    this.#keyProblem = keyProblem(options);
    window.addEventListener('online', this.#online);
  }

  /** Why tiles of the view are missing; `undefined` when nothing is wrong. */
  get error(): LayerError | undefined {
    if (this.#keyProblem !== undefined) return { kind: 'refused', text: this.#keyProblem };
    const seen = this.#seen();
    const refused = seen.find(({ state }) => state === 'refused');
    if (refused !== undefined) return { kind: 'refused', text: refused.text ?? '' };
    const failed = seen.find(({ state, tries }) => state === 'failed' && tries >= TOLD_AFTER);
    if (failed !== undefined) return { kind: 'failing', text: failed.text ?? '' };
    const empty = seen.length > 0 && [...this.#tiles.values()].every(({ state }) => state === 'none');
    const text = `tiles: the service has none of the tiles here; is the template right? "${this.#options.template}"`;
    return empty ? { kind: 'failing', text } : undefined;
  }

  close(): void {
    this.#closed = true;
    clearTimeout(this.#timer);
    window.removeEventListener('online', this.#online);
    this.#requests.close();
    for (const { bitmap } of this.#tiles.values()) bitmap?.close();
    this.#tiles.clear();
  }

  /** The tiles of a region with their places; a missing one is replaced by the part of a tile of a smaller zoom. */
  steps(camera: Camera, region: Region): Step[] {
    if (this.#keyProblem !== undefined) return [];
    this.#ratio = window.devicePixelRatio || 1;
    const z = tileZoom(this.#options, camera.zoom, this.#ratio);
    this.#range = tilesIn(camera, wholeOf(camera), z);
    const count = 2 ** z;
    const steps: Step[] = [];
    for (const [, x, y] of tilesOf([tilesIn(camera, region, z)])) {
      const found = this.#standIn(z, columnIn(z, x), y);
      if (found === undefined) continue;
      const corner = camera.pixelOfUnwrapped(x / count, y / count);
      const side = camera.scale / count;
      steps.push({
        kind: 'image',
        ...corner,
        width: side,
        height: side,
        turn: -camera.turn,
        image: found.bitmap,
        part: found.part,
      });
    }
    this.#ask();
    this.#forgetOld();
    return steps;
  }

  /** A tile, or the nearest one of a smaller zoom with the part to use. */
  #standIn(
    z: number,
    x: number,
    y: number,
  ): { bitmap: ImageBitmap; part: readonly [number, number, number, number] } | undefined {
    this.#want([z, x, y]);
    for (let up = 0; up <= PARENTS && z - up >= 0; up++) {
      const tile = this.#tiles.get(`${z - up}/${x >> up}/${y >> up}`);
      if (tile?.bitmap === undefined) continue;
      tile.used = ++this.#clock;
      const share = 1 / 2 ** up;
      const { width, height } = tile.bitmap;
      const left = (x % 2 ** up) * share * width;
      const top = (y % 2 ** up) * share * height;
      return { bitmap: tile.bitmap, part: [left, top, share * width, share * height] };
    }
    return undefined;
  }

  #want(name: TileName): void {
    const key = name.join('/');
    const known = this.#tiles.get(key);
    const tile: Tile = known ?? { state: 'loading', tries: 0, again: 0, used: 0 };
    tile.used = ++this.#clock;
    if (known !== undefined && (known.state === 'there' || known.again > performance.now())) return;
    this.#tiles.set(key, tile);
    this.#requests.add(name);
  }

  /** Starts the requests of the view, from its middle outwards, and takes back the others. */
  #ask(): void {
    const range = this.#range;
    if (range === undefined) return;
    const [cx, cy] = [(range.x1 + range.x2) / 2, (range.y1 + range.y2) / 2];
    const count = 2 ** range.z;
    const dropped = this.#requests.run(
      ([z, x, y]) => z === range.z && y >= range.y1 && y <= range.y2 && isAcross(x, range),
      ([, x, y]) => Math.hypot(Math.abs(((x - cx + 1.5 * count) % count) - count / 2), y - cy),
    );
    for (const name of dropped) {
      const tile = this.#tiles.get(name.join('/'));
      if (tile?.state === 'loading') this.#tiles.delete(name.join('/'));
    }
  }

  async #load(name: TileName, signal: AbortSignal): Promise<void> {
    const tile = this.#tiles.get(name.join('/'));
    if (tile === undefined) return;
    const answer = await askForTile(this.#options, name, this.#ratio, signal).catch(() => undefined);
    if (answer === undefined || this.#closed || signal.aborted) {
      if (answer?.kind === 'there') answer.bitmap.close();
      return;
    }
    tile.state = answer.kind;
    if (answer.kind === 'there') tile.bitmap = answer.bitmap;
    else delete tile.bitmap;
    if ('text' in answer) tile.text = answer.text;
    tile.tries = answer.kind === 'failed' ? tile.tries + 1 : 0;
    const seconds =
      answer.kind === 'refused'
        ? REFUSED_AGAIN_AFTER
        : answer.kind === 'none'
          ? NONE_AGAIN_AFTER
          : (AGAIN_AFTER[Math.min(tile.tries, AGAIN_AFTER.length) - 1] ?? 0);
    tile.again = performance.now() + seconds * 1000;
    this.#watchAgain();
    this.#report();
  }

  /** Looks again when the next tile of the view may be asked for: a map at rest is not drawn by itself. */
  #watchAgain(): void {
    clearTimeout(this.#timer);
    const next = Math.min(
      ...this.#seen()
        .filter(({ state }) => state !== 'there' && state !== 'loading')
        .map(({ again }) => again),
    );
    if (Number.isFinite(next))
      this.#timer = setTimeout(() => this.#report(), Math.max(100, next - performance.now()));
  }

  /** The network is back: whatever failed may be asked for at once. */
  #tryAgain(): void {
    for (const tile of this.#tiles.values()) if (tile.state === 'failed') tile.again = 0;
    this.#report();
  }

  /** Known tiles of the view. */
  #seen(): Tile[] {
    const range = this.#range;
    if (range === undefined) return [];
    return Array.from(tilesOf([range]), ([z, x, y]) => this.#tiles.get(`${z}/${columnIn(z, x)}/${y}`)).filter(
      (tile) => tile !== undefined,
    );
  }

  /** Once for all tiles that arrive in one frame. */
  #report(): void {
    if (this.#scheduled) return;
    this.#scheduled = true;
    requestAnimationFrame(() => {
      this.#scheduled = false;
      if (!this.#closed) this.#onTile();
    });
  }

  #forgetOld(): void {
    if (this.#tiles.size <= KEPT) return;
    const old = [...this.#tiles]
      .filter(([, { state }]) => state !== 'loading')
      .sort((a, b) => a[1].used - b[1].used);
    for (const [name, { bitmap }] of old.slice(0, this.#tiles.size - KEPT)) {
      bitmap?.close();
      this.#tiles.delete(name);
    }
  }
}

/** Whether a column is in a block that may go beyond the date line. */
function isAcross(x: number, { z, x1, x2 }: TileBlock): boolean {
  return columnIn(z, x - x1) <= x2 - x1;
}
