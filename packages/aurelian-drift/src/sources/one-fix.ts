import type { Texts } from '../core/texts/texts.js';
import { abortSignal, anything, checkOptions, numberFrom, patienceSeconds } from '../core/check/options.js';
import { CLOCK_SLACK, UNANSWERED, isInStep, type Arrival } from '../core/estimate/freshness.js';
import { marked, type Fix, type RawFix } from '../core/fix/fix.js';
import { salvage } from '../core/fix/salvage.js';
import { noFixError } from '../core/fix/no-fix-error.js';
import { abortable } from '../receiver/abortable.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { Ladder } from '../receiver/ladder.js';
import { oneShot, type Watchable } from '../receiver/one-shot.js';
import { PATIENCE, type FixOptions } from '../receiver/options.js';
import { Patience } from '../receiver/patience.js';
import type { Source } from '../receiver/source.js';
import { throwIfAborted } from '../live/abort-signal.js';
import { consoleWarn } from '../live/warn.js';
import { browserPositioning } from './browser-positioning.js';

/** Options of `oneFix`. */
export interface OneFixOptions extends Pick<FixOptions, 'accuracy' | 'patience' | 'signal'> {
  /** Texts for the user in a failure. Default: English. */
  readonly texts?: Texts | undefined;
  /** Source of the fix. Default: the browser. */
  readonly source?: Source;
  /** Clock of the call. Default: the clock of the platform. */
  readonly clock?: Clock;
}

/**
 * Gets one fix and nothing else, for small pages: all steps to a permission, then the device, as in `Receiver.fix`. It
 * has no live values, no sharing among callers, and no following; an app that needs those keeps a `Receiver`.
 *
 * @throws {NoFixError} with the kind of failure, or the reason of the signal.
 * @throws {InputError} for an invalid option.
 */
export async function oneFix(options: OneFixOptions = {}): Promise<Fix> {
  checkOptions('oneFix', options, {
    accuracy: numberFrom(0.1, 1e6, 'metres'),
    patience: patienceSeconds,
    signal: abortSignal,
    source: anything,
    clock: anything,
    texts: anything,
  });
  const { source = browserPositioning(), clock = systemClock, accuracy, signal } = options;
  const patience = new Patience(clock, options.patience ?? PATIENCE);
  const ladder = new Ladder({
    source,
    clock,
    diagnostics: { report: (_kind, text, cause) => consoleWarn(text, cause) },
    texts: options.texts,
    introduce: () => Promise.resolve('go-on'),
    onAccess() {},
    onAsking() {},
  });
  throwIfAborted(signal);
  try {
    const demand = { maxAge: 0, ...(accuracy !== undefined && { accuracy }) };
    const access = await abortable(
      ladder.climb(demand, () => 'foreground', patience),
      signal,
    );
    const approximate = access.precision === 'approximate';
    const shot = { accuracy, patience, maxAge: 0, signal, approximate };
    return await oneShot(watchOf(source, clock), clock, shot);
  } catch (cause) {
    throwIfAborted(signal);
    throw ladder.remedied(noFixError(cause));
  }
}

/** The watch of a source, for one user: fixes are checked, and other data is left out. */
function watchOf(source: Source, clock: Clock): Watchable {
  return {
    join(user) {
      let doubted: Arrival | undefined;
      let unanswered = () => {};
      const take = (raw: RawFix) => {
        const { fix, problems } = salvage(raw);
        for (const problem of problems)
          consoleWarn(`${source.name} gave an impossible fix or value, which is left out: ${problem}`);
        if (fix === undefined) return;
        const { time } = fix;
        const now = clock.now();
        // A device whose clock is wrong is known by its second fix, which arrives as long after the first as its time
        // says.
        const isStale =
          source.keepsTimes !== true && Math.abs(now - time) > CLOCK_SLACK && !isInStep(doubted, time, now);
        unanswered();
        if (isStale) {
          doubted = { time, now };
          if (source.honoursMaxAge === true)
            unanswered = clock.after(UNANSWERED, () => user.fix(marked(fix, 'cached'), false));
        }
        user.fix(isStale ? marked(fix, 'stale') : fix, false);
      };
      const release = source.watch(user.demand, {
        fix: take,
        bundle: (raws) => raws.forEach(take),
        error: (error) => user.error(error),
        gap() {},
        end: () => user.end(),
      });
      return () => {
        unanswered();
        release();
      };
    },
  };
}
