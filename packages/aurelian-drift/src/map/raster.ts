import type { Camera } from '../core/scene/camera.js';
import { wholeOf, widened, type Region } from '../core/scene/region.js';
import type { Layer } from '../core/scene/scene.js';
import { FONT_STACK } from '../core/scene/svg.js';
import { Picture, type PictureContent, type PictureLook } from './picture.js';

/** Pixels around the visible part in which squares are painted before they are seen, and in which they are kept. */
const AHEAD = 120;
const KEPT = 180;
/** Milliseconds for drawing the picture in each frame of a zoom; a slower one is stretched meanwhile. */
const QUICK = 14;
/** Milliseconds after which a stretched picture is replaced, although the map still moves. */
const PATIENCE = 250;
/** Milliseconds of a whole picture above which it is drawn in parts, over several frames. */
const SLOW = 30;
/** Squares that are painted in one frame beside those that must be: while the map moves, and while it rests. */
const PIECE = 2;
const REST_PIECE = 3;
/** Pixels from the camera of a picture beyond which it is drawn anew: its numbers would lose their precision. */
const FARTHEST = 20_000;

/** Counts of drawings, which show how little is drawn. */
export interface RasterWork {
  /** Whole pictures that were begun and completed. */
  readonly whole: number;
  /** Parts that were drawn again because their content changed. */
  readonly parts: number;
  /** Squares that came into view, or will soon. */
  readonly squares: number;
  /** Whether a part of the picture is still to be drawn. */
  readonly pending: boolean;
}

/** What the raster draws. */
export interface RasterContent {
  layers(camera: Camera, region: Region): readonly Layer[];
  /** A whole new picture is begun: its parts must match. */
  begin(camera: Camera): void;
  /** The visible part of the picture that was begun has been drawn. */
  end(): void;
}

/**
 * Whether the picture on the screen is complete: `done`; `more` is drawn in the next frame; `later` when the map has
 * come to rest, because it is stretched meanwhile.
 */
export type RasterState = 'done' | 'more' | 'later';

/**
 * The part of the map that stays while it is moved, in squares. A move paints the squares that come in, before they are
 * visible; a change paints its own part. A zoom stretches the picture until it is drawn again; a picture that takes
 * long is drawn beside the old one, over several frames.
 */
export class Raster {
  readonly #content: RasterContent;
  readonly #layers: PictureContent;
  #look: PictureLook = { ratio: 1, theme: 'day', family: FONT_STACK };
  #shown: Picture | undefined;
  /** The picture that is drawn to replace the shown one. */
  #next: Picture | undefined;
  /** The shown picture is out of date. */
  #spoilt = false;
  /** Number of the content, and that with which the next picture was begun. */
  #version = 0;
  #begun = 0;
  #lastCost = 0;
  /** When the shown picture last had the zoom and turn of the map. */
  #fitted = 0;
  /** Start of a whole picture, to measure it together with its copy to the screen, which rasters it. */
  #started: number | undefined;
  #pending = false;
  readonly #work = { whole: 0, parts: 0, squares: 0 };

  constructor(content: RasterContent) {
    this.#content = content;
    this.#layers = (camera, region) => content.layers(camera, region);
  }

