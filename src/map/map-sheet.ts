import { atom, type ReadableAtom } from 'nanostores';
import { anything, checkOptions, numberFrom, someText } from '../core/check/options.js';
import type { Fence } from '../core/fence/fence.js';
import type { Fix } from '../core/fix/fix.js';
import { accuracyText, positionText } from '../core/fix/words.js';
import type { Bounds } from '../core/geodesy/bounds.js';
import { position, type Position } from '../core/geodesy/position.js';
import { Camera, LEAST_ZOOM, MOST_ZOOM, type Pixel } from '../core/scene/camera.js';
import type { FencesPaint } from '../core/scene/layers/fences.js';
import type { Ground } from '../core/scene/layers/ground.js';
import { marginLayer } from '../core/scene/layers/margin.js';
import { backgroundLayers, contentLayers, type SheetContent } from '../core/scene/sheet.js';
import type { Trail } from '../core/trail/trail.js';
import { consoleWarn } from '../receiver/warn.js';
import { CanvasPainter } from './canvas-painter.js';
import { listenToGestures } from './gestures.js';
import { STRIP_STYLE, Strip } from './strip.js';

export interface MapSheetOptions {
  /** The element that holds the map; its size is the map's. */
  readonly container: HTMLElement;
  /** Default: the ground's bounds, else the whole world. */
  readonly centre?: Position;
  /** 0 to 22. */
  readonly zoom?: number;
  readonly ground?: Ground;
  /** Whom the map data is by; always shown. */
  readonly credit?: string;
  /** What the map is of, for those who do not see it. Default `Map`. */
  readonly label?: string;
  /** Called when the own place is wanted and there is no fix: the moment to ask for one. */
  readonly onOwnPlace?: () => void;
  /** Milliseconds since 1970 UTC, for ages. Default the platform's time. */
  readonly now?: () => number;
  /** Seconds after which the kite fades and tells its age. Default 15. */
  readonly staleAfter?: number;
  /** Gets what a developer should know; by default the console does. */
  readonly warn?: (text: string) => void;
}

/** What is seen, who moved it last, and whether the move is over. */
export interface MapView {
  readonly centre: Position;
  readonly zoom: number;
  readonly turn: number;
  readonly bounds: Bounds;
  readonly by: 'hand' | 'program';
  readonly settled: boolean;
}

/** The zoom a first fix is shown at, at the most; its ring fits with room around. */
const FIRST_ZOOM = 16.5;

/**
 * The interactive map. Follows its user's own place until a hand moves it, and then leaves it to the hand until it is
 * asked again.
 */
export class MapSheet {
  readonly #options: MapSheetOptions;
  readonly #root: ShadowRoot;
  readonly #stage: HTMLElement;
  readonly #strip: Strip;
  readonly #ground: CanvasPainter;
  readonly #content: CanvasPainter;
  readonly #view = atom<MapView | undefined>(undefined);
  readonly #following = atom(true);
  readonly #ends: (() => void)[] = [];
  #camera: Camera | undefined;
  /** What `centre`, `zoom` or `frame` asked for before there was a size. */
  #wanted: ((camera: Camera) => Camera) | undefined;
  #sheet: SheetContent = {};
  #placed = false;
  #groundDirty = true;
  #scheduled = 0;

