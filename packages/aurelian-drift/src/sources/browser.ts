import { anything, checkOptions, oneOf } from '../core/check/options.js';
import type { Texts } from '../core/texts/texts.js';
import type { Source } from '../receiver/source.js';
import { accessChanges } from './browser-access-changes.js';
import { browserPositioning, lastPosition } from './browser-positioning.js';
import { showNote, showUnhandledRejections } from './on-screen-note.js';
import { pageLife } from './page-life.js';
import { holdScreenOn } from './screen-wake.js';

/** Options of `browserSource`. */
export interface BrowserSourceOptions {
  /** Whether a failure that nobody handles is shown on the page: `shown` (default) or `silent`. */
  readonly notes?: 'shown' | 'silent';
  /** Texts of the note. Default: English. */
  readonly texts?: Texts | undefined;
}

/**
 * The browser as a source: its positioning interface, the life cycle of the page, keeping the screen on, and a note on
 * the page for failures that nobody handles.
 */
export function browserSource(options: BrowserSourceOptions = {}): Source {
  checkOptions('browserSource', options, { notes: oneOf('shown', 'silent'), texts: anything });
  const noted = options.notes !== 'silent';
  const positioning = browserPositioning();
  const life = typeof document === 'undefined' ? undefined : pageLife();
  return {
    ...positioning,
    onEvent(listener) {
      const ends = [accessChanges(positioning, () => listener({ kind: 'access' }))];
      if (noted) ends.push(showUnhandledRejections(options.texts));
      return () => {
        for (const end of ends.splice(0)) end();
      };
    },

    watch(demand, sink) {
      const release = positioning.watch(demand, sink);
      life?.running(true);
      return () => {
        life?.running(false);
        release();
      };
    },

    ...(positioning.supported && { cached: lastPosition }),
    keepScreenOn: holdScreenOn,
    // A browser delivers no positions to a hidden page.
    whenHidden: () => 'pauses',
    userActing: () => (navigator as Partial<Navigator>).userActivation?.isActive,
    minInterval: 1,
    ...(life !== undefined && { life }),

    showUnhandled(error) {
      if (noted) showNote(error);
    },
  };
}
