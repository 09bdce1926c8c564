import type { Clock } from 'aurelian-drift';

/** A clock that counts the pending alarms. */
export function countingClock(clock: Clock) {
  const set = new Set<object>();
  return {
    set,
    now: () => clock.now(),
    after(seconds: number, action: () => void) {
      const alarm = {};
      set.add(alarm);
      const cancel = clock.after(seconds, () => {
        set.delete(alarm);
        action();
      });
      return () => {
        set.delete(alarm);
        cancel();
      };
    },
  };
}
