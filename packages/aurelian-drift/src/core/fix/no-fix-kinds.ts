/** Why there is no fix: a closed set. */
export const NO_FIX_KINDS = [
  'unsupported', 'insecure', 'forbidden', 'undeclared', 'switched-off', 'refused', 'barred', 'declined',
  'withdrawn', 'approximate-only', 'no-signal', 'timed-out', 'unknown',
] as const; // prettier-ignore
/** Kind of failure: a value in `NO_FIX_KINDS`. */
export type NoFixKind = (typeof NO_FIX_KINDS)[number];

/** What helps. Some have an `act` where the platform lets the app do it: see `Remedy`. */
export const REMEDY_IDS = [
  'ask', 'use-other-device', 'serve-securely', 'allow-in-frame', 'declare-purpose', 'turn-on-switch', 'ask-again',
  'open-settings', 'allow-precise', 'move-to-open-sky', 'try-again', 'report',
] as const; // prettier-ignore
/** Identifier of a remedy: a value in `REMEDY_IDS`. */
export type RemedyId = (typeof REMEDY_IDS)[number];
