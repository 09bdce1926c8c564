import { Emitter } from '../live/emitter.js';
import { isolated, warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import type { Life, LifeEvent } from '../receiver/life.js';
import { PageRun } from './page-run.js';

/** The run of this page, made with its first source. */
let pageRun: PageRun | undefined;

/**
 * Life cycle of a page (HTML, Page Visibility; Page Lifecycle where a browser has it): hidden and shown; frozen and
 * restored, also in the back-forward cache; closed. A kill is found at the next start in the same tab: the page was
 * following then, and did not end.
 */
export function pageLife(): Life & { readonly running: (running: boolean) => void } {
  const onListenerError = warnOfListener('a life', consoleWarn);
  const events = new Emitter<LifeEvent>(onListenerError);
  const run = (pageRun ??= new PageRun());
  const self = {};
  const report = (kind: LifeEvent['kind']) => events.emit({ kind });
  const hidden = () => {
    run.note();
    report(document.visibilityState === 'hidden' ? 'hidden' : 'shown');
  };
  const pagehide = (event: PageTransitionEvent) => {
    run.leave();
    report(event.persisted ? 'frozen' : 'closed');
  };
  const pageshow = (event: PageTransitionEvent) => {
    run.comeBack();
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
      // Each listener is told once, whichever source it listens to.
      const early = { over: false };
      void run.killed.then((time) => {
        if (time !== undefined && !early.over) isolated(listener, onListenerError)({ kind: 'killed', time });
      });
      return () => {
        early.over = true;
        remove();
        if (events.size === 0) on('removeEventListener');
      };
    },
    running: (running) => run.set(self, running),
  };
}
