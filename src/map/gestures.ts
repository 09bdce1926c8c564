/** What a hand does to the map, in pixels of the map's own box. */
export interface GestureSink {
  pan(dx: number, dy: number): void;
  /** Zoom by so many levels, with the place under the pixel staying there. */
  zoom(by: number, x: number, y: number): void;
  /** The hand has let go. */
  settle(): void;
}

/** Pixels of wheel for one level of zoom: a usual wheel's notch is 100. */
const WHEEL_A_LEVEL = 400;
/** Pixels an arrow key moves the map. */
const KEY_PAN = 80;

/**
 * Listens to mouse, touch, pen, wheel and keys on an element. Returns what ends that.
 */
export function listenToGestures(element: HTMLElement, sink: GestureSink): () => void {
  const pointers = new Map<number, { x: number; y: number }>();
  const at = (event: MouseEvent) => {
    const box = element.getBoundingClientRect();
    return { x: event.clientX - box.left, y: event.clientY - box.top };
  };
  const spread = () => {
    const [a, b] = [...pointers.values()];
    if (a === undefined || b === undefined) return undefined;
    return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, size: Math.hypot(a.x - b.x, a.y - b.y) };
  };

  const down = (event: PointerEvent) => {
    if (event.button !== 0) return;
    element.setPointerCapture(event.pointerId);
    pointers.set(event.pointerId, at(event));
  };
  const move = (event: PointerEvent) => {
    const before = pointers.get(event.pointerId);
    if (before === undefined) return;
    const now = at(event);
    const pinch = spread();
    pointers.set(event.pointerId, now);
    if (pinch === undefined) {
      sink.pan(now.x - before.x, now.y - before.y);
      return;
    }
    const next = spread();
    if (next === undefined) return;
    sink.pan(next.x - pinch.x, next.y - pinch.y);
    if (pinch.size > 0 && next.size > 0) sink.zoom(Math.log2(next.size / pinch.size), next.x, next.y);
  };
  const up = (event: PointerEvent) => {
    if (pointers.delete(event.pointerId) && pointers.size === 0) sink.settle();
  };
  let wheelTimer: ReturnType<typeof setTimeout> | undefined;
  const wheel = (event: WheelEvent) => {
    event.preventDefault();
    const { x, y } = at(event);
    const pixels = event.deltaY * (event.deltaMode === WheelEvent.DOM_DELTA_LINE ? 40 : 1);
    sink.zoom(-pixels / WHEEL_A_LEVEL, x, y);
    clearTimeout(wheelTimer);
    wheelTimer = setTimeout(() => sink.settle(), 150);
  };
  const double = (event: MouseEvent) => {
    const { x, y } = at(event);
    sink.zoom(event.shiftKey ? -1 : 1, x, y);
    sink.settle();
  };
  const key = (event: KeyboardEvent) => {
    const pans: Record<string, [number, number]> = {
      ArrowLeft: [KEY_PAN, 0],
      ArrowRight: [-KEY_PAN, 0],
      ArrowUp: [0, KEY_PAN],
      ArrowDown: [0, -KEY_PAN],
    };
    const pan = pans[event.key];
    const zoom = event.key === '+' || event.key === '=' ? 1 : event.key === '-' ? -1 : 0;
    if ((pan === undefined && zoom === 0) || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    if (pan !== undefined) sink.pan(...pan);
    else sink.zoom(zoom, element.clientWidth / 2, element.clientHeight / 2);
    sink.settle();
  };

  element.addEventListener('pointerdown', down);
  element.addEventListener('pointermove', move);
  element.addEventListener('pointerup', up);
  element.addEventListener('pointercancel', up);
  element.addEventListener('wheel', wheel, { passive: false });
  element.addEventListener('dblclick', double);
  element.addEventListener('keydown', key);
  return () => {
    clearTimeout(wheelTimer);
    element.removeEventListener('pointerdown', down);
    element.removeEventListener('pointermove', move);
    element.removeEventListener('pointerup', up);
    element.removeEventListener('pointercancel', up);
    element.removeEventListener('wheel', wheel);
    element.removeEventListener('dblclick', double);
    element.removeEventListener('keydown', key);
  };
}
