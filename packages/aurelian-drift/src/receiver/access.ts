import { page } from '../core/texts/english.js';
import type { Texts } from '../core/texts/texts.js';
import { NoFixError, type Remedy } from '../core/fix/no-fix-error.js';
import type { NoFixKind } from '../core/fix/no-fix-kinds.js';

/** How far a permission reaches: this run of the app, while it is used, or always. */
export const ACCESS_LEVELS = ['once', 'foreground', 'background'] as const;
/** Level of permission: for one session, while the app is in use, or in the background too. */
export type AccessLevel = (typeof ACCESS_LEVELS)[number];

/**
 * What stands between the app and a fix, as a source reads it, each a value of its own. A platform that cannot
 * tell says `unknown`; nothing is guessed.
 */
export interface AccessReading {
  readonly support: 'yes' | 'no';
  /** Whether the page came over a connection that may locate. */
  readonly secure: 'yes' | 'no' | 'unknown';
  /** What the document's permissions policy says; it reaches into frames. */
  readonly policy: 'allowed' | 'forbidden' | 'unknown';
  /** Whether the app was built with the declarations that asking needs, and that following in the background needs. */
  readonly declaration: 'complete' | 'incomplete' | 'unknown';
  readonly backgroundDeclaration: 'complete' | 'incomplete' | 'unknown';
  /** Names of the declarations that are missing. */
  readonly undeclared: readonly string[];
  /** The device's own switch, which is not the permission. `weak`: on, but only for rough positions. */
  readonly switch: 'on' | 'weak' | 'off' | 'unknown';
  /** `refused` may be asked again; `barred` will not be asked again by the platform. */
  readonly permission: 'not-asked' | 'granted' | 'refused' | 'barred' | 'unknown';
  /** Whether a request would still bring up a prompt: a platform that cannot tell says so. */
  readonly askable: 'yes' | 'no' | 'unknown';
  /** How far a granted permission reaches. */
  readonly level: AccessLevel | 'none' | 'unknown';
  readonly precision: 'precise' | 'approximate' | 'unknown';
  /** What the user's decision covers: every page of the origin, or the app. */
  readonly scope: 'origin' | 'app' | 'unknown';
}

/** A reading, with the one remedy that helps next; none when nothing is in the way. */
export interface Access extends AccessReading {
  readonly remedy?: Remedy;
}

const UNKNOWN: AccessReading = Object.freeze({
  support: 'yes',
  secure: 'unknown',
  policy: 'unknown',
  declaration: 'unknown',
  backgroundDeclaration: 'unknown',
  undeclared: Object.freeze([]),
  switch: 'unknown',
  permission: 'unknown',
  askable: 'unknown',
  level: 'unknown',
  precision: 'unknown',
  scope: 'unknown',
});

/** What a source read, whole: what it does not say is unknown. */
export function readingOf(reported: Partial<AccessReading>): AccessReading {
  return { ...UNKNOWN, ...reported };
}

/**
 * The first thing in the way, in the order in which they have to be removed; `undefined` when a fix may be asked for.
 * For the background, its own declarations count too.
 */
export function obstacleIn(access: AccessReading, level: AccessLevel = 'foreground'): NoFixKind | undefined {
  if (access.support === 'no') return 'unsupported';
  if (access.secure === 'no') return 'insecure';
  if (access.policy === 'forbidden') return 'forbidden';
  if (access.declaration === 'incomplete') return 'undeclared';
  if (level === 'background' && access.backgroundDeclaration === 'incomplete') return 'undeclared';
  if (access.switch === 'off') return 'switched-off';
  if (access.permission === 'barred') return 'barred';
  if (access.permission === 'refused') return 'refused';
  return undefined;
}

/** What a remedy can do itself, by what is in the way; made by the receiver from what its source can. */
export type Acts = (kind: NoFixKind | 'not-asked') => (() => Promise<unknown>) | undefined;

/** A reading with its remedy. */
export function accessOf(reading: AccessReading, acts: Acts = () => undefined, texts?: Texts): Access {
  const obstacle = obstacleIn(reading);
  if (obstacle !== undefined)
    return { ...reading, remedy: failureFor(obstacle, reading, acts, texts).remedy };
  if (reading.permission !== 'not-asked') return { ...reading };
  const act = acts('not-asked');
  const text = texts?.page?.beforePrompt ?? page.beforePrompt;
  return { ...reading, remedy: { id: 'ask', text, ...(act !== undefined && { act }) } };
}

/** The failure that an obstacle is. What is missing is named for the developer. */
export function failureFor(
  obstacle: NoFixKind,
  access: AccessReading,
  acts: Acts,
  texts?: Texts,
): NoFixError {
  return new NoFixError(obstacle, {
    act: acts(obstacle),
    texts: texts?.failures,
    ...(obstacle === 'undeclared' && { note: `missing: ${access.undeclared.join(', ') || 'unknown'}` }),
  });
}

/** The reading of a source that needs nobody's leave: a recording, or a receiver that the user has plugged in. */
export const OPEN_ACCESS: Partial<AccessReading> = Object.freeze({
  support: 'yes',
  secure: 'yes',
  policy: 'allowed',
  switch: 'on',
  permission: 'granted',
  level: 'foreground',
  precision: 'precise',
});
