import { atom, type ReadableAtom } from 'nanostores';
import { checkOptions } from '../core/check/options.js';
import type { Fence } from '../core/fence/fence.js';
import type { Fix } from '../core/fix/fix.js';
import { boundsOf, type Bounds } from '../core/geodesy/bounds.js';
import { position, type Position } from '../core/geodesy/position.js';
import { Camera, LEAST_ZOOM, MOST_ZOOM, type Pixel } from '../core/scene/camera.js';
import { between } from '../core/scene/flight.js';
import type { FencesPaint } from '../core/scene/layers/fences.js';
import type { LengthUnits } from '../core/scene/layers/margin.js';
import { Steering, type SteeringMode } from '../core/scene/steering.js';
import type { Theme } from '../core/scene/theme.js';
import type { Trail } from '../core/trail/trail.js';
import { consoleWarn } from '../receiver/warn.js';
import { describeMap } from './describe.js';
import { LayerStack, type Change, type MapLayer } from './layer-stack.js';
import type { MapEvent, MapView } from './map-events.js';
import { LOOK_RULES, PAINT_RULES, checkMapSheet, type MapSheetOptions } from './map-options.js';
import { Notes, type MapNote, type MapNoteKind } from './notes.js';
import { OwnPlace } from './own-place.js';
import { PinBoard } from './pin-board.js';
import { PinKeys } from './pin-keys.js';
import type { RasterWork } from './raster.js';
import { SheetFrame } from './sheet-frame.js';
import { handOn, mayGlide } from './sheet-hand.js';
import { buildStage, isHidden, type SheetStage } from './sheet-stage.js';
import { Strip } from './strip.js';
import { ViewMemory } from './view-memory.js';

/** Seconds that a zoom by a button or a key takes. */
const FLIGHT = 0.22;
/** Milliseconds without a move after which a stretched picture is drawn anew. */
const CALM = 120;

/** The map that a container holds: a second one takes the place of the first. */
const HOLDERS = new WeakMap<HTMLElement, MapSheet>();

/**
 * The interactive map. Follows its user's own place until a hand moves it, and then leaves it to the hand until it is
 * asked again.
 */
export class MapSheet {
  /** The pins on it. */
  readonly pins: PinBoard;
  readonly #options: MapSheetOptions;
  readonly #page: SheetStage;
  readonly #frame: SheetFrame;
  readonly #strip: Strip;
  readonly #notes = new Notes();
  readonly #pinKeys: PinKeys;
  readonly #layers: LayerStack;
  readonly #steering: Steering;
  readonly #memory: ViewMemory | undefined;
  readonly #own: OwnPlace | undefined;
  readonly #hand: { end(): void; halt(): void };
  readonly #view = atom<MapView | undefined>(undefined);
  readonly #following;
  readonly #listeners = new Set<(event: MapEvent) => void>();
  readonly #sizes: ResizeObserver;
  #camera: Camera | undefined;
  /** What was asked for before there was a size. */
  #wanted: ((camera: Camera) => Camera) | undefined;
  #fix: Fix | undefined;
  #kiteOpen = false;
  /** Nothing is shown until there is a fix: anything else would be of no concern. */
  #veiled: boolean;
  #theme: Theme;
  #units: LengthUnits;
  #flight: { from: Camera; to: Camera; start: number } | undefined;
  #moved = 0;
  #scheduled = 0;
  #calm: ReturnType<typeof setTimeout> | undefined;
  #trailIds: readonly string[] = [];
  #closed = false;

