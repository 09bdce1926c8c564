import type { Camera } from '../core/scene/camera.js';
import { isWhole, sharedRegion, wholeOf, widened, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import type { Theme } from '../core/scene/theme.js';
import { CanvasPainter } from './canvas-painter.js';

/** Pixels that are drawn beyond the visible part on each side, so that the map can be moved without drawing. */
const BEYOND = 96;
/** Milliseconds for drawing the picture in each frame of a zoom; a slower one is stretched meanwhile. */
const QUICK = 14;

/** Counts of drawings, which show how little is drawn. */
export interface RasterWork {
  /** Whole pictures, parts, and moves. */
  readonly whole: number;
  readonly parts: number;
  readonly moves: number;
}

/**
 * The part of the map that stays while it is moved, drawn once on a canvas somewhat larger than the visible part. A
 * move shifts it and draws only what comes into view; a change draws its own part; a zoom stretches it until it is
 * drawn again.
 */
export class Raster {
  readonly #layers: (camera: Camera, region: Region) => readonly Layer[];
  readonly #whole: () => void;
  #front = painter();
  #back = painter();
  #ratio = 1;
  #camera: Camera | undefined;
  #lastCost = 0;
  readonly #work = { whole: 0, parts: 0, moves: 0 };

  /** @param whole called when the whole picture has been drawn. */
  constructor(layers: (camera: Camera, region: Region) => readonly Layer[], whole: () => void) {
    this.#layers = layers;
    this.#whole = whole;
  }

  get work(): RasterWork {
    return { ...this.#work };
  }

  resize(width: number, height: number, ratio: number): void {
    this.#ratio = ratio;
    for (const each of [this.#front, this.#back]) each.resize(width + 2 * BEYOND, height + 2 * BEYOND, ratio);
    this.#camera = undefined;
  }

  set theme(theme: Theme) {
    this.#front.theme = this.#back.theme = theme;
    this.#camera = undefined;
  }

  /** Everything has changed. */
  spoil(): void {
    this.#camera = undefined;
  }

  /** A part has changed; the region is for the camera of the picture. */
  renew(regionFor: (camera: Camera) => Region | undefined): void {
    if (this.#camera === undefined) return;
    const region = regionFor(this.#camera);
    const part = region === undefined ? undefined : sharedRegion(region, wholeOf(this.#camera));
    if (part !== undefined) this.#paint(this.#camera, part);
  }

  /**
   * Updates the picture to a camera. With `hurried`, a zoomed or turned one may be stretched instead; returns whether
   * it was, and must be drawn again later.
   */
  bring(camera: Camera, hurried: boolean): boolean {
    const wide = camera.with({ width: camera.width + 2 * BEYOND, height: camera.height + 2 * BEYOND });
    const now = this.#camera;
    const moved =
      now?.zoom === wide.zoom &&
      now.turn === wide.turn &&
      now.width === wide.width &&
      now.height === wide.height;
    if (now !== undefined && moved) {
      const { x, y } = now.pixelOf(wide.centre);
      const [dx, dy] = [x - now.width / 2, y - now.height / 2];
      if (Math.abs(dx) <= BEYOND / 2 && Math.abs(dy) <= BEYOND / 2) return false;
      if (Math.abs(dx) < now.width * 0.8 && Math.abs(dy) < now.height * 0.8) {
        this.#shift(now, dx, dy);
        return false;
      }
    } else if (now !== undefined && hurried && this.#lastCost > QUICK) {
      return true;
    }
    const started = performance.now();
    this.#front.anchor(0, 0);
    this.#camera = wide;
    this.#paint(wide, wholeOf(wide));
    this.#lastCost = performance.now() - started;
    this.#work.whole++;
    this.#whole();
    return false;
  }

  /** Copies the picture to the canvas on the screen, as the camera sees it. */
  blit(context: CanvasRenderingContext2D, camera: Camera): void {
    const now = this.#camera;
    if (now === undefined) return;
    const { canvas } = this.#front;
    const scale = 2 ** (camera.zoom - now.zoom);
    const turn = ((now.turn - camera.turn) * Math.PI) / 180;
    const at = camera.pixelOf(now.centre);
    context.save();
    context.setTransform(1, 0, 0, 1, 0, 0);
    if (scale === 1 && turn === 0) {
      const left = Math.round((at.x - now.width / 2) * this.#ratio);
      const top = Math.round((at.y - now.height / 2) * this.#ratio);
      context.drawImage(canvas, left, top);
    } else {
      context.translate(at.x * this.#ratio, at.y * this.#ratio);
      context.rotate(turn);
      context.scale(scale, scale);
      context.drawImage(canvas, -canvas.width / 2, -canvas.height / 2);
    }
    context.restore();
  }

  /** Moves the picture by whole device pixels, and draws what comes in at the sides. */
  #shift(now: Camera, dx: number, dy: number): void {
    const [px, py] = [Math.round(dx * this.#ratio), Math.round(dy * this.#ratio)];
    const [sx, sy] = [px / this.#ratio, py / this.#ratio];
    const moved = now.panned(-sx, -sy);
    this.#back.copyFrom(this.#front, -px, -py);
    [this.#front, this.#back] = [this.#back, this.#front];
    this.#camera = moved;
    this.#work.moves++;
    const { width, height } = moved;
    if (sx !== 0) this.#paint(moved, sx > 0 ? [width - sx, 0, width, height] : [0, 0, -sx, height]);
    if (sy !== 0) this.#paint(moved, sy > 0 ? [0, height - sy, width, height] : [0, 0, width, -sy]);
  }

  #paint(camera: Camera, region: Region): void {
    const part = sharedRegion(widened(region, 0.5), wholeOf(camera));
    if (part === undefined) return;
    if (!isWhole(part, camera)) this.#work.parts++;
    this.#front.paintPart(this.#layers(camera, part), part);
  }
}

function painter(): CanvasPainter {
  return new CanvasPainter(document.createElement('canvas'));
}
