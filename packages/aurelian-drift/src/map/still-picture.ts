import type { Fix } from '../core/fix/fix.js';
import { accuracyText, positionText } from '../core/fix/words.js';
import { Camera } from '../core/scene/camera.js';
import type { SheetLayer } from '../core/scene/layer-kinds.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { sheetScene } from '../core/scene/sheet.js';
import { writeSvg } from '../core/scene/svg.js';
import type { Theme } from '../core/scene/theme.js';
import { stillTiles, type TileReader } from './still-tiles.js';
import type { TileOptions } from './tile-options.js';

/** Options of `stillPicture`. */
export interface StillPictureOptions {
  /** Width of the picture in pixels. */
  readonly width: number;
  /** Height of the picture in pixels. */
  readonly height: number;
  /** Zoom of the picture. Default 16. */
  readonly zoom?: number;
  /** Background. Default: a grid. */
  readonly ground?: Ground | object;
  /** Source of the data of the ground. */
  readonly credit?: string;
  /** Colours of the picture. Default `day`. */
  readonly theme?: Theme;
}

/** A still picture. */
export interface StillPicture {
  /** SVG text. */
  readonly svg: string;
  /** Description for `alt`. */
  readonly alt: string;
}

/** A picture with the place of the user in the middle, as SVG text, and its description for `alt`. */
export function stillPicture(fix: Fix, options: StillPictureOptions): StillPicture {
  return pictureOf(fix, options, []);
}

/**
 * The same over tiles, which are loaded first: from a service, or by a reader from a folder or an archive.
 *
 * @throws {InputError} for a wrong option.
 * @throws {Error} when the service refuses or fails.
 */
export async function tiledPicture(
  fix: Fix,
  options: StillPictureOptions & { readonly tiles: TileOptions | TileReader },
): Promise<StillPicture> {
  const { tiles, ...rest } = options;
  return pictureOf(fix, rest, [await stillTiles(cameraOf(fix, rest), tiles)]);
}

function cameraOf(fix: Fix, { width, height, zoom = 16 }: StillPictureOptions): Camera {
  return new Camera({ centre: fix, zoom, width, height });
}

function pictureOf(fix: Fix, options: StillPictureOptions, tiles: readonly SheetLayer[]): StillPicture {
  const { ground, credit, theme } = options;
  const scene = sheetScene(cameraOf(fix, options), {
    fix,
    layers: [...tiles, ...(ground === undefined ? [] : [{ kind: 'ground' as const, ground }])],
    margin: { width: 6, foot: 24, ...(credit !== undefined && { credit }) },
  });
  return {
    svg: writeSvg(scene, theme),
    alt: `Own place ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim(),
  };
}