  get work(): RasterWork {
    return { ...this.#work, pending: this.#pending || this.#spoilt };
  }

  /** How it is drawn. Nothing of the old look is shown. */
  look(change: Partial<PictureLook>): void {
    this.#look = { ...this.#look, ...change };
    this.#shown = this.#next = undefined;
    this.#spoilt = false;
  }

  /** Everything has changed; the old picture is shown until the new one is drawn. */
  spoil(): void {
    this.#version++;
    // A picture that is being drawn is finished: it is newer than the shown one, and content may change in each frame.
    this.#spoilt = this.#shown !== undefined;
  }

  /** A part has changed; the region is for the camera of the picture. */
  renew(regionFor: (camera: Camera) => Region | undefined): void {
    if (this.#shown?.renew(regionFor, this.#layers) === true) this.#work.parts++;
    this.#next?.renew(regionFor, this.#layers);
  }

  /** Updates the picture to a camera. With `hurried`, a zoomed or turned one may be stretched instead. */
  bring(camera: Camera, hurried: boolean): RasterState {
    const state = this.#bring(camera, hurried);
    this.#pending = state !== 'done';
    return state;
  }

  #bring(camera: Camera, hurried: boolean): RasterState {
    const fits = this.#shown !== undefined && isScaleOf(this.#shown, camera);
    const now = performance.now();
    if (fits) this.#fitted = now;
    if (this.#shown !== undefined && fits && !this.#spoilt) {
      this.#next = undefined;
      return this.#follow(this.#shown, camera, hurried);
    }
    // What is only out of date is not stretched, but replaced part by part; and nothing is stretched for long.
    const stretches = hurried && this.#lastCost > QUICK && now - this.#fitted < PATIENCE;
    if (this.#shown !== undefined && !fits && stretches) return 'later';
    return this.#anew(camera, hurried);
  }

  /** Copies the picture to the canvas on the screen, as the camera sees it. */
  blit(context: CanvasRenderingContext2D, camera: Camera): void {
    this.#shown?.copyTo(context, camera);
    if (this.#started !== undefined) this.#lastCost = performance.now() - this.#started;
    this.#started = undefined;
  }

  /** Moves with the camera: paints at once what is visible, and else a few squares of what comes next. */
  #follow(picture: Picture, camera: Camera, hurried: boolean): RasterState {
    const seen = picture.seenBy(camera);
    picture.aim(seen);
    picture.keepNear(widened(seen, KEPT));
    const urgent = picture.missing(seen);
    for (const place of urgent) this.#paint(picture, place);
    const coming = picture.missing(widened(seen, AHEAD));
    const some = urgent.length > 0 ? [] : coming.slice(0, hurried ? PIECE : REST_PIECE);
    for (const place of some) this.#paint(picture, place);
    return coming.length === some.length ? 'done' : 'more';
  }

  /** Draws a new picture: at once where that is quick, else beside the old one. */
  #anew(camera: Camera, hurried: boolean): RasterState {
    // A map that goes on turning or zooming gets the picture of a moment ago: it is newer than the one that is shown.
    if (this.#next === undefined || (!hurried && !isScaleOf(this.#next, camera))) {
      this.#next = new Picture(camera, this.#look);
      this.#begun = this.#version;
      this.#content.begin(camera);
    }
    const picture = this.#next;
    const seen = isScaleOf(picture, camera) ? picture.seenBy(camera) : wholeOf(picture.camera);
    picture.aim(seen);
    if (this.#shown === undefined || this.#lastCost <= SLOW) {
      this.#started = performance.now();
      picture.paintAll(seen, this.#layers);
    } else {
      const missing = picture.missing(seen);
      const some = missing.slice(0, hurried ? PIECE : REST_PIECE);
      for (const place of some) this.#paint(picture, place);
      if (some.length < missing.length) return 'more';
    }
    this.#shown = picture;
    this.#next = undefined;
    this.#spoilt = this.#begun !== this.#version;
    this.#work.whole++;
    this.#content.end();
    return 'more';
  }

  #paint(picture: Picture, place: readonly [number, number]): void {
    picture.paint(place, this.#layers);
    this.#work.squares++;
  }
}

/** Whether a picture has the zoom and turn of a camera, and is not too far from it. */
function isScaleOf({ camera: own }: Picture, camera: Camera): boolean {
  if (own.zoom !== camera.zoom || own.turn !== camera.turn) return false;
  const { x, y } = own.pixelOf(camera.centre);
  const farthest = Math.min(FARTHEST, camera.scale / 4);
  return Math.abs(x - own.width / 2) <= farthest && Math.abs(y - own.height / 2) <= farthest;
}
