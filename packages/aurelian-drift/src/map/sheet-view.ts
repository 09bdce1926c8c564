import type { OnListenerError } from '../live/listener.js';
import { liveValue } from '../live/live-value.js';
import type { Fix } from '../core/fix/fix.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import { Camera } from '../core/scene/camera.js';
import { between } from '../core/scene/flight.js';
import { Steering, type SteeringMode, type SteeringOptions } from '../core/scene/steering.js';
import type { MapView } from './map-events.js';
import type { KeptView, ViewMemory } from './view-memory.js';

/** Seconds of a zoom by a button or a key. */
const FLIGHT = 0.22;
/** Milliseconds after a move in which the view counts as moving. */
const CALM = 120;
/** Zoom of content without an extent, such as one pin; and pixels around content. */
const NEAR = 15;
const FRAME = 30;

/** Start of a view. */
export interface ViewStart {
  readonly mode: SteeringMode;
  readonly steering: SteeringOptions;
  /** Parts of the first view that the app chose, or that were stored. */
  readonly chosen: Partial<KeptView> & { readonly bounds?: Bounds | undefined };
  /** The box around the content of the map, which is shown until the view is chosen; `undefined` for none. */
  readonly content: () => Bounds | undefined;
  readonly memory: ViewMemory | undefined;
  /** The view has changed, or is moving: draw. */
  readonly onChange: () => void;
  /** Reported to the app too. */
  readonly onView: (view: MapView) => void;
  /** Takes errors of listeners. */
  readonly report: OnListenerError;
}

/** The view over time: moved by the user and the program, steered by the own place, stored between visits. */
export class SheetView {
  readonly $view;
  readonly steering: Steering;
  readonly #start: ViewStart;
  /** Stores the view of the user between visits. */
  memory: ViewMemory | undefined;
  #camera: Camera | undefined;
  /** Requests from before there was a size. */
  #wanted: (camera: Camera) => Camera = (camera) => camera;
  /** Whether the view is somebody's choice: of the app, of the user, or by the own place. */
  #chosen: boolean;
  #empty = false;
  #flight: { from: Camera; to: Camera; start: number } | undefined;
  #moved = -Infinity;

  constructor(start: ViewStart) {
    this.#start = start;
    this.memory = start.memory;
    this.$view = liveValue<MapView | undefined>(undefined, start.report);
    const { centre, bounds, zoom } = start.chosen;
    this.#chosen = centre !== undefined || bounds !== undefined;
    this.steering = new Steering(start.mode, start.steering, zoom !== undefined || bounds !== undefined);
  }

  /** Whether it is unknown what to show: nobody chose a view, and there is no content. */
  get lost(): boolean {
    return !this.#chosen && this.#empty;
  }

  get camera(): Camera | undefined {
    return this.#camera;
  }

  /** Whether it is moving, so that expensive work can wait. */
  get moving(): boolean {
    return this.#flight !== undefined || performance.now() - this.#moved < CALM;
  }

  /** Sets the size; the first one sets the initial view. */
  resize(width: number, height: number, fix: Fix | undefined): void {
    if (this.#camera === undefined) {
      this.#camera = this.#wanted(this.#first(width, height));
    } else {
      this.#camera = this.#chosen ? this.#camera.with({ width, height }) : this.#first(width, height);
      this.steer(fix);
    }
    this.#report('program', true);
  }

  /** The content of the map has changed: a view that nobody chose shows the whole of it. */
  fit(): void {
    const camera = this.#camera;
    if (this.#chosen) return;
    if (camera === undefined) {
      this.#empty = this.#start.content() === undefined;
      return;
    }
    this.#camera = this.#first(camera.width, camera.height);
    this.#report('program', true);
    this.#start.onChange();
  }

  /** The first camera: the view that was given or stored, else the content. */
  #first(width: number, height: number): Camera {
    const { chosen, content } = this.#start;
    const { centre, zoom, turn = 0 } = chosen;
    const bounds = chosen.bounds ?? content();
    this.#empty = bounds === undefined;
    const blank = new Camera({
      centre: { lat: 0, lon: 0 },
      zoom: bounds === undefined ? 1 : NEAR,
      width,
      height,
    });
    const turned = blank.with({ turn });
    const framed = bounds === undefined ? turned : turned.framing(bounds, FRAME);
    return framed.with({ ...(centre !== undefined && { centre }), ...(zoom !== undefined && { zoom }) });
  }

  move(change: (camera: Camera) => Camera, by: 'hand' | 'program', settled: boolean): void {
    this.#flight = undefined;
    this.#chosen = true;
    if (by === 'hand') this.steering.touch(performance.now());
    if (this.#camera === undefined) {
      const before = this.#wanted;
      this.#wanted = (camera) => change(before(camera));
      return;
    }
    this.#camera = change(this.#camera);
    this.#moved = performance.now();
    this.#report(by, settled);
    this.#start.onChange();
  }

  /**
   * Zooms by a number of levels about a pixel, or about the own place while it is followed; at once, or in a short
   * flight.
   */
  zoom(levels: number, x: number, y: number, glide: boolean): void {
    this.steering.keepZoom();
    const from = this.#camera;
    const target = this.#flight?.to ?? from;
    if (from === undefined || target === undefined) return;
    this.#chosen = true;
    const anchor = this.steering.anchor(target) ?? { x, y };
    const to = target.zoomedAround(target.zoom + levels, anchor.x, anchor.y);
    this.#moved = performance.now();
    if (glide) {
      this.#flight = { from, to, start: performance.now() };
    } else {
      this.#camera = to;
      this.#flight = undefined;
      this.#report('hand', false);
    }
    this.#start.onChange();
  }

  /** The gesture has ended. */
  settle(): void {
    if (this.#flight === undefined) this.#report('hand', true); // otherwise reported at the end of the flight
  }

  /** Stops animations where they are, or at their end. */
  stop(landed: boolean): void {
    const flight = this.#flight;
    this.#flight = undefined;
    if (flight !== undefined && landed) this.#camera = flight.to;
  }

  /** Moves with the own place, if it is followed. */
  steer(fix: Fix | undefined): void {
    const camera = this.#camera;
    if (camera === undefined) {
      if (fix !== undefined && this.steering.active) this.place(fix);
      return;
    }
    if (this.#flight !== undefined) return; // it lands first
    const steered = this.steering.steer(camera, fix, performance.now());
    if (steered !== camera) this.move(() => steered, 'program', true);
  }

  /** To the own place, with north up unless the course is to be up. */
  place(fix: Fix): void {
    const north = this.steering.mode === 'centred' ? { turn: 0 } : {};
    this.move((camera) => this.steering.place(camera.with(north), fix), 'program', true);
  }

  /** A frame of a flight. @param now time of the animation frame, milliseconds. */
  advance(now: number): void {
    const flight = this.#flight;
    if (flight === undefined) return;
    const share = Math.max(0, now - flight.start) / (FLIGHT * 1000);
    this.#camera = between(flight.from, flight.to, share);
    this.#moved = performance.now();
    if (share >= 1) this.#flight = undefined;
    this.#report('hand', share >= 1);
    if (share < 1) this.#start.onChange();
  }

  #report(by: 'hand' | 'program', settled: boolean): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    const { centre, zoom, turn, bounds } = camera;
    const view: MapView = { centre, zoom, turn, bounds, by, settled };
    this.$view.set(view);
    if (by === 'hand' && settled) {
      this.steering.keepZoom();
      this.memory?.keep(view);
    }
    this.#start.onView(view);
  }
}
