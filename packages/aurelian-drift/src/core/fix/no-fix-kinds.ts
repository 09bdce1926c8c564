/** Kinds of failures to get a fix; no others occur. */
export const NO_FIX_KINDS = [
  'unsupported', 'insecure', 'forbidden', 'undeclared', 'switched-off', 'refused', 'barred', 'declined',
  'withdrawn', 'approximate-only', 'no-signal', 'timed-out', 'unknown',
] as const; // prettier-ignore
/** Kind of failure: a value in `NO_FIX_KINDS`. */
export type NoFixKind = (typeof NO_FIX_KINDS)[number];

/**
 * Identifiers of remedies. Some remedies have an `act` where the platform allows the app to carry them out: see
 * `Remedy`.
 */
export const REMEDY_IDS = [
  'ask', 'use-other-device', 'serve-securely', 'allow-in-frame', 'declare-purpose', 'turn-on-switch', 'ask-again',
  'open-settings', 'allow-precise', 'move-to-open-sky', 'try-again', 'report',
] as const; // prettier-ignore
/** Identifier of a remedy: a value in `REMEDY_IDS`. */
export type RemedyId = (typeof REMEDY_IDS)[number];
