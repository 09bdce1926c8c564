import { pushed } from '../core/scene/flight.js';
import { pointIn, type GestureSink, type Held, type Listening, type Point } from './gesture-sink.js';

/** Pixels that a finger may move during a tap or hold; milliseconds of a hold, and between the taps of a double tap. */
const WANDER = 8;
const HOLD = 550;
const DOUBLE = 300;
/** Degrees that two fingers must turn before the map turns, so that a pinch stays a pinch. */
const TURN_FROM = 12;

/** Drags, pinches, turns, taps and holds by mouse, touch and pen. @param halt stops all movement. */
export function listenToPointers(element: HTMLElement, sink: GestureSink, halt: () => void): Listening {
  const pointers = new Map<number, Point>();
  let down: { at: Point; time: number; moved: boolean } | undefined;
  let held: Held | undefined;
  let holdTimer: ReturnType<typeof setTimeout> | undefined;
  let velocity: Point = { x: 0, y: 0 };
  let moved = 0;
  let twist = 0;
  let twisting = false;
  let frame = 0;
  /** The last place of a pointer that drags something. */
  let dragged: Point | undefined;
  /** A tap that waits whether a second one follows. */
  let waiting: { at: Point; time: number; report(): void; timer: ReturnType<typeof setTimeout> } | undefined;

  const at = (event: MouseEvent): Point => pointIn(element, event);
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
  const stop = () => {
    cancelAnimationFrame(frame);
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
    if (sink.sharing === 'shared' && event.pointerType === 'touch' && held === undefined) return; // the page's
    if (held !== undefined) {
      dragged = now;
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
    dragged = undefined;
    if (event.type === 'pointercancel') {
      // The page has taken the finger, to scroll.
      if (sink.sharing === 'shared' && event.pointerType === 'touch' && held === undefined)
        sink.hint('finger');
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
    const first = waiting;
    clearTimeout(first?.timer);
    waiting = undefined;
    const double =
      first !== undefined &&
      time - first.time < DOUBLE &&
      Math.hypot(here.x - first.at.x, here.y - first.at.y) < 3 * WANDER;
    if (double) {
      sink.zoom(out ? -1 : 1, here.x, here.y, sink.glides);
      if (!sink.glides) sink.settle();
      return;
    }
    first?.report();
    const { taken, report } = sink.tap(here.x, here.y);
    if (taken) {
      report();
      return;
    }
    const late = () => {
      waiting = undefined;
      report();
    };
    waiting = { at: here, time, report, timer: setTimeout(late, DOUBLE) };
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

  /** What the map takes of a touch, the page does not scroll with. */
  const onTouch = (event: TouchEvent) => {
    if ((event.touches.length > 1 || held !== undefined) && event.cancelable) event.preventDefault();
  };

  element.addEventListener('pointerdown', onDown);
  element.addEventListener('pointermove', onMove);
  element.addEventListener('pointerup', onUp);
  element.addEventListener('pointercancel', onUp);
  element.addEventListener('touchstart', onTouch, { passive: false });
  element.addEventListener('touchmove', onTouch, { passive: false });
  return {
    end() {
      stop();
      clearTimeout(holdTimer);
      clearTimeout(waiting?.timer);
      element.removeEventListener('pointerdown', onDown);
      element.removeEventListener('pointermove', onMove);
      element.removeEventListener('pointerup', onUp);
      element.removeEventListener('pointercancel', onUp);
      element.removeEventListener('touchstart', onTouch);
      element.removeEventListener('touchmove', onTouch);
    },
    halt: stop,
    again() {
      if (dragged !== undefined) held?.move(dragged.x, dragged.y);
    },
  };
}
