import { pushed } from '../core/scene/flight.js';

/** Something on the map that the user drags. */
export interface Held {
  move(x: number, y: number): void;
  drop(x: number, y: number): void;
  /** The drag was cancelled. */
  cancel(): void;
}

/** Effects of gestures on the map, in pixels of the map's own box. */
export interface GestureSink {
  /** A finger has come down: animations stop where they are. After a key they jump to their end. */
  touch(by: 'finger' | 'key'): void;
  pan(dx: number, dy: number): void;
  /** Zoom by a number of levels; the position under the pixel stays there. */
  zoom(by: number, x: number, y: number, glide: boolean): void;
  /** Turn by a number of degrees clockwise about a pixel. */
  turn(by: number, x: number, y: number): void;
  /** The gesture has ended, and nothing moves any more. */
  settle(): void;
  tap(x: number, y: number): void;
  hold(x: number, y: number): void;
  /** What the pointer drags; `undefined` for the map itself. */
  grab(x: number, y: number): Held | undefined;
  /** Keys with another meaning than moving the map. Returns whether it was one. */
  key(key: string): boolean;
  /** Whether animations are allowed: not under reduced motion. */
  readonly glides: boolean;
}

/** Wheel pixels per zoom level: one notch of a usual wheel is 100. */
const WHEEL_A_LEVEL = 400;
/** Pixels per arrow key, and degrees with shift. */
const KEY_PAN = 80;
const KEY_TURN = 15;
/** Pixels that a finger may move during a tap or hold; milliseconds of a hold, and between the taps of a double tap. */
const WANDER = 8;
const HOLD = 550;
const DOUBLE = 320;
/** Degrees that two fingers must turn before the map turns, so that a pinch stays a pinch. */
const TURN_FROM = 12;

interface Point {
  readonly x: number;
  readonly y: number;
}

/**
 * Listens to mouse, touch, pen, wheel and keys on an element. Returns the functions that end this, and that stop a
 * glide.
 */
