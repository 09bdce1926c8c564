import type { GestureSink, Listening, Point } from './gesture-sink.js';

/** Pixels per arrow key, and degrees with shift. */
const KEY_PAN = 80;
const KEY_TURN = 15;

/** Moves the map by keys. @param halt stops all movement. */
export function listenToKeys(element: HTMLElement, sink: GestureSink, halt: () => void): Listening {
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

  element.addEventListener('keydown', onKey);
  return { end: () => element.removeEventListener('keydown', onKey), halt: () => {} };
}
