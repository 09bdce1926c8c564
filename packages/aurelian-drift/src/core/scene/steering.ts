import type { Fix } from '../fix/fix.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import { MIN_ZOOM, MAX_ZOOM, type Camera } from './camera.js';

/** How the view follows the user: not at all, with the own place held, or also turned so that the course points up. */
export const STEERINGS = ['free', 'centred', 'course-up'] as const;
/** How the view follows the own place: not at all, keeping it in the middle, or with the course up. */
export type SteeringMode = (typeof STEERINGS)[number];

/** Options of `Steering`. */
export interface SteeringOptions {
  /**
   * Metres that the first fix is shown with across the narrow side of the map; by default its ring fits, four times
   * over.
   */
  readonly firstWidth?: number | undefined;
  /**
   * Share of the height by which the own place is held below the middle, while the course is up, to see ahead: 0…0.4.
   * Default 0.2.
   */
  readonly ahead?: number | undefined;
  /** Seconds after the hand's last touch at which following takes up again by itself. Default never. */
  readonly resumeAfter?: number | undefined;
}

/** The zoom a first fix is shown at, at the most. */
const CLOSEST_FIRST = 16.5;

/**
 * Decides where the camera goes when a fix comes, and leaves it to the hand once a hand has touched it. Pure: it is
 * told what happens and when, and gives back a camera.
 */
export class Steering {
  mode: SteeringMode;
  readonly #options: SteeringOptions;
  #suspended = false;
  #touched = 0;
  #placed = false;
  #fix: Fix | undefined;

  constructor(mode: SteeringMode, options: SteeringOptions = {}, placed = false) {
    this.mode = mode;
    this.#options = options;
    this.#placed = placed;
  }

  /** Whether the view goes with the user now. */
  get active(): boolean {
    return this.mode !== 'free' && !this.#suspended;
  }

  /** Whether a hand has taken the view, and it goes on being followed once asked again. */
  get suspended(): boolean {
    return this.#suspended;
  }

  /** The hand has moved the view away. @param now milliseconds. */
  touch(now: number): void {
    this.#touched = now;
    if (this.mode !== 'free') this.#suspended = true;
  }

  /** Follow again, or stop following. */
  set(mode: SteeringMode): void {
    this.mode = mode;
    this.#suspended = false;
  }

  /** The zoom was chosen, by the user or a kept view: the first fix leaves it. */
  keepZoom(): void {
    this.#placed = true;
  }

  /** A fix has come, or time has passed: the camera that goes with it; the same one when it stays. */
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
    const sized = this.#placed ? camera : this.#first(camera, fix);
    this.#placed = true;
    const turn = this.mode === 'course-up' && fix.course !== undefined ? fix.course : sized.turn;
    const turned = turn === sized.turn ? sized : sized.with({ turn });
    const lift = this.mode === 'course-up' ? ahead : 0;
    return turned.holding(fix, turned.width / 2, turned.height * (0.5 + lift));
  }

  /** The own place on the screen, where a zoom of a followed view is held. */
  anchor(camera: Camera): { x: number; y: number } | undefined {
    return this.active && this.#fix !== undefined ? camera.pixelOf(this.#fix) : undefined;
  }

  #first(camera: Camera, fix: Fix): Camera {
    const { firstWidth } = this.#options;
    const wanted = firstWidth ?? Math.max(fix.accuracy ?? 0, 1) * 4;
    const at = camera.with({ centre: { lat: fix.lat, lon: wrapLongitude(fix.lon) } });
    const metres = at.metresPerPixel * Math.min(camera.width, camera.height);
    const max = firstWidth === undefined ? CLOSEST_FIRST : MAX_ZOOM;
    return at.with({ zoom: Math.max(MIN_ZOOM, Math.min(max, camera.zoom + Math.log2(metres / wanted))) });
  }
}
