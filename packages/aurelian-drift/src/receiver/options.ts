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
  /** Purpose of the positions, in a sentence for the user. */
  readonly purpose: string;
  /** Clock of the receiver. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Report a prompt without a preceding user action as a diagnostic. Default false. */
  readonly strict?: boolean;
  /** The app needs positions at its start, so the first prompt follows no user action. Default false. */
  readonly startUp?: boolean;
  /**
   * Explains the purpose before the system asks, such as `explain` of `<aurelian-consent>`. Default: no explanation.
   */
  readonly explain?: Explain;
  /** Texts for the user in failures and remedies, from `loadTexts` or of the app's own. Default: English. */
  readonly texts?: Texts | undefined;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
  /** Closes the receiver when it aborts; pending calls are rejected with its reason. */
  readonly signal?: AbortSignalLike;
}

/** Options of `Receiver.fix`. */
export interface FixOptions {
  /**
   * Sufficient accuracy in metres. The call waits for a better fix than a coarser one, and gives the coarser one,
   * marked `coarse`, when patience ends.
   */
  readonly accuracy?: number;
  /** Maximum seconds to wait for the device; the user's time at a prompt is not counted. Default 30. */
  readonly patience?: number;
  /** Maximum age of the last fix, in seconds, to be used instead of a new one. Default 0: always a new one. */
  readonly maxAge?: number;
  /** A profile of `PROFILES`: its accuracy applies where `accuracy` is absent. */
  readonly profile?: ProfileName;
  /** Cancels the call, which then rejects with the reason of the signal. */
  readonly signal?: AbortSignalLike;
}

/** Options of `Receiver.follow`. */
export interface FollowOptions {
  /** Wanted accuracy in metres. */
  readonly accuracy?: number;
  /** Minimum seconds between fixes that pass. Default 0. */
  readonly every?: number;
  /** Minimum metres between fixes that pass; both `every` and `beyond` must be reached. Default 0. */
  readonly beyond?: number;
  /** A profile of `PROFILES`: its figures apply where an option is absent. */
  readonly profile?: ProfileName;
  /** Switches the receiver off while no fix is needed: `dutyCycling()`. Default: it stays on. */
  readonly dutyCycling?: DutyCycling;
  /** Continue while the app is hidden, where the platform allows it; asks for the background level. Default false. */
  readonly background?: boolean;
  /** Text of the notification that the platform shows while the app is hidden. */
  readonly sign?: string;
  /** Keep the screen on, so that a page stays visible. Default false. */
  readonly keepScreenOn?: boolean;
  /** Seconds without a fix after which the follow is silent. Default: 15, or three times `every` if that is longer. */
  readonly silentAfter?: number;
  /** A name. If a follow with this name is running, it is returned instead of a second one. */
  readonly name?: string;
  /** An element, or another object with `isConnected`. The follow stops when it is no longer connected. */
  readonly owner?: { readonly isConnected: boolean };
  /** Stops the follow. */
  readonly signal?: AbortSignalLike;
}

/** Default patience of a call, in seconds. */
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
  // Callers in JavaScript are not checked by a compiler.
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

/** Warnings for durations that were probably meant in milliseconds. @param call name of the call, for the text. */
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
