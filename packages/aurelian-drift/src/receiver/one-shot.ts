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
  readonly signal?: AbortSignalLike | undefined;
  /** Whether the user shares approximate positions only, so that waiting for better ones is useless. */
  readonly approximate: boolean;
}

/** A shared watch. The returned function leaves it. */
export interface Watchable {
  join(user: WatchUser): () => void;
}

/**
 * One fix from a watch: the first with sufficient accuracy; when patience ends, the best so far, marked `coarse`;
 * otherwise a `NoFixError`.
 */
export function oneShot(watch: Watchable, clock: Clock, options: OneShot): Promise<Fix> {
  const { accuracy, patience, signal, approximate } = options;
  return new Promise((resolve, reject) => {
    let best: Fix | undefined;
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
    const offerBest = () =>
      finish(() => {
        if (best !== undefined) resolve(marked(best, 'coarse'));
        else
          reject(
            signalError ?? new NoFixError('timed-out', { note: `after ${patience.seconds} s${hidden}` }),
          );
      });
    // eslint-disable-next-line @typescript-eslint/prefer-promise-reject-errors -- the reason is the caller's own
    const abort = () => finish(() => reject(signal?.reason));
    const cancel = clock.after(patience.left, offerBest);
    signal?.addEventListener('abort', abort);
    leave = watch.join({
      demand: { maxAge: 0, ...(accuracy !== undefined && { accuracy }) },
      fix(fix, more) {
        if (more || isUnsound(fix)) return;
        if (accuracy === undefined || (fix.accuracy !== undefined && fix.accuracy <= accuracy)) {
          finish(() => resolve(fix));
        } else if (approximate) {
          finish(() => reject(tooRough(fix, accuracy)));
        } else if (best === undefined || (fix.accuracy ?? Infinity) < (best.accuracy ?? Infinity)) {
          best = fix;
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

function tooRough(fix: Fix, accuracy: number): NoFixError {
  const shared = fix.accuracy === undefined ? 'without a stated radius' : `±${fix.accuracy} m`;
  return new NoFixError('approximate-only', {
    note: `${accuracy} m was asked, and what is shared is ${shared}`,
    ...(fix.accuracy !== undefined && { radius: fix.accuracy }),
  });
}
