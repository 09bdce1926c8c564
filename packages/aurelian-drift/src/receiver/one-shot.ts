import { isUnsound } from '../core/estimate/fix-order.js';
import { marked, type Fix } from '../core/fix/fix.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import type { Clock } from './clock.js';
import type { Patience } from './patience.js';
import type { WatchUser } from './shared-watch.js';

export interface OneShot {
  /** Sufficient accuracy in metres. */
  readonly accuracy?: number | undefined;
  /** The call waits for as long as it lasts. */
  readonly patience: Patience;
  /** Maximum age in seconds of a stored fix that may be the answer; it is then marked `cached`. */
  readonly maxAge: number;
  readonly signal?: AbortSignalLike | undefined;
  /** Called with each fix that is not good enough, but the best so far. */
  readonly onBetter?: (fix: Fix) => void;
  /** Whether the user shares approximate positions only, so that waiting for better ones is useless. */
  readonly approximate: boolean;
}

/** A shared watch. */
export interface Watchable {
  /** The newest fix of the running watch. */
  readonly newest?: { readonly fix: Fix } | undefined;
  /** The returned function leaves the watch. */
  join(user: WatchUser): () => void;
}

/**
 * One fix from a watch: the first new one with sufficient accuracy; when patience ends, the best new one so far, marked
 * `coarse`; without any, the newest one of a watch that was running before, marked `cached`: some platforms give no fix
 * while the device is still. Otherwise a `NoFixError`. A fix that the platform had stored, or held back, is an answer
 * within `maxAge` only.
 */
export function oneShot(watch: Watchable, clock: Clock, options: OneShot): Promise<Fix> {
  const { accuracy, patience, maxAge, signal, onBetter, approximate } = options;
  return new Promise((resolve, reject) => {
    let best: Fix | undefined;
    let stored: Fix | undefined;
    let signalError: NoFixError | undefined;
    let hidden = '';
    let leave = () => {};
    const call = { done: false };
    const finish = (action: () => void) => {
      if (call.done) return;
      call.done = true;
      leave();
      cancel();
      signal?.removeEventListener('abort', abort);
      action();
    };
    const offerBest = () => {
      const newest = watch.newest?.fix; // before the watch is left
      finish(() => {
        if (best !== undefined) resolve(marked(best, 'coarse'));
        else if (newest !== undefined && isWithin(newest, accuracy)) resolve(marked(newest, 'cached'));
        else
          reject(
            signalError ??
              new NoFixError('timed-out', {
                note: `after ${patience.seconds} s${hidden}${onlyStored(stored, clock)}`,
              }),
          );
      });
    };
    // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- the reason is the caller's own
    const abort = () => finish(() => reject(signal?.reason));
    const cancel = clock.after(patience.left, offerBest);
    signal?.addEventListener('abort', abort);
    leave = watch.join({
      demand: { maxAge: 0, ...(accuracy !== undefined && { accuracy }) },
      fix(fix, more) {
        if (more) return;
        const sufficient = accuracy === undefined || isWithin(fix, accuracy);
        if (fix.marks?.some((mark) => mark === 'stale' || mark === 'late') === true) {
          const age = (clock.now() - fix.time) / 1000;
          if (sufficient && age >= 0 && age <= maxAge) {
            finish(() => resolve(marked({ ...fix, marks: [] }, 'cached')));
          } else stored = fix;
        } else if (isUnsound(fix)) {
          return;
        } else if (sufficient) {
          finish(() => resolve(fix));
        } else if (approximate) {
          finish(() => reject(tooRough(fix, accuracy)));
        } else if (best === undefined || (fix.accuracy ?? Infinity) < (best.accuracy ?? Infinity)) {
          best = fix;
          onBetter?.(fix);
        }
      },
      error(error) {
        // "Unavailable" may pass: platforms report it once while the receiver warms up. Patience decides.
        if (error.kind === 'no-signal') signalError = error;
        else if (error.kind !== 'timed-out') finish(() => reject(error));
      },
      gap() {},
      end: offerBest,
      hidden(outcome) {
        if (outcome === 'pauses') hidden = ', while the app was hidden and its platform gave no positions';
      },
    });
    if (call.done) leave(); // a source that answered at once
  });
}

/** Whether a fix is as accurate as demanded. @param accuracy metres; `undefined`: any will do. */
export function isWithin(fix: Fix, accuracy: number | undefined): boolean {
  return accuracy === undefined || (fix.accuracy !== undefined && fix.accuracy <= accuracy);
}

function onlyStored(stored: Fix | undefined, clock: Clock): string {
  if (stored === undefined) return '';
  const seconds = Math.round((clock.now() - stored.time) / 1000);
  return `; only a stored fix came, ${seconds < 0 ? 'dated in the future' : `${seconds} s old`}`;
}

function tooRough(fix: Fix, accuracy: number): NoFixError {
  const shared = fix.accuracy === undefined ? 'without a stated radius' : `±${fix.accuracy} m`;
  return new NoFixError('approximate-only', {
    note: `${accuracy} m was asked, and what is shared is ${shared}`,
    ...(fix.accuracy !== undefined && { radius: fix.accuracy }),
  });
}
