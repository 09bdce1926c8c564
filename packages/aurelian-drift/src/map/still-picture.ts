import type { Fix } from '../core/fix/fix.js';
import { accuracyText, positionText } from '../core/fix/words.js';
import { Camera } from '../core/scene/camera.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { sheetScene } from '../core/scene/sheet.js';
import { writeSvg } from '../core/scene/svg.js';
import type { Theme } from '../core/scene/theme.js';

/** Options of `stillPicture`. */
export interface StillPictureOptions {
  /** Width of the picture in pixels. */
  readonly width: number;
  /** Height of the picture in pixels. */
  readonly height: number;
  /** Zoom of the picture. Default 16. */
  readonly zoom?: number;
  /** Background. Default: a grid. */
  readonly ground?: Ground;
  /** Source of the data of the ground. */
  readonly credit?: string;
  /** Colours of the picture. Default `day`. */
  readonly theme?: Theme;
}

/** A picture with the place of the user in the middle, as SVG text, and its description for `alt`. */
export function stillPicture(fix: Fix, options: StillPictureOptions): { svg: string; alt: string } {
  const { width, height, zoom = 16, ground, credit, theme } = options;
  const camera = new Camera({ centre: fix, zoom, width, height });
  const scene = sheetScene(camera, {
    fix,
    ...(ground !== undefined && { layers: [{ kind: 'ground', ground }] }),
    margin: { width: 6, foot: 24, ...(credit !== undefined && { credit }) },
  });
  return {
    svg: writeSvg(scene, theme),
    alt: `Own place ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim(),
  };
}
