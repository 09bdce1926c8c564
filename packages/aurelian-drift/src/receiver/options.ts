import {
  abortSignal,
  anything,
  callable,
  checkOptions,
  doubtfulSeconds,
  numberFrom,
  oneOf,
  patienceSeconds,
  seconds,
  someText,
  yesOrNo,
} from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import type { Clock } from './clock.js';
import type { Explain } from './explain.js';
import { PROFILE_NAMES, type ProfileName } from './profiles.js';
import type { Source } from './source.js';
import type { Texts } from '../core/texts/texts.js';
import type { DutyCycling } from './duty-cycling.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import type { Warn } from '../live/warn.js';

/** Options of `Receiver`. */
export interface ReceiverOptions {
  /** Where fixes come from: `browserSource()` in a page. */
  readonly source: Source;
  /** Why the app wants positions, in a sentence for the user. */
  readonly purpose: string;
  /** Default the platform's. */
  readonly clock?: Clock;
  /** Tells of a prompt that comes without the user having acted. Default false. */
  readonly strict?: boolean;
  /** The app needs positions as it starts, so that its first prompt follows on no act of the user. Default false. */
  readonly startUp?: boolean;
  /**
   * Says why before the system asks: a card of the app's own, `<aurelian-consent>` for instance. Default: nothing is
   * said.
   */
  readonly explain?: Explain;
  /** Texts for the user in failures and remedies, from `loadTexts` or of the app's own. Default: English. */
  readonly texts?: Texts | undefined;
  /** Gets what a developer should know; by default the console does. */
  readonly warn?: Warn;
  /** Closes the receiver when it aborts; what waits then is rejected with its reason. */
  readonly signal?: AbortSignalLike;
}

/** Options of `Receiver.fix`. */
export interface FixOptions {
  /** Metres that will do; a coarser fix is waited past, and offered marked `coarse` when patience ends. */
  readonly accuracy?: number;
  /** Seconds to wait for the device; the user's time at a prompt is not counted. Default 30. */
  readonly patience?: number;
  /** Seconds the last fix may be old to be taken instead of a new one. Default 0: always a new one. */
  readonly maxAge?: number;
  /** A named demand, whose metres count where `accuracy` is not given: see `PROFILES`. */
  readonly profile?: ProfileName;
  /** Ends the call, which then rejects with the signal's reason. */
  readonly signal?: AbortSignalLike;
}

/** Options of `Receiver.follow`. */
export interface FollowOptions {
  /** Metres wanted of the device. */
  readonly accuracy?: number;
  /** Seconds, at least, between fixes that pass. Default 0. */
  readonly every?: number;
  /** Metres, at least, between fixes that pass; both `every` and `beyond` must be met. Default 0. */
  readonly beyond?: number;
  /** A named demand, whose figures count where none is given: see `PROFILES`. */
  readonly profile?: ProfileName;
  /** Leaves the receiver off while nothing can happen that a fix is needed for: `dutyCycling()`. Default: it stays on. */
  readonly dutyCycling?: DutyCycling;
  /** Go on while the app is hidden, where the platform lets it; asks for the background level. Default false. */
  readonly background?: boolean;
  /** Words for the sign that the platform shows meanwhile. */
  readonly sign?: string;
  /** Keep the screen on, so that a page stays visible. Default false. */
  readonly keepScreenOn?: boolean;
  /** Seconds without a fix after which it counts as silent. Default 15, or three times `every`. */
  readonly silentAfter?: number;
  /** A name: a follow of that name that runs already is given instead of a second one. */
  readonly name?: string;
  /** An element, or anything that knows whether it is connected; the follow stops once it no longer is. */
  readonly owner?: { readonly isConnected: boolean };
  /** Stops the follow. */
  readonly signal?: AbortSignalLike;
}

/** Seconds that a call waits for the device unless told otherwise. */
export const PATIENCE = 30;

const accuracy = numberFrom(0.1, 1e6, 'metres');
const profile = oneOf(...PROFILE_NAMES);

export function checkReceiver(options: ReceiverOptions): void {
  checkOptions('Receiver', options, {
    source: anything,
    purpose: someText,
    clock: anything,
    strict: yesOrNo,
    startUp: yesOrNo,
    explain: callable,
    texts: anything,
    warn: anything,
    signal: abortSignal,
  });
  // Not every caller is checked by a compiler.
  const { source, purpose } = options as Partial<ReceiverOptions>;
  if (typeof source?.watch !== 'function') {
    throw new InputError('bad-value', 'Receiver: source is missing; in a page, pass browserSource()');
  }
  if (purpose === undefined) {
    throw new InputError(
      'bad-value',
      'Receiver: purpose is missing; say in a sentence why the app wants positions',
    );
  }
}

export function checkFix(options: FixOptions): void {
  checkOptions('fix', options, {
    accuracy,
    patience: patienceSeconds,
    maxAge: seconds,
    profile,
    signal: abortSignal,
  });
}

export function checkFollow(options: FollowOptions): void {
  checkOptions('follow', options, {
    accuracy,
    every: seconds,
    beyond: numberFrom(0, 1e6, 'metres'),
    profile,
    dutyCycling: isDutyCycling,
    background: yesOrNo,
    sign: someText,
    keepScreenOn: yesOrNo,
    silentAfter: seconds,
    name: someText,
    owner: connectable,
    signal: abortSignal,
  });
}

/**
 * A warning for each duration that may have been meant in milliseconds. @param call the name of the call, for the text.
 */
export function doubtfulDurations(call: string, options: FixOptions & FollowOptions): string[] {
  return (['maxAge', 'every', 'silentAfter'] as const).flatMap((name) => {
    const warning = doubtfulSeconds(name, options[name]);
    return warning === undefined ? [] : [`${call}: ${warning}`];
  });
}

function isDutyCycling(value: unknown): string | undefined {
  return typeof (value as { planFor?: unknown } | null)?.planFor === 'function'
    ? undefined
    : 'must be dutyCycling()';
}

function connectable(value: unknown): string | undefined {
  const known =
    typeof value === 'object' &&
    value !== null &&
    typeof (value as { isConnected?: unknown }).isConnected === 'boolean';
  return known ? undefined : 'must be an element, or have isConnected; else pass a signal';
}
