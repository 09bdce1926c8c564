import type { RasterState } from './raster.js';

/** Milliseconds after which a stretched picture is drawn again, if nothing moves. */
const CALM = 130;

/** Draws a map in animation frames: once for all changes of a frame. */
export class DrawLoop {
  readonly #draw: (now: number) => RasterState;
  #frame = 0;
  #calm: ReturnType<typeof setTimeout> | undefined;
  #ended = false;

  /** @param draw draws at a time of the page; returns whether the picture is complete. */
  constructor(draw: (now: number) => RasterState) {
    this.#draw = draw;
  }

  /** Draws in the next frame. */
  request(): void {
    if (this.#frame !== 0 || this.#ended) return;
    this.#frame = requestAnimationFrame((now) => {
      this.#frame = 0;
      this.drawNow(now);
    });
  }

  drawNow(now = performance.now()): void {
    if (this.#ended) return;
    const state = this.#draw(now);
    if (state === 'more') this.request();
    if (state !== 'later') return;
    clearTimeout(this.#calm);
    this.#calm = setTimeout(() => this.request(), CALM);
  }

  end(): void {
    this.#ended = true;
    clearTimeout(this.#calm);
    cancelAnimationFrame(this.#frame);
  }
}
