import { checkOptions } from '../core/check/options.js';
import type { Fence } from '../core/fence/fence.js';
import { MotionMeter } from '../core/estimate/motion-meter.js';
import type { Fix } from '../core/fix/fix.js';
import { boundsOf, type Bounds } from '../core/geodesy/bounds.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { MIN_ZOOM, MAX_ZOOM, type Pixel } from '../core/scene/camera.js';
import type { Change } from '../core/scene/layer-kind.js';
import type { FencesPaint } from '../core/scene/layers/fences.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { SteeringMode } from '../core/scene/steering.js';
import type { Theme } from '../core/scene/theme.js';
import { map } from '../core/texts/english.js';
import { filled, partOf } from '../core/texts/part.js';
import type { MapTexts, Texts } from '../core/texts/texts.js';
import type { Trail } from '../core/trail/trail.js';
import { DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener, type OnListenerError } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import { describeMap } from './describe.js';
import { LayerStack, type MapLayers } from './layer-stack.js';
import type { MapEvent, MapView } from './map-events.js';
import { LOOK_RULES, PAINT_RULES, checkMapSheet, type MapSheetOptions } from './map-options.js';
import { Notes, type MapNote, type MapNoteKind } from './notes.js';
import { OwnPlace } from './own-place.js';
import { PinBoard, type MapPins } from './pin-board.js';
import { PinKeys } from './pin-keys.js';
import type { RasterWork } from './raster.js';
import { SheetFrame } from './sheet-frame.js';
import { handOn, mayGlide } from './sheet-hand.js';
import { buildStage, isHidden, type SheetStage } from './sheet-stage.js';
import { SheetView, firstCamera } from './sheet-view.js';
import { Strip } from './strip.js';
import { ViewMemory, type KeptView } from './view-memory.js';

/** Milliseconds after which a stretched picture is drawn again, if nothing moves. */
const CALM = 130;

/** The map of a container: a second one replaces the first. */
const HOLDERS = new WeakMap<HTMLElement, MapSheet>();

/**
 * The interactive map. It follows the own place until the user moves it, and then stays until it is asked to follow
 * again.
 */
export class MapSheet {
  /** Pins on the map. */
  readonly pins: MapPins;
  /** Layers below the pins, by their ids. */
  readonly layers: MapLayers;
  readonly #options: MapSheetOptions;
  readonly #page: SheetStage;
  readonly #frame: SheetFrame;
  readonly #strip: Strip;
  readonly #notes: Notes;
  readonly #pinKeys: PinKeys;
  readonly #layers: LayerStack;
  readonly #board: PinBoard;
  readonly #view: SheetView;
  readonly #own: OwnPlace | undefined;
  readonly #hand: { end(): void; halt(): void };
  readonly #following;
  readonly #warn: Warn;
  readonly #events: Emitter<MapEvent>;
  readonly #sizes: ResizeObserver;
  #fix: Fix | undefined;
  /** Derives the course of the kite where the fixes state none. */
  readonly #motion = new MotionMeter();
  #kiteOpen = false;
  /** Nothing is shown before the first fix: an unrelated place would be misleading. */
  #veiled: boolean;
  #theme: Theme;
  #units: UnitSystem;
  #texts: Texts | undefined;
  #scheduled = 0;
  #calm: ReturnType<typeof setTimeout> | undefined;
  #trailIds: readonly string[] = [];
  readonly #lifetime: Lifetime;

