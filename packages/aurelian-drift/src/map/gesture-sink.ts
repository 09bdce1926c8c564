/** Who has the wheel and one finger on a map. */
export const GESTURE_SHARINGS = ['own', 'shared'] as const;
/**
 * Who has the wheel and one finger on a map: the map alone, or the page, which scrolls with them, while two fingers and
 * the wheel with a modifier key are for the map.
 */
export type GestureSharing = (typeof GESTURE_SHARINGS)[number];

/** Something on the map that the user drags. */
export interface Held {
  move(x: number, y: number): void;
  drop(x: number, y: number): void;
  /** The drag was cancelled. */
  cancel(): void;
}

/** A short press that is not reported yet. */
export interface Tap {
  /** Whether something at its place takes taps. */
  readonly taken: boolean;
  readonly report: () => void;
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
  /** A short press, which is reported at once if something there takes taps, else when no second one follows. */
  tap(x: number, y: number): Tap;
  hold(x: number, y: number): void;
  /** What the pointer drags; `undefined` for the map itself. */
  grab(x: number, y: number): Held | undefined;
  /** Keys with another meaning than moving the map. Returns whether it was one. */
  key(key: string): boolean;
  /** The user tried to move a shared map with what belongs to the page. */
  hint(by: 'finger' | 'wheel'): void;
  /** Whether animations are allowed: not under reduced motion. */
  readonly glides: boolean;
  readonly sharing: GestureSharing;
}

/** A kind of input that is listened to. */
export interface Listening {
  end(): void;
  /** Stops what still moves. */
  halt(): void;
  /** The view moved under the pointer: what it drags stays under it. */
  again?(): void;
}

/** A pixel of the map's own box. */
export interface Point {
  readonly x: number;
  readonly y: number;
}

/** The pixel of an event in the box of an element, also where the page shows that enlarged or reduced. */
export function pointIn(element: HTMLElement, event: MouseEvent): Point {
  const box = element.getBoundingClientRect();
  const [across, down] = [element.offsetWidth / box.width || 1, element.offsetHeight / box.height || 1];
  return { x: (event.clientX - box.left) * across, y: (event.clientY - box.top) * down };
}
