import type { Pause } from '../core/estimate/sampling-plan.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { AccessLevel } from './access.js';

/** Status of a follow. A state has only the fields that make sense in it. */
export type FollowStatus =
  /** Waiting for the first fix, since this time. Times are milliseconds since 1970 UTC. */
  | { readonly state: 'waiting'; readonly since: number }
  /** Fixes come, and the user moves. */
  | { readonly state: 'live' }
  /** Fixes come, and the user has not left their place since that time. */
  | { readonly state: 'still'; readonly since: number }
  /** Nothing has come since that time: the last fix, or the start of the watch. */
  | { readonly state: 'silent'; readonly since: number }
  /** The app is hidden, and this follow does not go on meanwhile. */
  | { readonly state: 'paused'; readonly since: number }
  | { readonly state: 'failed'; readonly error: NoFixError }
  /** Stopped through its handle, its owner or its signal; or ended with its source. */
  | { readonly state: 'stopped' }
  | { readonly state: 'ended' };

/** How a follow ended. */
export type FollowOutcome = 'stopped' | 'ended' | 'failed';

/** Events of a follow beside its fixes: one object with a `kind`. */
export type FollowEvent =
  /** The next fix does not continue the path: a new segment begins. */
  | { readonly kind: 'gap' }
  /** The device has lost its position; the follow goes on by itself when it is back. */
  | { readonly kind: 'outage'; readonly error: NoFixError }
  /**
   * No fix has come since that time, milliseconds since 1970 UTC, for longer than `silentAfter`, whether or not an
   * outage was reported. Told once, while it lasts; `recovered` follows with the next fix.
   */
  | { readonly kind: 'silent'; readonly since: number }
  /** Fixes come again after an outage or a silence. */
  | { readonly kind: 'recovered' }
  /**
   * The receiver is left off until then, milliseconds since 1970 UTC: at rest, until the next fix that is asked for, or
   * until an edge can be reached.
   */
  | { readonly kind: 'receiver-off'; readonly until: number; readonly reason: Pause['reason'] }
  /** The app was hidden. It pauses, or it goes on, with a visible sign if the platform wants one. */
  | { readonly kind: 'paused' }
  | { readonly kind: 'continues'; readonly sign: boolean }
  /** The app is back in front. */
  | { readonly kind: 'resumed' }
  /** Told at the start: this platform gives positions only while the app is visible. */
  | { readonly kind: 'visible-only'; readonly keepScreenOn?: () => Promise<boolean> }
  /**
   * The background was asked for, and less is granted: at the start, or when the level is lowered during the follow.
   * The events `paused` and `continues` tell what that means when the app is hidden.
   */
  | { readonly kind: 'less-than-asked'; readonly granted: AccessLevel }
  /**
   * The user shares approximate positions only, of this radius in metres: at the start, where a better accuracy was
   * asked for, or when the precision is lowered during the follow.
   */
  | { readonly kind: 'approximate-only'; readonly radius: number }
  /** The user closed the app, or the system ended it: the moment for cleaning up. */
  | { readonly kind: 'closed' }
  | { readonly kind: 'killed' }
  | FollowFailure;

/**
 * The follow has failed and has ended. A listener that reads `error` handles the failure, as does a loop over the
 * follow, which throws it. A failure that nobody handles becomes a diagnostic, and is shown on the page by sources that
 * can.
 */
export interface FollowFailure {
  readonly kind: 'failed';
  readonly error: NoFixError;
}
