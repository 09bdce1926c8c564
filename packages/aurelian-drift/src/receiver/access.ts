import { page } from '../core/texts/english.js';
import type { Texts } from '../core/texts/texts.js';
import { NoFixError, type Remedy } from '../core/fix/no-fix-error.js';
import type { NoFixKind } from '../core/fix/no-fix-kinds.js';

/** Levels of permission, from the lowest: for one session, while the app is in use, or in the background too. */
export const ACCESS_LEVELS = ['once', 'foreground', 'background'] as const;
/** Level of permission: for one session, while the app is in use, or in the background too. */
export type AccessLevel = (typeof ACCESS_LEVELS)[number];

/**
 * The conditions for a fix, as a source reads them, each in a field of its own. A platform that does not report a
 * condition gives `unknown`; nothing is guessed.
 */
export interface AccessReading {
  readonly support: 'yes' | 'no';
  /** Whether the page came over a connection on which positioning is allowed. */
  readonly secure: 'yes' | 'no' | 'unknown';
  /** The permissions policy of the document, which also applies to frames. */
  readonly policy: 'allowed' | 'forbidden' | 'unknown';
  /**
   * Whether the app was built with the declarations that a prompt needs, and with those that following in the
   * background needs.
   */
  readonly declaration: 'complete' | 'incomplete' | 'unknown';
  readonly backgroundDeclaration: 'complete' | 'incomplete' | 'unknown';
  /** Names of the missing declarations. */
  readonly undeclared: readonly string[];
  /** The location switch of the device, which is not the permission. `weak`: on, but for approximate positions only. */
  readonly switch: 'on' | 'weak' | 'off' | 'unknown';
  /** `refused`: the app may ask again. `barred`: the platform does not ask again. */
  readonly permission: 'not-asked' | 'granted' | 'refused' | 'barred' | 'unknown';
  /** Whether a request would still show a prompt, if the platform reports this. */
  readonly askable: 'yes' | 'no' | 'unknown';
  /** Level of the granted permission. */
  readonly level: AccessLevel | 'none' | 'unknown';
  readonly precision: 'precise' | 'approximate' | 'unknown';
  /** Whether the decision of the user is valid for every page of the origin, or for the app. */
  readonly scope: 'origin' | 'app' | 'unknown';
}

/** A reading with the remedy for the first obstacle; without one when nothing is in the way. */
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

/** Completes the reading of a source: fields that it leaves out are unknown. */
export function readingOf(reported: Partial<AccessReading>): AccessReading {
  return { ...UNKNOWN, ...reported };
}

/**
 * The first obstacle, in the order in which obstacles must be removed; `undefined` when a fix may be requested. The
 * background level also needs its own declarations.
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

/** Returns the function that carries out the remedy for an obstacle, where the source offers one. */
export type Acts = (kind: NoFixKind | 'not-asked') => (() => Promise<unknown>) | undefined;

/** Adds the remedy to a reading. */
export function accessOf(
  reading: AccessReading,
  acts: Acts = () => undefined,
  texts?: Texts,
  inApp?: boolean,
): Access {
  const obstacle = obstacleIn(reading);
  if (obstacle !== undefined)
    return { ...reading, remedy: failureFor(obstacle, reading, acts, texts, inApp).remedy };
  if (reading.permission !== 'not-asked') return { ...reading };
  const act = acts('not-asked');
  const text = texts?.page?.beforePrompt ?? page.beforePrompt;
  return { ...reading, remedy: { id: 'ask', text, ...(act !== undefined && { act }) } };
}

/** The failure for an obstacle. Missing declarations are named for the developer. */
export function failureFor(
  obstacle: NoFixKind,
  access: AccessReading,
  acts: Acts,
  texts?: Texts,
  inApp?: boolean,
): NoFixError {
  return new NoFixError(obstacle, {
    act: acts(obstacle),
    texts,
    inApp,
    ...(obstacle === 'undeclared' && { note: `missing: ${access.undeclared.join(', ') || 'unknown'}` }),
  });
}

/** The reading of a source that needs no permission: a recording, or a receiver that the user has connected. */
export const OPEN_ACCESS: Partial<AccessReading> = Object.freeze({
  support: 'yes',
  secure: 'yes',
  policy: 'allowed',
  switch: 'on',
  permission: 'granted',
  level: 'foreground',
  precision: 'precise',
});
