import { NoFixError, type Remedy } from '../core/fix/no-fix-error.js';
import type { NoFixKind } from '../core/fix/no-fix-kinds.js';

/** How far a permission reaches. */
export type Level = 'once' | 'foreground' | 'background';

/**
 * What stands between the app and a fix, as a source reads it, each a value of its own. A platform that cannot
 * tell says `unknown`.
 */
export interface AccessReading {
  readonly support: 'yes' | 'no';
  /** Whether the page came over a connection that may locate. */
  readonly secure: 'yes' | 'no' | 'unknown';
  /** What the document's permissions policy says; it reaches into frames. */
  readonly policy: 'allowed' | 'forbidden' | 'unknown';
  /** The device's own switch. */
  readonly switch: 'on' | 'off' | 'unknown';
  /** `refused` may be asked again; `barred` will not be asked again by the platform. */
  readonly permission: 'not-asked' | 'granted' | 'refused' | 'barred' | 'unknown';
  /** How far a granted permission reaches. */
  readonly level: Level | 'none' | 'unknown';
  readonly precision: 'precise' | 'approximate' | 'unknown';
}

/** A reading, with the one remedy that helps next; none when nothing is in the way. */
export interface Access extends AccessReading {
  readonly remedy?: Remedy;
}

/** Before the first reading: support is all a source knows at once. */
export function unreadAccess(support: 'yes' | 'no'): AccessReading {
  return {
    support,
    secure: 'unknown',
    policy: 'unknown',
    switch: 'unknown',
    permission: 'unknown',
    level: 'unknown',
    precision: 'unknown',
  };
}

/** The first thing in the way, in the order in which they have to be removed; `undefined` when a fix may be asked for. */
export function obstacleIn(access: AccessReading): NoFixKind | undefined {
  if (access.support === 'no') return 'unsupported';
  if (access.secure === 'no') return 'insecure';
  if (access.policy === 'forbidden') return 'forbidden';
  if (access.switch === 'off') return 'switched-off';
  if (access.permission === 'barred') return 'barred';
  if (access.permission === 'refused') return 'refused';
  return undefined;
}

/** A reading with its remedy. */
export function accessOf(reading: AccessReading): Access {
  const obstacle = obstacleIn(reading);
  return obstacle === undefined ? { ...reading } : { ...reading, remedy: new NoFixError(obstacle).remedy };
}
