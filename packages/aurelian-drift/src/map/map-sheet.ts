import { checkOptions, oneOf } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import type { Fence } from '../core/fence/fence.js';
import type { Fix } from '../core/fix/fix.js';
import { boundsAround, boundsOf, boundsProblem, type Bounds } from '../core/geodesy/bounds.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { MIN_ZOOM, MAX_ZOOM, type Camera, type Pixel } from '../core/scene/camera.js';
import type { Change } from '../core/scene/layer-kind.js';
import type { FencesPaint } from '../core/scene/layers/fences.js';
import { groundOf } from '../core/scene/layers/ground.js';
import type { TrailPaint } from '../core/scene/layers/trail.js';
import type { UnitSystem } from '../core/fix/units.js';
import type { SteeringMode } from '../core/scene/steering.js';
import type { Texts } from '../core/texts/texts.js';
import type { Trail } from '../core/trail/trail.js';
import { DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener, type OnListenerError } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import type { Receiver } from '../receiver/receiver.js';
import { AgeClock } from './age-clock.js';
import { ANCHOR_SIDES, Anchors, type AnchorPlace, type AnchorSide } from './anchors.js';
import { describeMap } from './describe.js';
import { DrawLoop } from './draw-loop.js';
import type { GestureSharing, Listening } from './gesture-sink.js';
import { LayerStack, type MapLayers } from './layer-stack.js';
import { firstView } from './first-view.js';
import { framedBounds } from './framed-bounds.js';
import { MapChecks } from './map-checks.js';
import { MapWriting } from './map-writing.js';
import type { MapEvent, MapView } from './map-events.js';
import { LOOK_RULES, PAINT_RULES, checkMapSheet, type MapSheetOptions } from './map-options.js';
import { Notes, type MapNote, type MapNoteKind } from './notes.js';
import { OwnKite } from './own-kite.js';
import { OwnOnMap } from './own-on-map.js';
import { PinBoard, type MapPins } from './pin-board.js';
import { PinKeys } from './pin-keys.js';
import type { RasterState, RasterWork } from './raster.js';
import { Reader } from './reader.js';
import { SheetFrame } from './sheet-frame.js';
import { handOn, mayGlide } from './sheet-hand.js';
import { hintOn } from './sharing-hint.js';
import { SheetStage } from './sheet-stage.js';
import { SheetView } from './sheet-view.js';
import { StageBox } from './stage-box.js';
import { Strip } from './strip.js';
import { PageTheme, type ThemeChoice } from './theme-choice.js';
import { ViewMemory, localStorageOf } from './view-memory.js';

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
  readonly #box: StageBox;
  readonly #theme: PageTheme;
  readonly #frame: SheetFrame;
  readonly #loop: DrawLoop;
  readonly #clock: AgeClock;
  readonly #reader: Reader;
  readonly #strip: Strip;
  readonly #notes: Notes;
  readonly #pinKeys: PinKeys;
  readonly #anchors: Anchors;
  readonly #layers: LayerStack;
  readonly #board: PinBoard;
  readonly #view: SheetView;
  readonly #kite: OwnKite;
  readonly #hand: Listening;
  readonly #hint: (by: 'finger' | 'wheel') => void;
  readonly #following;
  readonly #warn: Warn;
  readonly #events: Emitter<MapEvent>;
  readonly #lifetime: Lifetime;
  readonly #writing: MapWriting;
  /** Number of backgrounds that are on their way. */
  #awaited = 0;
  readonly #checks: MapChecks;
  readonly #own: OwnOnMap;
  #gestures: GestureSharing;
  #trailIds: readonly string[] = [];

  /**
   * @throws {InputError} for a misspelt option, a container that is no element, an impossible centre, or a zoom outside
   * 0
   *   to 22.
   */
  constructor(options: MapSheetOptions) {
    checkMapSheet(options);
    const ground = options.ground === undefined ? undefined : groundOf(options.ground);
    const { container, credit } = options;
    this.#warn = isolatedWarn(options.warn ?? consoleWarn);
    const report: OnListenerError = warnOfListener('a MapSheet', this.#warn);
    this.#events = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    HOLDERS.get(container)?.close();
    HOLDERS.set(container, this);
    this.#options = options;
    this.#gestures = options.gestures ?? 'own';
    this.#writing = new MapWriting(options, () => this.#applyWords());
    this.#notes = new Notes(this.#warn);
    this.#kite = new OwnKite(options.staleAfter);
    this.#view = new SheetView({
      ...firstView(options, this.#memoryOf(options.keepView)),
      content: () => this.#content,
      onChange: () => this.#loop.request(),
      onView: (now) => this.#events.emit({ kind: 'view', ...now }),
      report,
    });
    this.#following = liveValue(this.#view.steering.active, report);

    this.pins = this.#board = new PinBoard(
      (change) => this.#change(change),
      () => this.#fit('pins'),
    );
    this.layers = this.#layers = new LayerStack(
      (change) => this.#change(change),
      () => this.#fit('layers'),
    );
    this.#checks = new MapChecks({
      notes: this.#notes,
      layers: this.#layers,
      pins: this.#board,
      texts: () => this.#writing.words.texts,
      sizeFault: () => this.#box.fault,
      awaited: () => this.#awaited > 0,
      lost: () =>
        this.#view.lost && this.#awaited === 0 && this.receiver === undefined && this.#box.size !== undefined,
    });
    this.#own = new OwnOnMap({
      kite: this.#kite,
      notes: this.#notes,
      writing: this.#writing,
      moved: () => {
        this.#view.steer(this.#kite.fix);
        this.#fit();
        this.#loop.request();
      },
      changed: () => this.#showState(),
      onOwnPlace: options.onOwnPlace,
      report,
    });
    this.#frame = new SheetFrame(this.#layers, this.#board);
    this.#loop = new DrawLoop((now) => this.#draw(now));
    this.#clock = new AgeClock(() => this.#kite.ages(this.#now) && this.#loop.request());
    this.#pinKeys = new PinKeys(this.#board, this.#kite, {
      chosen: ({ id, lat, lon }) => {
        this.#board.toggle(id);
        this.#events.emit({ kind: 'tap', at: { lat, lon }, pin: id, kite: false });
      },
      kite: (at) => {
        this.#toggleKite();
        this.#events.emit({ kind: 'tap', at, kite: true });
      },
      dropped: ({ id, lat, lon }) => this.#events.emit({ kind: 'drop', at: { lat, lon }, pin: id }),
    });
    this.#anchors = new Anchors(container, (id) =>
      this.#board.held?.id === id ? this.#board.held : this.#board.get(id),
    );
    this.#strip = new Strip({
      ownPlace: () => this.toOwnPlace(),
      steer: (on) => this.steer(on ? 'centred' : 'free'),
      courseUp: (on) => this.steer(on ? 'course-up' : 'centred'),
      closer: () => this.#zoomBy(1),
      wider: () => this.#zoomBy(-1),
    });
    this.#page = new SheetStage(container, {
      onStage: [this.#frame.canvas, this.#pinKeys.element, this.#notes.element],
      over: [this.#anchors.element],
      below: options.controls === false ? [] : [this.#strip.element],
    });
    this.#reader = new Reader(this.#page, () => this.describe());
    this.#theme = new PageTheme(options.theme ?? 'day', () => this.#applyTheme());
    this.#hint = hintOn(this.#notes, () => this.#writing.words.texts);
    this.gestures = this.#gestures;
    this.#hand = this.#listenToHand();
    this.#frame.theme = this.#page.theme = this.#theme.current; // before the box is measured
    this.#box = new StageBox(container, this.#page.stage, () => this.#measure());
    this.#applyWords();
    if (ground !== undefined)
      this.#layers.put('ground', { kind: 'ground', ground, ...(credit !== undefined && { credit }) });
    this.receiver = options.receiver;
    // Fonts that are loaded later have other widths.
    if (document.fonts.status === 'loading') void document.fonts.ready.then(() => this.#applyFont());
    this.#measure();
    this.#fit('layers');
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

  /** Receiver whose fixes are shown as the own place. A new one takes over; pins, layers and view stay. */
  get receiver(): Receiver | undefined {
    return this.#own.receiver;
  }
  set receiver(receiver: Receiver | undefined) {
    this.#own.receiver = receiver;
  }

  /** Name of the map for screen readers; `undefined` for that of the language. */
  get label(): string | undefined {
    return this.#writing.label;
  }
  set label(label: string | undefined) {
    this.#writing.label = label;
  }

  /** Whether the strip of controls is shown. */
  get controls(): boolean {
    return this.#strip.element.isConnected;
  }
  set controls(shown: boolean) {
    if (shown) this.#page.root.firstElementChild?.append(this.#strip.element);
    else this.#strip.element.remove();
  }

  /** Decimals of positions in labels and in the description. */
  get decimals(): number | 'auto' {
    return this.#writing.decimals;
  }
  set decimals(decimals: number | 'auto') {
    this.#writing.decimals = decimals;
  }

  /** Who has the wheel and one finger: the map, or the page. */
  get gestures(): GestureSharing {
    return this.#gestures;
  }
  set gestures(gestures: GestureSharing) {
    checkOptions('MapSheet', { gestures }, { gestures: PAINT_RULES.gestures });
    this.#gestures = gestures;
    this.#page.stage.classList.toggle('shared', gestures === 'shared');
  }

  /** Name under which the view of the user is stored from now on; `undefined` for not at all. */
  get keepView(): string | undefined {
    return this.#view.memory?.name;
  }
  set keepView(name: string | undefined) {
    this.#view.memory = this.#memoryOf(name);
  }

  /** Whether the map itself follows the own place of its receiver. */
  get showsOwnPlace(): boolean {
    return this.#own.follows;
  }

  /** Notes that are shown in the map. */
  get notes(): ReadonlyMap<MapNoteKind, MapNote> {
    return this.#notes.shown;
  }

  /** Shows a note in the map, or removes it with `undefined`: for problems of the app's own content, for example. */
  note(kind: MapNoteKind, note: MapNote | undefined): void {
    this.#notes.set(kind, note);
  }

  /** A background is on its way: until it has come or failed, nothing says that there is none. */
  awaitBackground(coming: Promise<unknown>): void {
    this.#awaited++;
    const check = () => {
      this.#checks.layers();
      this.#checks.view();
    };
    check(); // takes back what was said before
    const settled = () => {
      this.#awaited--;
      check();
    };
    void coming.then(settled, settled);
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
    this.#view.move((camera) => camera.with(to), 'program', true);
  }

  /**
   * Shows the whole of some bounds, positions, a trail or fences, with a margin; without any, the content of the map.
   *
   * @throws {InputError} for impossible bounds, or an invalid fence.
   */
  frame(content: Bounds | Iterable<Position | Fence> | undefined = this.#content): void {
    if (content === undefined) return;
    const bounds = framedBounds(content);
    if (bounds === undefined) return;
    const problem = boundsProblem(bounds);
    if (problem !== undefined) throw new InputError('bad-value', `frame: bounds ${problem}`);
    this.#view.move((camera) => camera.framing(bounds, 60), 'program', true);
  }

  /**
   * Anchors an element of the app, such as a picture or a card, to a position or a pin: it moves with it, keeps the
   * styles of the page, and takes its own touches and keys. It becomes a child of the container. Returns the function
   * that takes it off the map.
   *
   * @param place `{ lat, lon }`, or `{ pin: id }`.
   * @param side of the place on which the element stands. Default `above`.
   * @throws {InputError} for a value that is no element, an impossible position, or an unknown side.
   */
  anchor(element: HTMLElement, place: AnchorPlace, side: AnchorSide = 'above'): () => void {
    if (!(element instanceof Element))
      throw new InputError('bad-value', `anchor needs an element, got ${formatValue(element)}`);
    if (!('pin' in place)) positionOf(place);
    const problem = oneOf(...ANCHOR_SIDES)(side);
    if (problem !== undefined) throw new InputError('bad-value', `anchor: the side ${problem}`);
    const remove = this.#anchors.put(element, place, side);
    this.#loop.request();
    return remove;
  }

  /** Sets the own place: the kite moves there. `undefined` removes the kite; the view stays. */
  showFix(fix: Fix | undefined): void {
    this.#own.take(fix);
  }

  /**
   * Shows the own place from the receiver, asking if needed, and centres on it; or hides it and stops the follow of the
   * map. Hidden, it stays so until it is shown again, whatever fixes come for others.
   */
  setOwnPlace(shown: boolean): void {
    if (shown) this.#own.show();
    else this.#own.hide();
  }

  /** Shows trails, which may grow: call `redraw` after that. @param paint such as `{ path: 'smoothed' }`. */
  showTrails(trails: readonly Trail[], paint: TrailPaint = {}): void {
    const ids = trails.map((_, i) => `trail-${i + 1}`);
    for (const id of this.#trailIds) if (!ids.includes(id)) this.#layers.remove(id);
    trails.forEach((trail, i) => this.#layers.put(ids[i] ?? '', { kind: 'trail', trail, paint }));
    this.#trailIds = ids;
  }

  /** Shows fences with their state. */
  showFences(fences: readonly Fence[], paint: FencesPaint = {}): void {
    this.#layers.put('fences', { kind: 'fences', fences, paint });
  }

  /** Draws again in the next frame: when a trail has grown, or an age has changed. */
  redraw(): void {
    if (this.#view.lost) this.#fit();
    this.#view.steer(this.#kite.fix);
    this.#loop.request();
  }

  /** Colours of the map. */
  get theme(): ThemeChoice {
    return this.#theme.choice;
  }
  set theme(theme: ThemeChoice) {
    checkOptions('MapSheet', { theme }, { theme: PAINT_RULES.theme });
    this.#theme.choice = theme;
  }

  /** Units of the scale, the labels and the description. */
  get units(): UnitSystem {
    return this.#writing.units;
  }
  set units(units: UnitSystem) {
    this.#writing.units = units;
  }

  /** Texts for the user; `undefined` for English. */
  get texts(): Texts | undefined {
    return this.#writing.texts;
  }
  set texts(texts: Texts | undefined) {
    this.#writing.texts = texts;
  }

  /** Centres on the own place and follows it; without a fix, asks for one. */
  toOwnPlace(): void {
    this.steer(this.#view.steering.mode === 'course-up' ? 'course-up' : 'centred');
  }

  /** Sets how the map follows the own place; `free` stops it. Also resumes after the user has suspended it. */
  steer(mode: SteeringMode): void {
    checkOptions('MapSheet', { steering: mode }, { steering: PAINT_RULES.steering });
    const { fix } = this.#kite;
    this.#view.steering.set(mode);
    this.#hand.halt();
    if (mode !== 'free') {
      if (fix === undefined) this.setOwnPlace(true);
      else this.#view.place(fix);
    }
    this.#showState();
  }

  /** Description of the visible map in words, in the language and the units of the map. */
  describe(): string {
    const camera = this.#veiled ? undefined : this.#view.camera;
    const { name, words } = this.#writing;
    return describeMap(name, camera, this.#kite.fix, [...this.#layers.shown, this.#board], words);
  }

  /** Removes the map from its container and ends everything that belongs to it. */
  close(): void {
    this.#lifetime.end(undefined);
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  #release(): void {
    this.#hand.end();
    this.#box.close();
    this.#theme.watch(false);
    this.#own.close();
    this.#layers.close();
    this.#anchors.close();
    this.#clock.run(false);
    this.#reader.end();
    this.#loop.end();
    this.#events.clear();
    this.#page.remove();
    const { container } = this.#options;
    if (HOLDERS.get(container) === this) HOLDERS.delete(container);
  }

  get #now(): number {
    return (this.#options.now ?? Date.now)();
  }

  /** Whether only the empty sheet is shown, because an unrelated place would be misleading. */
  get #veiled(): boolean {
    return this.#view.lost;
  }

  get #content(): Bounds | undefined {
    const { fix } = this.#kite;
    const place = fix && boundsOf([fix]);
    return boundsAround([this.#layers.bounds, this.#board.ready.bounds(), place]);
  }

  #memoryOf(name: string | undefined): ViewMemory | undefined {
    const { storage = localStorageOf() } = this.#options;
    return name === undefined ? undefined : new ViewMemory(name, storage, this.#warn);
  }

  #listenToHand(): Required<Listening> {
    const hand = handOn(this.#page.stage, this.#board, this.#kite, {
      sharing: () => this.#gestures,
      camera: () => this.#view.camera,
      hit: (x, y, camera) => this.#layers.hit(x, y, camera),
      touch: (by) => this.#view.stop(by === 'key'),
      move: (change) => {
        this.#view.move(change, 'hand', false);
        this.#showState();
      },
      zoom: (by, x, y, glide) => this.#view.zoom(by, x, y, glide),
      settle: () => this.#view.settle(),
      openKite: () => this.#toggleKite(),
      ownPlace: () => this.toOwnPlace(),
      hint: (by) => this.#hint(by),
      report: (event) => this.#events.emit(event),
    });
    // What is dragged stays under the finger while the view follows.
    const end = this.$view.listen(() => hand.again());
    this.#lifetime.add(end);
    return hand;
  }

  #toggleKite(): void {
    this.#kite.toggle();
    this.#loop.request();
  }

  #zoomBy(levels: number): void {
    const camera = this.#view.camera;
    if (camera === undefined) return;
    this.#view.zoom(levels, camera.width / 2, camera.height / 2, mayGlide());
    if (!mayGlide()) this.#view.settle();
  }

  /** Takes over the size of the container; the first time, sets the initial view. */
  #measure(): void {
    this.#theme.watch(this.#options.container.isConnected);
    this.#checks.size();
    const { size } = this.#box;
    if (size === undefined || !this.#frame.resize(size)) return;
    this.#applyFont();
    this.#view.resize(size.width, size.height, this.#kite.fix);
    this.#fit();
    this.#loop.drawNow(); // at once: a resized canvas is empty
  }

  /** The content has changed: until somebody chose a view, the map shows the whole of it. */
  #fit(of?: 'layers' | 'pins'): void {
    if (of !== undefined) this.#checks[of]();
    this.#view.fit();
    this.#checks.view();
  }

  #change(change: Change): void {
    this.#frame.change(change);
    this.#loop.request();
  }

  /** Draws a frame. Returns whether the picture is complete. */
  #draw(pageNow: number): RasterState {
    this.#view.advance(pageNow);
    const camera: Camera | undefined = this.#view.camera;
    this.#anchors.show(this.#veiled || this.#box.size === undefined ? undefined : camera);
    if (camera === undefined) return 'done';
    const now = this.#now;
    const { words } = this.#writing;
    const content = {
      kite: this.#kite,
      veiled: this.#veiled,
      units: this.#writing.units,
      words,
      now,
    };
    const state = this.#frame.draw(camera, content, this.#view.moving);
    this.#pinKeys.show(camera, words);
    this.#clock.run(this.#kite.fix !== undefined && this.#box.size !== undefined);
    this.#reader.changed(words.ownPlace(this.#kite.fix));
    this.#showState();
    return state;
  }

  #showState(): void {
    const following = this.#view.steering.active;
    if (this.#following.get() !== following) this.#following.set(following);
    const zoom = this.#view.camera?.zoom;
    this.#strip.show({
      mode: this.#view.steering.mode,
      following,
      ownPlace: this.#own.shown,
      closerAllowed: zoom !== undefined && zoom < MAX_ZOOM,
      widerAllowed: zoom !== undefined && zoom > MIN_ZOOM,
    });
  }

  #applyWords(): void {
    const { words, name } = this.#writing;
    this.#strip.label(words.texts, words.language);
    this.#notes.element.lang = words.language;
    this.#page.name(name, words.texts, words.language);
    this.#own.refresh();
    this.#checks.all();
    this.#loop.request();
  }

  #applyTheme(): void {
    const { current } = this.#theme;
    this.#frame.theme = current;
    this.#page.theme = current;
    this.#loop.drawNow(); // at once: a printer does not wait
  }

  #applyFont(): void {
    this.#frame.family = getComputedStyle(this.#page.stage).fontFamily;
    this.#loop.request();
  }
}
