import type { GestureSink, Listening } from './gesture-sink.js';
import { listenToKeys } from './key-gestures.js';
import { listenToPointers } from './pointer-gestures.js';
import { listenToWheel } from './wheel-gestures.js';

/** Listens to mouse, touch, pen, wheel and keys on an element. */
export function listenToGestures(element: HTMLElement, sink: GestureSink): Required<Listening> {
  let parts: readonly Listening[] = [];
  const halt = () => parts.forEach((part) => part.halt());
  parts = [
    listenToPointers(element, sink, halt),
    listenToWheel(element, sink, halt),
    listenToKeys(element, sink, halt),
  ];
  return {
    end: () => parts.forEach((part) => part.end()),
    halt,
    again: () => parts.forEach((part) => part.again?.()),
  };
}
