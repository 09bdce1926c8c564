import type { Camera } from '../core/scene/camera.js';
import type { GestureSharing, GestureSink, Held, Listening, Tap } from './gesture-sink.js';
import { listenToGestures } from './gestures.js';
import type { MapEvent } from './map-events.js';
import type { OwnKite } from './own-kite.js';
import type { PinBoard } from './pin-board.js';

/** What gestures may do to a map. */
export interface HandSink {
  sharing(): GestureSharing;
  camera(): Camera | undefined;
  /** Id of an item of the layers at a pixel. */
  hit(x: number, y: number, camera: Camera): string | undefined;
  /** A finger has come down: animations stop where they are. After a key they jump to their end. */
  touch(by: 'finger' | 'key'): void;
  /** A gesture moves the view. */
  move(change: (camera: Camera) => Camera): void;
  zoom(by: number, x: number, y: number, glide: boolean): void;
  settle(): void;
  openKite(): void;
  ownPlace(): void;
  hint(by: 'finger' | 'wheel'): void;
  report(event: MapEvent): void;
}

/** Pixels around the kite that count as a tap on it. */
const KITE_REACH = 20;

/** Whether animations are allowed: not for users who asked for reduced motion. */
export function mayGlide(): boolean {
  return !matchMedia('(prefers-reduced-motion: reduce)').matches;
}

/** Connects gestures on the stage to the map, its pins and the kite. */
export function handOn(
  stage: HTMLElement,
  pins: PinBoard,
  kite: OwnKite,
  sink: HandSink,
): Required<Listening> {
  const gestures: GestureSink = {
    get glides() {
      return mayGlide();
    },
    get sharing() {
      return sink.sharing();
    },
    touch: (by) => sink.touch(by),
    pan: (dx, dy) => sink.move((camera) => camera.panned(dx, dy)),
    zoom: (by, x, y, glide) => sink.zoom(by, x, y, glide),
    turn: (by, x, y) => sink.move((camera) => camera.turnedAround(camera.turn + by, x, y)),
    settle: () => sink.settle(),
    tap: (x, y) => tapped(x, y, pins, kite, sink),
    hold(x, y) {
      const at = sink.camera()?.positionAt(x, y);
      if (at !== undefined) sink.report({ kind: 'hold', at });
    },
    grab: (x, y) => grabbed(x, y, pins, sink),
    hint: (by) => sink.hint(by),
    key(key) {
      if (key !== 'Home') return false;
      sink.ownPlace();
      return true;
    },
  };
  return listenToGestures(stage, gestures);
}

function tapped(x: number, y: number, pins: PinBoard, kite: OwnKite, sink: HandSink): Tap {
  const camera = sink.camera();
  if (camera === undefined) return { taken: false, report: () => {} };
  const pin = pins.at(x, y, camera);
  const own = kite.fix && camera.pixelOf(kite.fix);
  const id = pin?.id ?? sink.hit(x, y, camera);
  const onKite = id === undefined && own !== undefined && Math.hypot(own.x - x, own.y - y) <= KITE_REACH;
  const at = camera.positionAt(x, y);
  return {
    taken: id !== undefined || onKite,
    report() {
      if (onKite) sink.openKite();
      else if (pin !== undefined) pins.toggle(pin.id);
      sink.report({ kind: 'tap', at, kite: onKite, ...(id !== undefined && { pin: id }) });
    },
  };
}

/** A draggable pin, carried at the point where it was grabbed. */
function grabbed(x: number, y: number, pins: PinBoard, sink: HandSink): Held | undefined {
  const camera = sink.camera();
  const pin = camera === undefined ? undefined : pins.at(x, y, camera);
  if (camera === undefined || pin?.draggable !== true) return undefined;
  const at = camera.pixelOf(pin);
  const [dx, dy] = [at.x - x, at.y - y];
  let lifted = false;
  return {
    move(toX, toY) {
      if (!lifted) pins.lift(pin.id);
      lifted = true;
      const to = sink.camera()?.positionAt(toX + dx, toY + dy);
      if (to !== undefined) pins.carry(to);
    },
    drop() {
      const put = pins.putDown(true);
      if (put !== undefined) sink.report({ kind: 'drop', at: { lat: put.lat, lon: put.lon }, pin: put.id });
    },
    cancel() {
      if (lifted) pins.putDown(false);
    },
  };
}
