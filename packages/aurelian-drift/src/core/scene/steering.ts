import type { Fix } from '../fix/fix.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { MIN_ZOOM, MAX_ZOOM, type Camera } from './camera.js';

/** Ways to follow the own place: not at all, keeping it in the middle, or with the course up. */
export const STEERINGS = ['free', 'centred', 'course-up'] as const;
/** How the view follows the own place: not at all, keeping it in the middle, or with the course up. */
export type SteeringMode = (typeof STEERINGS)[number];

/** Options of `Steering`. */
export interface SteeringOptions {
  /**
   * Width in metres that the first fix is shown with, across the narrow side of the map; at least four times the
   * accuracy of the fix. Default: four times its accuracy. When a fix three times as accurate comes, the width is set
   * again, until the user or the program chooses a zoom.
   */
  readonly firstWidth?: number | undefined;
  /**
   * Share of the height by which the own place is below the middle while the course is up, to show more ahead: 0…0.4.
   * Default 0.2.
   */
  readonly ahead?: number | undefined;
  /** Seconds after the last touch after which following resumes by itself. Default: never. */
  readonly resumeAfter?: number | undefined;
}

/** A fix that is so many times as accurate as the first sets the zoom again. */
const SHARPER = 3;
/** Maximum zoom for a first fix. */
const CLOSEST_FIRST = 16.5;

/**
 * Computes the camera for each fix, and stops when the user has moved the map. Pure: it takes events and times, and
 * returns a camera.
 */
export class Steering {
  mode: SteeringMode;
  readonly #options: SteeringOptions;
  #suspended = false;
  #touched = 0;
  /** Metres: accuracy of the fix that set the zoom; Infinity before the first, 0 once the zoom was chosen. */
  #placedBy: number;
  #fix: Fix | undefined;

  constructor(mode: SteeringMode, options: SteeringOptions = {}, placed = false) {
    this.mode = mode;
    this.#options = options;
    this.#placedBy = placed ? 0 : Infinity;
  }

  /** Whether the view follows the user now. */
  get active(): boolean {
    return this.mode !== 'free' && !this.#suspended;
  }

  /** Whether the user has moved the view, and following is suspended. */
  get suspended(): boolean {
    return this.#suspended;
  }

  /** The user has moved the view. @param now milliseconds. */
  touch(now: number): void {
    this.#touched = now;
    if (this.mode !== 'free') this.#suspended = true;
  }

  /** Follow again, or stop following. */
  set(mode: SteeringMode): void {
    this.mode = mode;
    this.#suspended = false;
  }

  /** The zoom was chosen, by the user or a stored view: the first fix keeps it. */
  keepZoom(): void {
    this.#placedBy = 0;
  }

  /** The camera after a fix, or after some time; the same one when it stays. */
  steer(camera: Camera, fix: Fix | undefined, now: number): Camera {
    this.#fix = fix;
    const { resumeAfter } = this.#options;
    if (this.#suspended && resumeAfter !== undefined && now - this.#touched >= resumeAfter * 1000)
      this.#suspended = false;
    if (fix === undefined || !this.active) return camera;
    return this.place(camera, fix);
  }

  /** The camera with the own place where it belongs. */
  place(camera: Camera, fix: Fix): Camera {
    const { ahead = 0.2 } = this.#options;
    const sized = this.#sized(camera, fix);
    const turn = this.mode === 'course-up' && fix.course !== undefined ? fix.course : sized.turn;
    const turned = turn === sized.turn ? sized : sized.with({ turn });
    const lift = this.mode === 'course-up' ? ahead : 0;
    return turned.holding(fix, turned.width / 2, turned.height * (0.5 + lift));
  }

  /** The pixel of the own place, around which a followed view is zoomed. */
  anchor(camera: Camera): { x: number; y: number } | undefined {
    return this.active && this.#fix !== undefined ? camera.pixelOf(this.#fix) : undefined;
  }

  /** The camera with the zoom for a first fix, or for one that is far more accurate than the first. */
  #sized(camera: Camera, fix: Fix): Camera {
    const accuracy = Math.max(fix.accuracy ?? 0, 1);
    if (accuracy * SHARPER > this.#placedBy) return camera;
    this.#placedBy = accuracy;
    const { firstWidth } = this.#options;
    const wanted = Math.max(firstWidth ?? 0, accuracy * 4);
    const at = camera.with({ centre: { lat: fix.lat, lon: wrapLongitude(fix.lon) } });
    const metres = at.metresPerPixel * Math.min(camera.width, camera.height);
    const max = firstWidth === undefined ? CLOSEST_FIRST : MAX_ZOOM;
    return at.with({ zoom: Math.max(MIN_ZOOM, Math.min(max, camera.zoom + Math.log2(metres / wanted))) });
  }
}
