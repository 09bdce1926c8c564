import { InputError } from '../core/check/input-error.js';
import type { Camera } from '../core/scene/camera.js';
import { worldBoxOf, type Region } from '../core/scene/region.js';
import type { Step } from '../core/scene/scene.js';

/** Options of a layer of tiles. */
export interface TileOptions {
  /** Address with {z}, {x}, {y}, and {key} where one is needed: square Web Mercator tiles, y from the north. */
  readonly template: string;
  /** Side of a tile in pixels. Default 256. */
  readonly size?: 256 | 512;
  /** Source of the tiles; always shown. */
  readonly credit: string;
  /** Smallest zoom of the service. Default 0. */
  readonly minZoom?: number;
  /** Largest zoom of the service; beyond it, its tiles are enlarged. Default 19. */
  readonly maxZoom?: number;
  /** Replaces {key}. */
  readonly key?: string;
}

interface Tile {
  state: 'loading' | 'there' | 'failed';
  bitmap?: ImageBitmap;
  tries: number;
  used: number;
}

/** Maximum number of tiles in memory. */
const KEPT = 400;
/** Number of tries per tile, and seconds between them. */
const TRIES = 3;
const AGAIN_AFTER = 1.5;
/** Number of zoom levels above a tile that are searched for a substitute. */
const PARENTS = 6;

/**
 * Tiles by address: loaded when needed, tried again after a failure, kept in memory, and replaced by tiles of smaller
 * zooms meanwhile.
 */
export class TileSource {
  readonly #options: TileOptions;
  readonly #onTile: () => void;
  readonly #tiles = new Map<string, Tile>();
  readonly #abort = new AbortController();
  #error: string | undefined;
  #clock = 0;
  #scheduled = false;

  /** @throws {InputError} for a template without {z}, {x} and {y}. */
  constructor(options: TileOptions, onTile: () => void) {
    const missing = ['{z}', '{x}', '{y}'].filter((part) => !options.template.includes(part));
    if (missing.length > 0) {
      throw new InputError(
        'bad-value',
        `tiles: the template has no ${missing.join(', ')}: "${options.template.slice(0, 80)}"`,
      );
    }
    this.#options = options;
    this.#onTile = onTile;
    if (this.#needsKey && (options.key ?? '').trim() === '') {
      this.#error =
        `tiles: the template needs a key, and the option key is ` +
        (options.key === undefined ? 'missing' : 'blank');
    }
  }

  /** Why tiles are missing, for the developer; `undefined` when nothing is wrong. */
  get error(): string | undefined {
    return this.#error;
  }

  close(): void {
    this.#abort.abort();
    for (const { bitmap } of this.#tiles.values()) bitmap?.close();
    this.#tiles.clear();
  }

  /** The tiles of a region with their places; a missing one is replaced by the part of a tile of a smaller zoom. */
  steps(camera: Camera, region: Region): Step[] {
    if (this.#needsKey && (this.#options.key ?? '').trim() === '') return [];
    const { size = 256, minZoom = 0, maxZoom = 19 } = this.#options;
    const z = Math.max(minZoom, Math.min(maxZoom, Math.round(camera.zoom - Math.log2(size / 256))));
    const count = 2 ** z;
    const [x1, y1, x2, y2] = worldBoxOf(camera, region);
    const steps: Step[] = [];
    for (let y = Math.max(0, Math.floor(y1 * count)); y <= Math.min(count - 1, Math.floor(y2 * count)); y++) {
      for (let x = Math.floor(x1 * count); x <= Math.floor(x2 * count); x++) {
        const found = this.#standIn(z, ((x % count) + count) % count, y);
        if (found === undefined) continue;
        const { bitmap, part } = found;
        const corner = camera.pixelOfUnwrapped(x / count, y / count);
        const side = camera.scale / count;
        steps.push({
          kind: 'image',
          x: corner.x,
          y: corner.y,
          width: side,
          height: side,
          turn: -camera.turn,
          image: bitmap,
          part,
        });
      }
    }
    this.#forgetOld();
    return steps;
  }

  get #needsKey(): boolean {
    return this.#options.template.includes('{key}');
  }

  /** A tile, or the nearest one of a smaller zoom with the part to use. */
  #standIn(
    z: number,
    x: number,
    y: number,
  ): { bitmap: ImageBitmap; part: readonly [number, number, number, number] } | undefined {
    this.#want(z, x, y);
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

  #want(z: number, x: number, y: number): void {
    const name = `${z}/${x}/${y}`;
    const known = this.#tiles.get(name);
    if (known !== undefined) {
      known.used = ++this.#clock;
      return;
    }
    const tile: Tile = { state: 'loading', tries: 0, used: ++this.#clock };
    this.#tiles.set(name, tile);
    void this.#load(tile, z, x, y);
  }

  async #load(tile: Tile, z: number, x: number, y: number): Promise<void> {
    const { template, size = 256, key = '' } = this.#options;
    const address = template
      .replaceAll('{z}', String(z))
      .replaceAll('{x}', String(x))
      .replaceAll('{y}', String(y))
      .replaceAll('{key}', encodeURIComponent(key));
    const host = URL.canParse(address, document.baseURI)
      ? new URL(address, document.baseURI).host
      : address.slice(0, 40);
    tile.tries++;
    try {
      const response = await fetch(address, { signal: this.#abort.signal });
      if (response.status === 401 || response.status === 403) {
        this.#fail(
          tile,
          `${host} refuses the key for its tiles (${response.status}); give a key that is valid for this page`,
        );
        return;
      }
      if (!response.ok) throw new Error(`it answers ${response.status}`);
      const bitmap = await createImageBitmap(await response.blob());
      const wrong = bitmap.width !== bitmap.height || (bitmap.width !== size && bitmap.width !== 2 * size);
      if (wrong) {
        const seen = `${bitmap.width} by ${bitmap.height}`;
        bitmap.close();
        this.#fail(tile, `a tile of ${host} is ${seen} pixels, and the option size says ${size}`);
        return;
      }
      tile.state = 'there';
      tile.bitmap = bitmap;
      this.#error = undefined;
      this.#report();
    } catch (error) {
      if (this.#abort.signal.aborted) return;
      if (tile.tries < TRIES) {
        setTimeout(
          () => {
            if (!this.#abort.signal.aborted) void this.#load(tile, z, x, y);
          },
          AGAIN_AFTER * 1000 * tile.tries,
        );
        return;
      }
      const reason = (error instanceof Error ? error.message : String(error)).replace(/\.$/, '');
      this.#fail(tile, `tiles of ${host} cannot be loaded: ${reason}`);
    }
  }

  #fail(tile: Tile, error: string): void {
    tile.state = 'failed';
    this.#error = error;
    this.#report();
  }

  /** Once for all tiles that arrive in one frame. */
  #report(): void {
    if (this.#scheduled) return;
    this.#scheduled = true;
    requestAnimationFrame(() => {
      this.#scheduled = false;
      if (!this.#abort.signal.aborted) this.#onTile();
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
