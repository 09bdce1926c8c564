import type { Lifetime } from '../live/lifetime.js';
import type { Clock } from './clock.js';

/** A clock whose alarms are cancelled when a lifetime ends. */
export function ownClock(clock: Clock, lifetime: Lifetime): Clock {
  return {
    now: () => clock.now(),
    ...(clock.steady !== undefined && { steady: () => clock.steady?.() ?? NaN }),
    after(seconds, action) {
      if (lifetime.aborted) return () => {};
      const cancel = clock.after(seconds, () => {
        forget();
        action();
      });
      const forget = lifetime.add(cancel);
      return () => {
        forget();
        cancel();
      };
    },
  };
}