  /** @throws {InputError} for a misspelt option, an impossible centre, or a zoom outside 0 to 22. */
  constructor(options: MapSheetOptions) {
    checkMapSheet(options);
    const { container, ground, credit, warn = consoleWarn } = options;
    HOLDERS.get(container)?.close();
    HOLDERS.set(container, this);
    this.#options = options;
    this.#theme = options.theme ?? 'day';
    this.#units = options.units ?? 'metric';
    const { keepView, storage = localStorageOf() } = options;
    this.#memory = keepView === undefined ? undefined : new ViewMemory(keepView, storage, warn);
    const kept = this.#memory?.read();
    const { centre = kept?.centre, zoom = kept?.zoom, turn = kept?.turn ?? 0 } = options;
    this.#steering = new Steering(
      kept === undefined ? (options.steering ?? 'centred') : 'free',
      options,
      zoom !== undefined,
    );
    this.#following = atom(this.#steering.active);
    this.#veiled = options.receiver !== undefined && centre === undefined;
    this.#wanted = (camera) => {
      const start = ground?.bounds === undefined ? camera : camera.framing(ground.bounds, 30);
      return start.with({
        turn,
        ...(centre !== undefined && { centre }),
        ...(zoom !== undefined && { zoom }),
      });
    };

    this.pins = new PinBoard((change) => this.#change(change));
    this.#layers = new LayerStack(
      (change) => this.#change(change),
      () => this.#tellTiles(),
    );
    this.#frame = new SheetFrame(this.#layers, this.pins);
    this.#pinKeys = new PinKeys(this.pins, {
      chosen: ({ id, lat, lon }) => this.#tell({ kind: 'tap', at: { lat, lon }, pin: id, kite: false }),
      dropped: ({ id, lat, lon }) => this.#tell({ kind: 'drop', at: { lat, lon }, pin: id }),
    });
    this.#strip = new Strip({
      ownPlace: () => this.toOwnPlace(),
      follow: (on) => this.follow(on ? 'centred' : 'free'),
      courseUp: (on) => this.follow(on ? 'course-up' : 'centred'),
      closer: () => this.#zoomBy(1),
      wider: () => this.#zoomBy(-1),
    });
    const onStage = [this.#frame.canvas, this.#pinKeys.element, this.#notes.element];
    this.#page = buildStage(container, onStage, options.controls === false ? [] : [this.#strip.element]);
    this.#applyTheme();
    if (ground !== undefined)
      this.putLayer('ground', { kind: 'ground', ground, ...(credit !== undefined && { credit }) });
    this.#hand = this.#listenToHand();
    this.#own = this.#bindReceiver();
    this.#sizes = new ResizeObserver(() => this.#measure());
    this.#sizes.observe(this.#page.stage);
    this.#sizes.observe(container);
    void document.fonts.ready.then(() => this.#change('all'));
    this.#measure();
    this.#checkBackground();
  }

  /** Centre, zoom, turn and bounds, live; `undefined` until the map has a size. */
  get $view(): ReadableAtom<MapView | undefined> {
    return this.#view;
  }

  /** Whether the map goes with the own place now, live. */
  get $following(): ReadableAtom<boolean> {
    return this.#following;
  }

  /** How the view follows, whether or not a hand has suspended it. */
  get steering(): SteeringMode {
    return this.#steering.mode;
  }

  /** What is wrong, as it is said within the map. */
  get notes(): ReadonlyMap<MapNoteKind, MapNote> {
    return this.#notes.shown;
  }

  /** How often it was drawn, whole and in part: a growing trail and a moved map draw parts only. */
  get work(): RasterWork {
    return this.#frame.work;
  }

  /** Calls back with view, tap, hold and drop: one object with a kind. */
  onEvent(listener: (event: MapEvent) => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
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
  look(to: { readonly centre?: Position; readonly zoom?: number; readonly turn?: number }): void {
    checkOptions('look', to, LOOK_RULES);
    if (to.centre !== undefined) position(to.centre.lat, to.centre.lon);
    if (to.zoom !== undefined) this.#steering.keepZoom();
    this.#unveil();
    this.#move((camera) => camera.with(to), 'program', true);
  }

  /** Shows a whole box, or all of some positions, with a margin. */
  frame(content: Bounds | Iterable<Position>): void {
    const bounds = isBounds(content) ? content : boundsOf(content);
    if (bounds === undefined) return;
    this.#unveil();
    this.#move((camera) => camera.framing(bounds, 60), 'program', true);
  }

  /** The user's own place: the one kite moves there. `undefined` takes it away; the view stays. */
  showFix(fix: Fix | undefined): void {
    this.#fix = fix;
    if (fix === undefined) this.#kiteOpen = false;
    else this.#unveil();
    this.#steer();
    this.#schedule();
  }

  /** Shows the own place from the receiver, asking if needed, and centres on it; or hides it and lets the receiver go. */
  setOwnPlace(shown: boolean): void {
    if (!shown) this.#own?.hide();
    else if (this.#own === undefined) this.#options.onOwnPlace?.();
    else this.#own.show();
  }

  /** Adds a layer, or puts it in the place of the one of that id. @throws {InputError} for a kind that is none. */
  putLayer(id: string, layer: MapLayer): void {
    this.#layers.put(id, layer);
    this.#checkBackground();
    this.#tellTiles();
  }

  removeLayer(id: string): void {
    this.#layers.remove(id);
    this.#checkBackground();
    this.#tellTiles();
  }

  /** Shows or hides a layer that stays in its place. @throws {InputError} for an id that is not there. */
  showLayer(id: string, shown: boolean): void {
    this.#layers.show(id, shown);
    this.#checkBackground();
    this.#tellTiles();
  }

  /** Moves a layer below another, or to the top. */
  moveLayer(id: string, below?: string): void {
    this.#layers.moveBelow(id, below);
  }

  /** Ids of the layers, bottom to top. */
  get layers(): readonly string[] {
    return this.#layers.ids;
  }

  /** Trails, drawn as they are now and as they grow: call `redraw` when one has grown. */
  showTrails(trails: readonly Trail[]): void {
    const ids = trails.map((_, i) => `trail-${i + 1}`);
    for (const id of this.#trailIds) if (!ids.includes(id)) this.#layers.remove(id);
    trails.forEach((trail, i) => this.#layers.put(ids[i] ?? '', { kind: 'trail', trail }));
    this.#trailIds = ids;
  }

  /** Fences and how they stand. */
  showFences(fences: readonly Fence[], paint: FencesPaint = {}): void {
    this.#layers.put('fences', { kind: 'fences', fences, paint });
  }

  /** Draws again at the next frame: when a trail has grown, or an age has to be told. */
  redraw(): void {
    this.#steer();
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

  /** Of the scale. */
  get units(): LengthUnits {
    return this.#units;
  }
  set units(units: LengthUnits) {
    checkOptions('MapSheet', { units }, PAINT_RULES);
    this.#units = units;
    this.#schedule();
  }

  /** Centres on the own place and follows it; without a fix, asks for one. */
  toOwnPlace(): void {
    this.follow(this.#steering.mode === 'course-up' ? 'course-up' : 'centred');
  }

  /** Follows the own place in some way, or leaves the view to the hand; takes up again what a hand has suspended. */
  follow(mode: SteeringMode): void {
    const fix = this.#fix;
    this.#steering.set(mode);
    this.#hand.halt();
    if (mode !== 'free') {
      if (fix === undefined) this.setOwnPlace(true);
      const north = mode === 'centred' ? { turn: 0 } : {};
      if (fix !== undefined)
        this.#move((camera) => this.#steering.place(camera.with(north), fix), 'program', true);
    }
    this.#showState();
  }

  /** What the map shows, in words. */
  describe(): string {
    const layers = this.#layers.ids.map((id) => this.#layers.layer(id));
    const { label = 'Map' } = this.#options;
    return describeMap(label, this.#veiled ? undefined : this.#camera, this.#fix, layers, this.pins.all);
  }

  /** Takes the map out of its container and stops listening. */
  close(): void {
    if (this.#closed) return;
    this.#closed = true;
    this.#hand.end();
    this.#sizes.disconnect();
    this.#own?.close();
    this.#layers.close();
    clearTimeout(this.#calm);
    cancelAnimationFrame(this.#scheduled);
    this.#listeners.clear();
    this.#page.root.replaceChildren();
    const { container } = this.#options;
    if (HOLDERS.get(container) === this) HOLDERS.delete(container);
  }

  #bindReceiver(): OwnPlace | undefined {
    const { receiver } = this.#options;
    if (receiver === undefined) return undefined;
    return new OwnPlace(receiver, {
      fix: (fix) => this.showFix(fix),
      note: (kind, note) => this.#notes.set(kind, note),
      changed: () => this.#showState(),
    });
  }

  #listenToHand(): { end(): void; halt(): void } {
    return handOn(this.#page.stage, this.pins, {
      camera: () => this.#camera,
      fix: () => this.#fix,
      touch: () => (this.#flight = undefined),
      move: (change) => {
        this.#steering.touch(performance.now());
        this.#move(change, 'hand', false);
      },
      zoom: (by, x, y, glide) => this.#zoomAt(by, x, y, glide),
      settle: () => {
        if (this.#flight === undefined) this.#tellView('hand', true); // otherwise told when it lands
      },
      openKite: () => {
        this.#kiteOpen = !this.#kiteOpen;
        this.#schedule();
      },
      ownPlace: () => this.toOwnPlace(),
      tell: (event) => this.#tell(event),
    });
  }

  #zoomBy(levels: number): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    this.#zoomAt(levels, camera.width / 2, camera.height / 2, mayGlide());
    if (!mayGlide()) this.#tellView('hand', true);
  }

  #zoomAt(levels: number, x: number, y: number, glide: boolean): void {
    this.#steering.keepZoom();
    const from = this.#camera;
    const target = this.#flight?.to ?? from;
    if (from === undefined || target === undefined) return;
    // Zooming keeps the own place where it is while it is followed.
    const anchor = this.#steering.anchor(target) ?? { x, y };
    const to = target.zoomedAround(target.zoom + levels, anchor.x, anchor.y);
    if (!glide) {
      this.#move(() => to, 'hand', false);
      return;
    }
    this.#flight = { from, to, start: performance.now() };
    this.#schedule();
  }

  #steer(): void {
    const fix = this.#fix;
    const camera = this.#camera;
    if (camera === undefined) {
      if (fix !== undefined && this.#steering.active)
        this.#move((ready) => this.#steering.place(ready, fix), 'program', true);
      return;
    }
    if (this.#flight !== undefined) return; // it lands first
    const steered = this.#steering.steer(camera, fix, performance.now());
    if (steered !== camera) this.#move(() => steered, 'program', true);
  }

  #move(change: (camera: Camera) => Camera, by: 'hand' | 'program', settled: boolean): void {
    this.#flight = undefined;
    if (this.#camera === undefined) {
      const before = this.#wanted;
      this.#wanted = (camera) => change(before?.(camera) ?? camera);
      return;
    }
    this.#camera = change(this.#camera);
    this.#moved = performance.now();
    this.#tellView(by, settled);
    this.#schedule();
  }

  #tellView(by: 'hand' | 'program', settled: boolean): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    const { centre, zoom, turn, bounds } = camera;
    const view: MapView = { centre, zoom, turn, bounds, by, settled };
    this.#view.set(view);
    if (by === 'hand' && settled) {
      this.#steering.keepZoom();
      this.#memory?.keep(view);
    }
    this.#tell({ kind: 'view', ...view });
  }

  #tell(event: MapEvent): void {
    for (const listener of [...this.#listeners]) listener(event);
  }

  #unveil(): void {
    this.#veiled = false;
  }

  /** Takes the container's size over; the first time, sets the view that was asked for. */
  #measure(): void {
    this.#checkSize();
    const { clientWidth: width, clientHeight: height } = this.#page.stage;
    if (width === 0 || height === 0 || (this.#camera?.width === width && this.#camera.height === height))
      return;
    this.#frame.resize(width, height);
    if (this.#camera === undefined) {
      const blank = new Camera({ centre: { lat: 0, lon: 0 }, zoom: 1, width, height });
      this.#camera = this.#wanted?.(blank) ?? blank;
      this.#wanted = undefined;
    } else {
      this.#camera = this.#camera.with({ width, height });
      this.#steer();
    }
    this.#tellView('program', true);
    this.#drawNow(); // not a frame later: a resized canvas is empty
  }

  #checkSize(): void {
    const { container, warn = consoleWarn } = this.#options;
    const { clientWidth: width, clientHeight: height } = container;
    const empty =
      container.isConnected && !isHidden(container) && (width === 0 || this.#page.stage.clientHeight === 0);
    if (empty && !this.#notes.shown.has('no-size')) {
      warn(`the map's container is ${width} by ${height} pixels; give it a height in CSS`);
    }
    this.#notes.set(
      'no-size',
      empty ? { what: 'This map has no size.', remedy: 'Give its container a height in CSS.' } : undefined,
    );
  }

  #checkBackground(): void {
    const remedy = 'Put a ground or tiles layer, or the grid on purpose.';
    this.#notes.set(
      'no-background',
      this.#layers.hasBackground ? undefined : { what: 'No background layer.', remedy },
    );
  }

  #tellTiles(): void {
    this.#notes.set('tiles', this.#layers.tileTroubles[0]);
  }

  #change(change: Change): void {
    this.#frame.change(change);
    this.#schedule();
  }

  #schedule(): void {
    if (this.#scheduled !== 0 || this.#closed) return;
    this.#scheduled = requestAnimationFrame((now) => {
      this.#scheduled = 0;
      this.#fly(now);
      this.#drawNow();
    });
  }

  /** Goes on with a flight. */
  #fly(now: number): void {
    const flight = this.#flight;
    if (flight === undefined) return;
    const share = Math.max(0, now - flight.start) / (FLIGHT * 1000);
    this.#camera = between(flight.from, flight.to, share);
    this.#moved = performance.now();
    if (share >= 1) this.#flight = undefined;
    this.#tellView('hand', share >= 1);
    if (share < 1) this.#schedule();
  }

  #drawNow(): void {
    const camera = this.#camera;
    if (camera === undefined) return;
    const { now = Date.now, staleAfter } = this.#options;
    const hurried = this.#flight !== undefined || performance.now() - this.#moved < CALM;
    const content = {
      fix: this.#fix,
      kiteOpen: this.#kiteOpen,
      veiled: this.#veiled,
      units: this.#units,
      now: now(),
      staleAfter,
    };
    if (this.#frame.draw(camera, content, hurried)) {
      clearTimeout(this.#calm);
      this.#calm = setTimeout(() => this.#schedule(), CALM + 10);
    }
    this.#pinKeys.show(camera);
    const crowd = this.pins.crowd;
    this.#notes.set(
      'content',
      crowd === undefined ? undefined : { what: crowd, remedy: 'Give them places of their own.' },
    );
    this.#showState();
    this.#page.describe(this.describe());
  }

  #showState(): void {
    const following = this.#steering.active;
    if (this.#following.get() !== following) this.#following.set(following);
    const zoom = this.#camera?.zoom;
    this.#strip.show({
      mode: this.#steering.mode,
      following,
      ownPlace: this.#own === undefined ? this.#fix !== undefined : this.#own.shown,
      closerAllowed: zoom !== undefined && zoom < MOST_ZOOM,
      widerAllowed: zoom !== undefined && zoom > LEAST_ZOOM,
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

/** The page's own storage; none where it is barred. */
function localStorageOf(): Storage | undefined {
  try {
    return localStorage;
  } catch {
    return undefined;
  }
}
