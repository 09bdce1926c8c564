import type { Fix } from '../core/fix/fix.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { systemClock, type Clock } from './clock.js';

/**
 * The age of a live fix in whole seconds, live: it grows by itself, second by second, while somebody listens;
 * `undefined` without a fix. A fix that is dated in the future has the age 0.
 *
 * @param clock default: the clock of the platform.
 */
export function ageOf(
  $fix: LiveValue<Fix | undefined>,
  clock: Clock = systemClock,
): LiveValue<number | undefined> {
  const now = () => {
    const fix = $fix.get();
    return fix === undefined ? undefined : Math.max(0, Math.floor((clock.now() - fix.time) / 1000));
  };
  const age = liveValue(now());
  let listeners = 0;
  let cancel = () => {};
  let unlisten = () => {};
  const update = () => {
    cancel();
    age.set(now());
    const fix = $fix.get();
    if (fix === undefined) return;
    const seconds = (clock.now() - fix.time) / 1000;
    cancel = clock.after(seconds < 0 ? -seconds + 1 : 1 - (seconds % 1), update);
  };
  /** Ticks while there is a listener. */
  const counted =
    (add: LiveValue<number | undefined>['subscribe']): typeof add =>
    (listener) => {
      if (listeners++ === 0) {
        unlisten = $fix.listen(update);
        update();
      }
      const remove = add(listener);
      let listens = true;
      return () => {
        remove();
        if (!listens) return;
        listens = false;
        if (--listeners > 0) return;
        unlisten();
        cancel();
      };
    };
  return { get: now, subscribe: counted(age.subscribe), listen: counted(age.listen), initial: undefined };
}
