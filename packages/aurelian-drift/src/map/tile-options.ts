import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import { anything, checkOptions, isMissing, numberFrom, someText, yesOrNo } from '../core/check/options.js';
import { suggestion } from '../core/check/suggest.js';
import type { TileName } from '../core/scene/tile-cover.js';

/** Options of a layer of tiles. */
export interface TileOptions {
  /**
   * Address with {z}, {x}, {y}, {key} where one is needed, and {sharp} where the service has tiles for sharp screens:
   * square Web Mercator tiles, y from the north.
   */
  readonly template: string;
  /** Side of a tile in CSS pixels. Default 256. */
  readonly size?: 256 | 512;
  /** Source of the tiles; always shown. */
  readonly credit: string;
  /** Smallest zoom of the service. Default 0. */
  readonly minZoom?: number;
  /** Largest zoom of the service; beyond it, its tiles are enlarged. Default 19. */
  readonly maxZoom?: number;
  /** Replaces {key}. */
  readonly key?: string;
  /** Replaces {sharp} on screens with 1.5 device pixels a CSS pixel or more; on others {sharp} is left out. */
  readonly sharp?: string;
  /** Whether the provider allows that its tiles are stored for use offline: `keepTiles` needs it. Default false. */
  readonly mayKeep?: boolean;
}

/** Device pixels a CSS pixel from which a screen is sharp. */
const SHARP_FROM = 1.5;
const PLACEHOLDERS = ['{z}', '{x}', '{y}', '{key}', '{sharp}'];
const DEEPEST = 24;

/**
 * @throws {InputError} for a misspelt option, a template with an unknown placeholder or without {z}, {x} and {y}, a
 *   credit that is missing, or zooms that are none.
 */
export function checkTiles(options: TileOptions): void {
  checkOptions<Required<TileOptions>>('tiles', options as Required<TileOptions>, {
    template: someText,
    size: (value) =>
      value === 256 || value === 512 ? undefined : `must be 256 or 512, got ${formatValue(value)}`,
    credit: someText,
    minZoom: numberFrom(0, DEEPEST, ''),
    maxZoom: numberFrom(0, DEEPEST, ''),
    key: anything,
    sharp: someText,
    mayKeep: yesOrNo,
  });
  const { template, credit, sharp } = options;
  const [minZoom, maxZoom] = zoomsOf(options);
  if (isMissing(template)) throw new InputError('bad-value', 'tiles: the template is missing');
  if (isMissing(credit))
    throw new InputError('bad-value', 'tiles: the credit is missing: name the source of the tiles');
  const shown = `"${template.slice(0, 80)}"`;
  for (const placeholder of template.match(/\{[^{}]*\}/g) ?? []) {
    if (!PLACEHOLDERS.includes(placeholder))
      throw new InputError(
        'bad-value',
        `tiles: the template has an unknown placeholder ${placeholder}, ${suggestion(placeholder, PLACEHOLDERS)}`,
      );
  }
  const missing = PLACEHOLDERS.slice(0, 3).filter((part) => !template.includes(part));
  if (missing.length > 0)
    throw new InputError('bad-value', `tiles: the template has no ${missing.join(', ')}: ${shown}`);
  if (template.includes('{sharp}') && sharp === undefined)
    throw new InputError('bad-value', 'tiles: the template has {sharp}, and the option sharp is missing');
  if (minZoom > maxZoom)
    throw new InputError('bad-value', `tiles: minZoom ${minZoom} is above maxZoom ${maxZoom}`);
}

/** Smallest and largest zoom of a service. */
export function zoomsOf({ minZoom = 0, maxZoom = 19 }: TileOptions): readonly [number, number] {
  return [minZoom, maxZoom];
}

/** Whether an answer says that the service has no such tile: there is nothing to show, as over the open sea. */
export function isNoTile({ status }: Response): boolean {
  return status === 404 || status === 410 || status === 204;
}

/** Why no tile can be asked for; `undefined` when they can. */
export function keyProblem({ template, key }: TileOptions): string | undefined {
  if (!template.includes('{key}') || (key ?? '').trim() !== '') return undefined;
  return `tiles: the template needs a key, and the option key is ${key === undefined ? 'missing' : 'blank'}`;
}

/** The address of a tile. @param ratio device pixels that make one CSS pixel. */
export function tileAddress(
  { template, key = '', sharp = '' }: TileOptions,
  [z, x, y]: TileName,
  ratio: number,
): string {
  return template
    .replaceAll('{z}', String(z))
    .replaceAll('{x}', String(x))
    .replaceAll('{y}', String(y))
    .replaceAll('{sharp}', ratio >= SHARP_FROM ? sharp : '')
    .replaceAll('{key}', encodeURIComponent(key));
}

/** The whole zoom of the tiles for a zoom of the map: where there is no {sharp}, a sharp screen gets smaller tiles. */
export function tileZoom(options: TileOptions, zoom: number, ratio: number): number {
  const { template, size = 256 } = options;
  const [minZoom, maxZoom] = zoomsOf(options);
  const finer = template.includes('{sharp}') ? 0 : Math.log2(Math.max(1, Math.min(2, ratio)));
  return Math.max(minZoom, Math.min(maxZoom, Math.round(zoom - Math.log2(size / 256) + finer)));
}