  /** @throws {InputError} for a misspelt option, an impossible centre, or a zoom outside 0 to 22. */
  constructor(options: MapSheetOptions) {
    checkMapSheet(options);
    const { container, ground, credit } = options;
    this.#warn = isolatedWarn(options.warn ?? consoleWarn);
    const report: OnListenerError = warnOfListener('a MapSheet', this.#warn);
    this.#notes = new Notes(this.#warn);
    this.#events = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    HOLDERS.get(container)?.close();
    HOLDERS.set(container, this);
    this.#options = options;
    this.#theme = options.theme ?? 'day';
    this.#units = options.units ?? 'metric';
    this.#texts = options.texts;
    const { keepView, storage = localStorageOf() } = options;
    const memory = keepView === undefined ? undefined : new ViewMemory(keepView, storage, this.#warn);
    const kept = memory?.read();
    const view = { ...kept, ...definedOf(options) };
    this.#view = new SheetView({
      mode: kept === undefined ? (options.steering ?? 'centred') : 'free',
      steering: options,
      placed: view.zoom !== undefined,
      first: (blank) => firstCamera(blank, ground?.bounds, view),
      memory,
      onChange: () => this.#schedule(),
      onView: (now) => this.#events.emit({ kind: 'view', ...now }),
      report,
    });
    this.#following = liveValue(this.#view.steering.active, report);
    this.#veiled = options.receiver !== undefined && view.centre === undefined;

    this.pins = this.#board = new PinBoard(
      (change) => this.#change(change),
      () => this.#checkPins(),
    );
    this.layers = this.#layers = new LayerStack(
      (change) => this.#change(change),
      () => this.#checkLayers(),
    );
    this.#frame = new SheetFrame(this.#layers, this.#board);
    this.#pinKeys = new PinKeys(this.#board, {
      chosen: ({ id, lat, lon }) =>
        this.#events.emit({ kind: 'tap', at: { lat, lon }, pin: id, kite: false }),
      dropped: ({ id, lat, lon }) => this.#events.emit({ kind: 'drop', at: { lat, lon }, pin: id }),
    });
    this.#strip = new Strip({
      ownPlace: () => this.toOwnPlace(),
      steer: (on) => this.steer(on ? 'centred' : 'free'),
      courseUp: (on) => this.steer(on ? 'course-up' : 'centred'),
      closer: () => this.#zoomBy(1),
      wider: () => this.#zoomBy(-1),
    });
    this.#strip.label(this.#mapTexts);
    const onStage = [this.#frame.canvas, this.#pinKeys.element, this.#notes.element];
    this.#page = buildStage(container, onStage, options.controls === false ? [] : [this.#strip.element]);
    this.#applyTheme();
    if (ground !== undefined)
      this.layers.put('ground', { kind: 'ground', ground, ...(credit !== undefined && { credit }) });
    this.#hand = this.#listenToHand();
    this.#own = this.#bindReceiver();
    this.#sizes = new ResizeObserver(() => this.#measure());
    this.#sizes.observe(this.#page.stage);
    this.#sizes.observe(container);
    void document.fonts.ready.then(() => this.#change('all'));
    this.#measure();
    this.#checkLayers();
    this.#lifetime.add(() => this.#release());
    this.#lifetime.endWith(options.signal);
  }

  /** Centre, zoom, turn and bounds, live; `undefined` until the map has a size. */
  get $view(): LiveValue<MapView | undefined> {
    return this.#view.$view;
  }

  /** Whether the map follows the own place now, live. */
  get $following(): LiveValue<boolean> {
    return this.#following;
  }

  /** How the map follows, whether or not the user has suspended it. */
  get steering(): SteeringMode {
    return this.#view.steering.mode;
  }

  /** Notes that are shown in the map. */
  get notes(): ReadonlyMap<MapNoteKind, MapNote> {
    return this.#notes.shown;
  }

  /** Shows a note in the map, or removes it with `undefined`: for problems of the app's own content, for example. */
  note(kind: MapNoteKind, note: MapNote | undefined): void {
    this.#notes.set(kind, note);
  }

  /** Number of whole and partial drawings: a growing trail and a moved map draw parts only. */
  get work(): RasterWork {
    return this.#frame.work;
  }

  /** Calls the listener with view, tap, hold and drop. Returns the function that unsubscribes. */
  onEvent(listener: (event: MapEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Pixel of a position, from the top left corner of the map; `undefined` until the map has a size. */
  pixelOf(at: Position): Pixel | undefined {
    return this.#view.camera?.pixelOf(at);
  }

  /** Position at a pixel; `undefined` until the map has a size. */
  positionAt(x: number, y: number): Position | undefined {
    return this.#view.camera?.positionAt(x, y);
  }

  /** Moves the view. @throws {InputError} for an impossible centre or a zoom out of range. */
  look(to: { readonly centre?: Position; readonly zoom?: number; readonly turn?: number }): void {
    checkOptions('look', to, LOOK_RULES);
    if (to.centre !== undefined) positionOf(to.centre);
    if (to.zoom !== undefined) this.#view.steering.keepZoom();
    this.#unveil();
    this.#view.move((camera) => camera.with(to), 'program', true);
  }

  /** Shows the whole of some bounds or positions, with a margin. */
  frame(content: Bounds | Iterable<Position>): void {
    const bounds = isBounds(content) ? content : boundsOf(content);
    if (bounds === undefined) return;
    this.#unveil();
    this.#view.move((camera) => camera.framing(bounds, 60), 'program', true);
  }

  /** Sets the own place: the kite moves there. `undefined` removes the kite; the view stays. */
  showFix(fix: Fix | undefined): void {
    this.#fix = fix && this.#withCourse(fix);
    if (fix === undefined) this.#kiteOpen = false;
    else this.#unveil();
    this.#view.steer(this.#fix);
    this.#schedule();
  }

  /** The fix, with the course that its positions show if it states none. */
  #withCourse(fix: Fix): Fix {
    const course = fix.course ?? this.#motion.take(fix)?.course;
    return course === undefined || course === fix.course ? fix : { ...fix, course };
  }

  /**
   * Shows the own place from the receiver, asking if needed, and centres on it; or hides it and stops the follow of the
   * map.
   */
  setOwnPlace(shown: boolean): void {
    if (!shown) this.#own?.hide();
    else if (this.#own === undefined) this.#options.onOwnPlace?.();
    else this.#own.show();
  }

  /** Shows trails, which may grow: call `redraw` after that. */
  showTrails(trails: readonly Trail[]): void {
    const ids = trails.map((_, i) => `trail-${i + 1}`);
    for (const id of this.#trailIds) if (!ids.includes(id)) this.#layers.remove(id);
    trails.forEach((trail, i) => this.#layers.put(ids[i] ?? '', { kind: 'trail', trail }));
    this.#trailIds = ids;
  }

  /** Shows fences with their state. */
  showFences(fences: readonly Fence[], paint: FencesPaint = {}): void {
    this.#layers.put('fences', { kind: 'fences', fences, paint });
  }

  /** Draws again in the next frame: when a trail has grown, or an age has changed. */
  redraw(): void {
    this.#view.steer(this.#fix);
    this.#schedule();
  }

  get theme(): Theme {
    return this.#theme;
  }
  set theme(theme: Theme) {
    checkOptions('MapSheet', { theme }, PAINT_RULES);
    this.#theme = theme;
    this.#applyTheme();
    this.#change('all');
  }

  /** Units of the scale. */
  get units(): UnitSystem {
    return this.#units;
  }
  set units(units: UnitSystem) {
    checkOptions('MapSheet', { units }, PAINT_RULES);
    this.#units = units;
    this.#schedule();
  }

  /** Texts for the user; `undefined` for English. */
  get texts(): Texts | undefined {
    return this.#texts;
  }
  set texts(texts: Texts | undefined) {
    this.#texts = texts;
    this.#strip.label(this.#mapTexts);
    this.#own?.refresh();
    this.#checkSize();
    this.#checkLayers();
    this.#checkPins();
    this.#schedule();
  }

  get #mapTexts(): MapTexts {
    return partOf(this.#texts, 'map', map);
  }

  /** Centres on the own place and follows it; without a fix, asks for one. */
  toOwnPlace(): void {
    this.steer(this.#view.steering.mode === 'course-up' ? 'course-up' : 'centred');
  }

  /** Sets how the map follows the own place; `free` stops it. Also resumes after the user has suspended it. */
  steer(mode: SteeringMode): void {
    const fix = this.#fix;
    this.#view.steering.set(mode);
    this.#hand.halt();
    if (mode !== 'free') {
      if (fix === undefined) this.setOwnPlace(true);
      else this.#view.place(fix);
    }
    this.#showState();
  }

  /** Description of the visible map in words. */
  describe(): string {
    const { label = this.#mapTexts.label } = this.#options;
    const camera = this.#veiled ? undefined : this.#view.camera;
    return describeMap(label, camera, this.#fix, [...this.#layers.shown, this.#board]);
  }

  /** Removes the map from its container and ends everything that belongs to it. */
  close(): void {
    this.#lifetime.end(undefined);
  }

  #release(): void {
    this.#hand.end();
    this.#sizes.disconnect();
    this.#own?.close();
    this.#layers.close();
    clearTimeout(this.#calm);
    cancelAnimationFrame(this.#scheduled);
    this.#events.clear();
    this.#page.root.replaceChildren();
    const { container } = this.#options;
    if (HOLDERS.get(container) === this) HOLDERS.delete(container);
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  #bindReceiver(): OwnPlace | undefined {
    const { receiver } = this.#options;
    if (receiver === undefined) return undefined;
    return new OwnPlace(receiver, {
      fix: (fix) => this.showFix(fix),
      note: (kind, note) => this.#notes.set(kind, note),
      changed: () => this.#showState(),
      texts: () => ({ map: this.#mapTexts, failures: this.#texts?.failures }),
    });
  }

  #listenToHand(): { end(): void; halt(): void } {
    return handOn(this.#page.stage, this.#board, {
      camera: () => this.#view.camera,
      fix: () => this.#fix,
      hit: (x, y, camera) => this.#layers.hit(x, y, camera),
      touch: (by) => this.#view.stop(by === 'key'),
      move: (change) => {
        this.#view.move(change, 'hand', false);
        this.#showState();
      },
      zoom: (by, x, y, glide) => this.#view.zoom(by, x, y, glide),
      settle: () => this.#view.settle(),
      openKite: () => {
        this.#kiteOpen = !this.#kiteOpen;
        this.#schedule();
      },
      ownPlace: () => this.toOwnPlace(),
      report: (event) => this.#events.emit(event),
    });
  }

  #zoomBy(levels: number): void {
    const camera = this.#view.camera;
    if (camera === undefined) return;
    this.#view.zoom(levels, camera.width / 2, camera.height / 2, mayGlide());
    if (!mayGlide()) this.#view.settle();
  }

  #unveil(): void {
    this.#veiled = false;
  }

  /** Takes over the size of the container; the first time, sets the initial view. */
  #measure(): void {
    this.#checkSize();
    const { clientWidth: width, clientHeight: height } = this.#page.stage;
    const camera = this.#view.camera;
    if (width === 0 || height === 0 || (camera?.width === width && camera.height === height)) return;
    this.#frame.resize(width, height);
    this.#view.resize(width, height, this.#fix);
    this.#drawNow(); // at once: a resized canvas is empty
  }

  #checkSize(): void {
    const { container } = this.#options;
    const { clientWidth: width, clientHeight: height } = container;
    const empty =
      container.isConnected && !isHidden(container) && (width === 0 || this.#page.stage.clientHeight === 0);
    const developer = `the map's container is ${width} by ${height} pixels; give it a height in CSS`;
    this.#notes.set('no-size', empty ? { text: this.#mapTexts.noSize, developer } : undefined);
  }

  #checkLayers(): void {
    const { noBackground: text, tiles } = this.#mapTexts;
    const developer = 'the map has no ground, tiles or grid layer';
    this.#notes.set('no-background', this.#layers.hasBackground ? undefined : { text, developer });
    const [error] = this.#layers.errors;
    this.#notes.set(
      'tiles',
      error === undefined ? undefined : { text: tiles.happened, help: tiles.help, developer: error },
    );
  }

  #checkPins(): void {
    const count = this.#board.crowd;
    const text = filled(this.#mapTexts.crowdedPins, { count: count ?? 0 });
    const developer = `${count} pins have the same position`;
    this.#notes.set('pins', count === undefined ? undefined : { text, developer });
  }

  #change(change: Change): void {
    this.#frame.change(change);
    this.#schedule();
  }

  #schedule(): void {
    if (this.#scheduled !== 0 || this.#lifetime.aborted) return;
    this.#scheduled = requestAnimationFrame((now) => {
      this.#scheduled = 0;
      this.#view.advance(now);
      this.#drawNow();
    });
  }

  #drawNow(): void {
    const camera = this.#view.camera;
    if (camera === undefined) return;
    const { now = Date.now, staleAfter } = this.#options;
    const content = {
      fix: this.#fix,
      kiteOpen: this.#kiteOpen,
      veiled: this.#veiled,
      units: this.#units,
      now: now(),
      staleAfter,
    };
    if (this.#frame.draw(camera, content, this.#view.moving)) {
      clearTimeout(this.#calm);
      this.#calm = setTimeout(() => this.#schedule(), CALM);
    }
    this.#pinKeys.show(camera);
    this.#showState();
    this.#page.describe(this.describe());
  }

  #showState(): void {
    const following = this.#view.steering.active;
    if (this.#following.get() !== following) this.#following.set(following);
    const zoom = this.#view.camera?.zoom;
    this.#strip.show({
      mode: this.#view.steering.mode,
      following,
      ownPlace: this.#own === undefined ? this.#fix !== undefined : this.#own.shown,
      closerAllowed: zoom !== undefined && zoom < MAX_ZOOM,
      widerAllowed: zoom !== undefined && zoom > MIN_ZOOM,
    });
  }

  #applyTheme(): void {
    this.#frame.theme = this.#theme;
    this.#page.theme(this.#theme);
  }
}

function isBounds(content: Bounds | Iterable<Position>): content is Bounds {
  return Array.isArray(content) && content.length === 4 && content.every((part) => typeof part === 'number');
}

/** The parts of a view in the options. */
function definedOf({ centre, zoom, turn }: MapSheetOptions): Partial<KeptView> {
  return {
    ...(centre !== undefined && { centre }),
    ...(zoom !== undefined && { zoom }),
    ...(turn !== undefined && { turn }),
  };
}

/** The local storage of the page; `undefined` where it is blocked. */
function localStorageOf(): Storage | undefined {
  try {
    return localStorage;
  } catch {
    return undefined;
  }
}
