import { pointIn, type GestureSink, type Listening } from './gesture-sink.js';

/** Wheel pixels per zoom level: one notch of a usual wheel is 100. */
const WHEEL_A_LEVEL = 400;
/** A pinch on a trackpad reports the wheel with Ctrl and a hundred times the natural logarithm of its scale. */
const PINCH_A_LEVEL = 100 * Math.LN2;
/** A notch of a wheel has at least so many pixels; an event of a pinch has fewer. */
const NOTCH = 50;
/** Pixels of a line, and of a page, for wheels that count them. */
const LINE = 40;
const PAGE = 400;
/** Milliseconds after the last event at which the gesture has ended. */
const QUIET = 150;

/** Zooms by the wheel and by a pinch on a trackpad. @param halt stops all movement. */
export function listenToWheel(element: HTMLElement, sink: GestureSink, halt: () => void): Listening {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const onWheel = (event: WheelEvent) => {
    if (sink.sharing === 'shared' && !event.ctrlKey && !event.metaKey) {
      if (event.deltaY !== 0) sink.hint('wheel');
      return;
    }
    event.preventDefault();
    if (event.deltaY === 0) return;
    halt();
    sink.touch('finger');
    const { x, y } = pointIn(element, event);
    sink.zoom(-levelsOf(event), x, y, false);
    timer = setTimeout(() => sink.settle(), QUIET);
  };
  element.addEventListener('wheel', onWheel, { passive: false });
  return {
    end() {
      clearTimeout(timer);
      element.removeEventListener('wheel', onWheel);
    },
    halt: () => clearTimeout(timer),
  };
}

/** Levels of zoom outwards. */
function levelsOf({ deltaY, deltaMode, ctrlKey }: WheelEvent): number {
  if (deltaMode === WheelEvent.DOM_DELTA_PIXEL && ctrlKey && Math.abs(deltaY) < NOTCH)
    return deltaY / PINCH_A_LEVEL;
  const unit =
    deltaMode === WheelEvent.DOM_DELTA_LINE ? LINE : deltaMode === WheelEvent.DOM_DELTA_PAGE ? PAGE : 1;
  return (deltaY * unit) / WHEEL_A_LEVEL;
}
