import { consoleWarn, type Warn } from '../live/warn.js';
import { holdScreenOn } from '../sources/screen-wake.js';

/**
 * Keeps the screen on (Screen Wake Lock, W3C), for a screen that is looked at without a touch: until the returned
 * function is called. Calling that twice is harmless. The system lets the screen go dark all the same while the page is
 * hidden.
 *
 * @param warn is told once where the browser lacks it, or refuses. Default: the console.
 */
export function keepScreenOn(warn: Warn = consoleWarn): () => void {
  let over = false;
  let release: (() => void) | undefined;
  void holdScreenOn().then((held) => {
    if (held === undefined)
      warn('the screen is not kept on: this browser has no wake lock, or refuses it now');
    else if (over) held();
    else release = held;
  });
  return () => {
    over = true;
    release?.();
    release = undefined;
  };
}
