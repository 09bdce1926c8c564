import type { Fix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';

/** What the receiver is about. A state that has no fix has no field for one. */
export type ReceiverStatus =
  | { readonly state: 'idle' }
  /** The user is being asked. */
  | { readonly state: 'asking' }
  /** The device is searching since that time, milliseconds since 1970 UTC. */
  | { readonly state: 'waiting'; readonly since: number }
  /** A one-shot has its fix. */
  | { readonly state: 'ready'; readonly fix: Fix }
  | { readonly state: 'following'; readonly fix: Fix }
  | { readonly state: 'failed'; readonly error: NoFixError };