  /** @throws {InputError} for a misspelt option, an impossible centre, or a zoom outside 0 to 22. */
  constructor(options: MapSheetOptions) {
    checkOptions('MapSheet', options, {
      container: anything,
      centre: anything,
      zoom: numberFrom(LEAST_ZOOM, MOST_ZOOM, ''),
      ground: anything,
      credit: someText,
      label: someText,
      onOwnPlace: anything,
      now: anything,
      staleAfter: numberFrom(0, 86_400, 'seconds'),
      warn: anything,
    });
    const { container, centre, zoom, ground, label = 'Map' } = options;
    if (centre !== undefined) position(centre.lat, centre.lon);
    this.#options = options;
    this.#sheet = ground === undefined ? {} : { ground };
    this.#wanted = (camera) => {
      const start = ground?.bounds === undefined ? camera : camera.framing(ground.bounds, 30);
      return start.with({ ...(centre !== undefined && { centre }), ...(zoom !== undefined && { zoom }) });
    };
    this.#root = container.shadowRoot ?? container.attachShadow({ mode: 'open' });
    const style = document.createElement('style');
    style.textContent = STYLE + STRIP_STYLE;
    this.#stage = document.createElement('div');
    this.#stage.className = 'stage';
    this.#stage.tabIndex = 0;
    this.#stage.setAttribute('role', 'group');
    this.#stage.setAttribute('aria-roledescription', 'map');
    this.#stage.setAttribute('aria-label', label);
    const canvases = [document.createElement('canvas'), document.createElement('canvas')] as const;
    this.#stage.append(...canvases);
    this.#ground = new CanvasPainter(canvases[0]);
    this.#content = new CanvasPainter(canvases[1]);
    this.#strip = new Strip({
      ownPlace: () => this.toOwnPlace(),
      follow: (on) => (on ? this.toOwnPlace() : this.#following.set(false)),
      closer: () => this.#zoomBy(1, 'hand'),
      wider: () => this.#zoomBy(-1, 'hand'),
    });
    this.#root.replaceChildren(style, this.#stage, this.#strip.element);
    this.#ends.push(
      listenToGestures(this.#stage, {
        pan: (dx, dy) => {
          this.#following.set(false);
          this.#move((camera) => camera.panned(dx, dy), 'hand', false);
        },
        zoom: (by, x, y) => {
          // Zooming keeps the own place where it is while it is followed.
          const anchor = this.#following.get() ? this.#middle() : { x, y };
          this.#move((camera) => camera.zoomedAround(camera.zoom + by, anchor.x, anchor.y), 'hand', false);
        },
        settle: () => this.#move((camera) => camera, 'hand', true),
      }),
      this.#following.subscribe(() => this.#showStrip()),
    );
    const observer = new ResizeObserver(() => this.#measure());
    observer.observe(this.#stage);
    this.#ends.push(() => observer.disconnect());
    void document.fonts.ready.then(() => this.#redrawAll());
    this.#measure();
    this.#warnIfEmpty();
  }

  /** Centre, zoom, turn and bounds, live; `undefined` until the map has a size. */
  get $view(): ReadableAtom<MapView | undefined> {
    return this.#view;
  }

  /** Whether the map keeps the own place in the middle, live. */
  get $following(): ReadableAtom<boolean> {
    return this.#following;
  }

  /** Where a position is on the map, in pixels from its top left corner; `undefined` until the map has a size. */
  pixelOf(at: Position): Pixel | undefined {
    return this.#camera?.pixelOf(at);
  }

  /** The position under a pixel. */
  positionAt(x: number, y: number): Position | undefined {
    return this.#camera?.positionAt(x, y);
  }

  /** Moves the view. @throws {InputError} for an impossible centre or a zoom out of range. */
  look(to: { readonly centre?: Position; readonly zoom?: number }): void {
    checkOptions('look', to, { centre: anything, zoom: numberFrom(LEAST_ZOOM, MOST_ZOOM, '') });
    if (to.centre !== undefined) position(to.centre.lat, to.centre.lon);
    this.#move((camera) => camera.with(to), 'program', true);
  }

  /** Shows a whole box, with a margin. */
  frame(bounds: Bounds): void {
    this.#move((camera) => camera.framing(bounds, 60), 'program', true);
  }

  /** The user's own place: the one kite moves there. `undefined` takes it away. */
  showFix(fix: Fix | undefined): void {
    this.#sheet = { ...this.#sheet, fix };
    if (fix !== undefined && this.#following.get()) {
      const first = !this.#placed;
      this.#placed = true;
      this.#move(
        (camera) => (first ? firstView(camera, fix) : camera.with({ centre: fix })),
        'program',
        true,
      );
    }
    this.#schedule();
  }

  /** Trails, drawn as they are now; call again, or `redraw`, when one has grown. */
  showTrails(trails: readonly Trail[]): void {
    this.#sheet = { ...this.#sheet, trails };
    this.#schedule();
  }

  /** Fences and how they stand. */
  showFences(fences: readonly Fence[], fencesPaint: FencesPaint = {}): void {
    this.#sheet = { ...this.#sheet, fences, fencesPaint };
    this.#schedule();
  }

  /** Draws again at the next frame: when a trail has grown, or an age has to be told. */
  redraw(): void {
    this.#schedule();
  }

  /** Centres on the own place and follows it; without a fix, asks for one through `onOwnPlace`. */
  toOwnPlace(): void {
    this.#following.set(true);
    const { fix } = this.#sheet;
    if (fix === undefined) this.#options.onOwnPlace?.();
    else this.#move((camera) => camera.with({ centre: fix }), 'program', true);
  }

  /** Takes the map out of its container and stops listening. */
  close(): void {
    for (const end of this.#ends.splice(0)) end();
    cancelAnimationFrame(this.#scheduled);
    this.#root.replaceChildren();
  }

  #middle(): Pixel {
    return { x: (this.#camera?.width ?? 0) / 2, y: (this.#camera?.height ?? 0) / 2 };
  }

  #zoomBy(levels: number, by: 'hand' | 'program'): void {
    const { x, y } = this.#middle();
    this.#move((camera) => camera.zoomedAround(camera.zoom + levels, x, y), by, true);
  }

  #move(change: (camera: Camera) => Camera, by: 'hand' | 'program', settled: boolean): void {
    if (this.#camera === undefined) {
      const before = this.#wanted;
      this.#wanted = (camera) => change(before?.(camera) ?? camera);
      return;
    }
    this.#camera = change(this.#camera);
    this.#groundDirty = true;
    this.#tellView(by, settled);
    this.#schedule();
  }

  #tellView(by: 'hand' | 'program', settled: boolean): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    const { centre, zoom, turn, bounds } = camera;
    this.#view.set({ centre, zoom, turn, bounds, by, settled });
  }

  /** Takes the container's size over; the first time, sets the view that was asked for. */
  #measure(): void {
    const { clientWidth: width, clientHeight: height } = this.#stage;
    if (width === 0 || height === 0) return;
    const ratio = Math.min(3, window.devicePixelRatio || 1);
    this.#ground.resize(width, height, ratio);
    this.#content.resize(width, height, ratio);
    if (this.#camera === undefined) {
      const blank = new Camera({ centre: { lat: 0, lon: 0 }, zoom: 1, width, height });
      this.#camera = this.#wanted?.(blank) ?? blank;
      this.#wanted = undefined;
    } else {
      this.#camera = this.#camera.with({ width, height });
    }
    this.#tellView('program', true);
    this.#redrawAll();
    this.#drawNow(); // not a frame later: a resized canvas is empty
  }

  #warnIfEmpty(): void {
    const { container, warn = consoleWarn } = this.#options;
    const hidden = container.offsetParent === null && getComputedStyle(container).position !== 'fixed';
    if (!hidden && container.isConnected && (container.clientHeight === 0 || container.clientWidth === 0)) {
      warn(
        `the map's container is ${container.clientWidth} by ${container.clientHeight} pixels; give it a height in CSS`,
      );
    }
  }

  #redrawAll(): void {
    this.#groundDirty = true;
    this.#schedule();
  }

  #schedule(): void {
    if (this.#scheduled !== 0) return;
    this.#scheduled = requestAnimationFrame(() => {
      this.#scheduled = 0;
      this.#drawNow();
    });
  }

  #drawNow(): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    if (this.#groundDirty) this.#ground.paint(backgroundLayers(camera, this.#sheet.ground));
    this.#groundDirty = false;
    const now = this.#options.now?.() ?? Date.now();
    const { staleAfter, credit } = this.#options;
    const roomy = camera.width >= 640 && camera.height >= 400;
    const margin = { width: roomy ? 26 : 6, foot: roomy ? 32 : 24, ...(credit !== undefined && { credit }) };
    const kitePaint = { now, ...(staleAfter !== undefined && { staleAfter }) };
    const layers = contentLayers(camera, { ...this.#sheet, kitePaint, margin });
    this.#content.paint([...layers, marginLayer(camera, margin)]);
    this.#showStrip();
    this.#tellScreenReaders();
  }

  #showStrip(): void {
    const zoom = this.#camera?.zoom;
    this.#strip.show({
      following: this.#following.get(),
      closerAllowed: zoom !== undefined && zoom < MOST_ZOOM,
      widerAllowed: zoom !== undefined && zoom > LEAST_ZOOM,
    });
  }

  /** The map in words; not announced each second, but there for whoever moves to it. */
  #tellScreenReaders(): void {
    const { fix, fencesPaint, fences = [] } = this.#sheet;
    const inside = fences
      .filter((fence) => fencesPaint?.inside?.has(fence.id) === true)
      .map((fence) => fence.name);
    const label = [
      this.#options.label ?? 'Map',
      fix === undefined
        ? 'own place not known yet'
        : `own place ${positionText(fix)} ${accuracyText(fix.accuracy)}`.trim(),
      ...(inside.length > 0 ? [`inside ${inside.join(', ')}`] : []),
    ].join('; ');
    if (this.#stage.getAttribute('aria-label') !== label) this.#stage.setAttribute('aria-label', label);
  }
}

/** The first look at the own place: its ring fits with as much room around, but no closer than a street. */
function firstView(camera: Camera, fix: Fix): Camera {
  const wanted = Math.max(fix.accuracy ?? 0, 1) * 4;
  const at = camera.with({ centre: fix });
  const metres = at.metresPerPixel * Math.min(camera.width, camera.height);
  const zoom = Math.max(LEAST_ZOOM, Math.min(FIRST_ZOOM, camera.zoom + Math.log2(metres / wanted)));
  return at.with({ zoom });
}

const STYLE = `
  :host { display: flex; flex-direction: column; background: #f5e8d2; }
  :host([hidden]) { display: none; }
  .stage { position: relative; flex: 1; min-height: 0; overflow: hidden; touch-action: none; cursor: grab; user-select: none; }
  .stage:active { cursor: grabbing; }
  .stage:focus-visible { outline: 3px solid #5b4a8a; outline-offset: -3px; }
  canvas { position: absolute; inset: 0; }
`;
