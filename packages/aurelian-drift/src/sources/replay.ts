import type { Trail } from '../core/trail/trail.js';
import { OPEN_ACCESS } from '../receiver/access.js';
import type { Clock } from '../receiver/clock.js';
import type { Source } from '../receiver/source.js';

/**
 * Plays a recorded trail: each fix at its own time on the clock, and gaps between segments as gaps. Fixes from before
 * the start of the watch are skipped; at the end of the trail the source ends.
 *
 * An origin that the recording does not state becomes `replayed`.
 */
export function replaySource(trail: Trail, clock: Clock): Source {
  return {
    name: trail.name === undefined ? 'the recording' : `the recording "${trail.name}"`,
    supported: true,
    keepsTimes: true,
    readAccess: () => Promise.resolve(OPEN_ACCESS),
    prompt: () => Promise.resolve(),
    watch(_demand, sink) {
      const starts = new Set(trail.segments.map((segment) => segment.start));
      let index = 0;
      let open = true;
      let cancel = () => {};
      while (index < trail.length && trail.number(index, 'time') < clock.now()) index++;
      const next = () => {
        if (!open) return;
        if (index >= trail.length) {
          sink.end();
          return;
        }
        cancel = clock.after(Math.max(0, (trail.number(index, 'time') - clock.now()) / 1000), () => {
          const fix = trail.at(index);
          if (fix === undefined) return;
          if (index > 0 && starts.has(index)) sink.gap();
          index++;
          sink.fix(fix.origin === 'unknown' ? { ...fix, origin: 'replayed' } : fix);
          next();
        });
      };
      next();
      return () => {
        open = false;
        cancel();
      };
    },
  };
}
