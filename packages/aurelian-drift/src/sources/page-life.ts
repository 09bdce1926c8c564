import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import type { Life, LifeEvent } from '../receiver/life.js';

/** Key under which a page stores that it follows, so that its next start knows whether it was killed. */
const RUNNING = 'aurelian-drift/running';

/**
 * Life cycle of a page (HTML, Page Visibility; Page Lifecycle where a browser has it): hidden and shown; frozen and
 * restored, also in the back-forward cache; closed. A kill is found at the next start in the same tab: the page was
 * running then, and did not end.
 */
export function pageLife(): Life & { readonly running: (running: boolean) => void } {
  const events = new Emitter<LifeEvent>(warnOfListener('a life', consoleWarn));
  let noted = false;
  /** Data of an earlier run, for the first listener. */
  let killedAt = read();
  const report = (kind: LifeEvent['kind']) => events.emit({ kind });
  const note = () => {
    if (noted) write(String(Date.now()));
  };
  const hidden = () => {
    note();
    report(document.visibilityState === 'hidden' ? 'hidden' : 'shown');
  };
  const pagehide = (event: PageTransitionEvent) => {
    if (!event.persisted) write(undefined);
    report(event.persisted ? 'frozen' : 'closed');
  };
  const pageshow = (event: PageTransitionEvent) => {
    if (event.persisted) report('restored');
  };
  const freeze = () => report('frozen');
  const resume = () => report('restored');
  const on = (toggle: 'addEventListener' | 'removeEventListener') => {
    document[toggle]('visibilitychange', hidden);
    document[toggle]('freeze', freeze);
    document[toggle]('resume', resume);
    window[toggle]('pagehide', pagehide as EventListener);
    window[toggle]('pageshow', pageshow as EventListener);
  };
  return {
    get hidden() {
      return document.visibilityState === 'hidden';
    },
    onEvent(listener) {
      if (events.size === 0) on('addEventListener');
      const remove = events.onEvent(listener);
      const found = killedAt;
      killedAt = undefined;
      if (found !== undefined) queueMicrotask(() => events.emit({ kind: 'killed', time: found }));
      return () => {
        remove();
        if (events.size === 0) on('removeEventListener');
      };
    },
    running(running) {
      noted = running;
      if (running) note();
      else write(undefined);
    },
  };
}

function read(): number | undefined {
  try {
    const time = Number(sessionStorage.getItem(RUNNING) ?? NaN);
    sessionStorage.removeItem(RUNNING);
    return Number.isFinite(time) ? time : undefined;
  } catch {
    return undefined; // storage is blocked here
  }
}

function write(text: string | undefined): void {
  try {
    if (text === undefined) sessionStorage.removeItem(RUNNING);
    else sessionStorage.setItem(RUNNING, text);
  } catch {
    // storage is barred here, and a kill will not be noticed
  }
}