export function listenToGestures(element: HTMLElement, sink: GestureSink): { end(): void; halt(): void } {
  const pointers = new Map<number, Point>();
  let down: { at: Point; time: number; moved: boolean } | undefined;
  let held: Held | undefined;
  let holdTimer: ReturnType<typeof setTimeout> | undefined;
  let wheelTimer: ReturnType<typeof setTimeout> | undefined;
  let tapped: { at: Point; time: number } | undefined;
  let velocity: Point = { x: 0, y: 0 };
  let moved = 0;
  let twist = 0;
  let twisting = false;
  let frame = 0;

  const at = (event: MouseEvent): Point => {
    const box = element.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const pair = () => {
    const [a, b] = [...pointers.values()];
    if (a === undefined || b === undefined) return undefined;
    return {
      x: (a.x + b.x) / 2,
      y: (a.y + b.y) / 2,
      size: Math.hypot(a.x - b.x, a.y - b.y),
      angle: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI,
    };
  };
  const halt = () => {
    cancelAnimationFrame(frame);
    clearTimeout(wheelTimer);
    frame = 0;
    velocity = { x: 0, y: 0 };
  };

  const onDown = (event: PointerEvent) => {
    // Notes lie on the stage, and their buttons are their own.
    if (event.button !== 0 || (event.target as Element).closest('.note') !== null) return;
    halt();
    sink.touch('finger');
    element.setPointerCapture(event.pointerId);
    const here = at(event);
    pointers.set(event.pointerId, here);
    clearTimeout(holdTimer);
    if (pointers.size > 1) {
      held?.cancel();
      held = undefined;
      down = undefined;
      twist = 0;
      twisting = false;
      return;
    }
    held = sink.grab(here.x, here.y);
    down = { at: here, time: event.timeStamp, moved: false };
    holdTimer = setTimeout(() => {
      if (down === undefined || down.moved) return;
      down.moved = true; // a hold is not a tap
      if (held === undefined) sink.hold(here.x, here.y);
    }, HOLD);
  };

  const onMove = (event: PointerEvent) => {
    const before = pointers.get(event.pointerId);
    if (before === undefined) return;
    const now = at(event);
    const two = pair();
    pointers.set(event.pointerId, now);
    if (two !== undefined) {
      pinch(two);
      return;
    }
    if (down !== undefined && !down.moved) {
      if (Math.hypot(now.x - down.at.x, now.y - down.at.y) <= WANDER) {
        pointers.set(event.pointerId, before); // small changes are collected until they are large enough
        return;
      }
      down.moved = true;
      clearTimeout(holdTimer);
    }
    if (held !== undefined) {
      held.move(now.x, now.y);
      return;
    }
    const seconds = Math.max(0.001, (event.timeStamp - moved) / 1000);
    moved = event.timeStamp;
    const [dx, dy] = [now.x - before.x, now.y - before.y];
    const mix = Math.min(1, seconds / 0.06);
    velocity = {
      x: velocity.x + (dx / seconds - velocity.x) * mix,
      y: velocity.y + (dy / seconds - velocity.y) * mix,
    };
    sink.pan(dx, dy);
  };

  const pinch = (before: NonNullable<ReturnType<typeof pair>>) => {
    const now = pair();
    if (now === undefined) return;
    sink.pan(now.x - before.x, now.y - before.y);
    if (before.size > 0 && now.size > 0) sink.zoom(Math.log2(now.size / before.size), now.x, now.y, false);
    const turned = ((now.angle - before.angle + 540) % 360) - 180;
    twist += turned;
    if (twisting) sink.turn(-turned, now.x, now.y);
    else if (Math.abs(twist) > TURN_FROM) twisting = true;
  };

  const onUp = (event: PointerEvent) => {
    if (!pointers.delete(event.pointerId) || pointers.size > 0) return;
    clearTimeout(holdTimer);
    const here = at(event);
    const press = down;
    down = undefined;
    if (event.type === 'pointercancel') {
      held?.cancel();
      held = undefined;
      sink.settle();
      return;
    }
    if (held !== undefined && press?.moved === true) {
      held.drop(here.x, here.y);
      held = undefined;
      return;
    }
    held?.cancel();
    held = undefined;
    if (press !== undefined && !press.moved) {
      tap(press.at, event.timeStamp, event.shiftKey);
      return;
    }
    if (event.timeStamp - moved > 80) velocity = { x: 0, y: 0 }; // the pointer rested before it was lifted
    glide();
  };

  const tap = (here: Point, time: number, out: boolean) => {
    const double =
      tapped !== undefined &&
      time - tapped.time < DOUBLE &&
      Math.hypot(here.x - tapped.at.x, here.y - tapped.at.y) < 3 * WANDER;
    if (double) {
      tapped = undefined;
      sink.zoom(out ? -1 : 1, here.x, here.y, sink.glides);
      if (!sink.glides) sink.settle();
    } else {
      tapped = { at: here, time };
      sink.tap(here.x, here.y);
    }
  };

  /** The map glides on, slower and slower. */
  const glide = () => {
    if (!sink.glides || pushed(velocity, 0) === undefined) {
      sink.settle();
      return;
    }
    let before = performance.now();
    const step = (now: number) => {
      const next = pushed(velocity, Math.max(0, now - before) / 1000);
      before = now;
      if (next === undefined) {
        frame = 0;
        sink.settle();
        return;
      }
      velocity = next.velocity;
      sink.pan(next.dx, next.dy);
      frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
  };

  const onWheel = (event: WheelEvent) => {
    event.preventDefault();
    halt();
    sink.touch('finger');
    const { x, y } = at(event);
    const pixels = event.deltaY * (event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 40 : 1);
    sink.zoom(-pixels / WHEEL_A_LEVEL, x, y, false);
    clearTimeout(wheelTimer);
    wheelTimer = setTimeout(() => sink.settle(), 150);
  };

  const onKey = (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    if (sink.key(event.key)) {
      event.preventDefault();
      return;
    }
    const [x, y] = [element.clientWidth / 2, element.clientHeight / 2];
    const pans: Readonly<Record<string, Point>> = {
      ArrowLeft: { x: KEY_PAN, y: 0 },
      ArrowRight: { x: -KEY_PAN, y: 0 },
      ArrowUp: { x: 0, y: KEY_PAN },
      ArrowDown: { x: 0, y: -KEY_PAN },
    };
    const pan = pans[event.key];
    const zoom = event.key === '+' || event.key === '=' ? 1 : event.key === '-' ? -1 : 0;
    if (pan === undefined && zoom === 0) return;
    event.preventDefault();
    halt();
    if (zoom === 0) sink.touch('key');
    if (zoom !== 0) {
      sink.zoom(zoom, x, y, sink.glides);
      if (!sink.glides) sink.settle();
      return;
    }
    if (pan === undefined) return;
    if (event.shiftKey && pan.x !== 0) sink.turn(pan.x > 0 ? -KEY_TURN : KEY_TURN, x, y);
    else sink.pan(pan.x, pan.y);
    sink.settle();
  };

  element.addEventListener('pointerdown', onDown);
  element.addEventListener('pointermove', onMove);
  element.addEventListener('pointerup', onUp);
  element.addEventListener('pointercancel', onUp);
  element.addEventListener('wheel', onWheel, { passive: false });
  element.addEventListener('keydown', onKey);
  const end = () => {
    halt();
    clearTimeout(holdTimer);
    element.removeEventListener('pointerdown', onDown);
    element.removeEventListener('pointermove', onMove);
    element.removeEventListener('pointerup', onUp);
    element.removeEventListener('pointercancel', onUp);
    element.removeEventListener('wheel', onWheel);
    element.removeEventListener('keydown', onKey);
  };
  return { end, halt };
}
