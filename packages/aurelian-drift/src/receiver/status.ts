import type { Fix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';

/** What the receiver is doing. States without a fix have no field for one. */
export type ReceiverStatus =
  | { readonly state: 'idle' }
  /** The user is being asked. */
  | { readonly state: 'asking' }
  /**
   * The device is searching since that time, milliseconds since 1970 UTC. `accuracy`: the smallest radius in metres so
   * far, once there is a fix that is not good enough yet.
   */
  | { readonly state: 'waiting'; readonly since: number; readonly accuracy?: number }
  /** A one-shot has its fix. */
  | { readonly state: 'ready'; readonly fix: Fix }
  | { readonly state: 'following'; readonly fix: Fix }
  | { readonly state: 'failed'; readonly error: NoFixError };

/** What the receiver is doing apart from asking. */
type Errand = Exclude<ReceiverStatus, { readonly state: 'asking' }>;

/** The task, and whether the user is being asked meanwhile: the task continues during a prompt. */
export interface Standing {
  readonly asking: boolean;
  readonly errand: Errand;
}

/** Steps that change the status of the receiver. */
export type StatusStep =
  | { readonly step: 'asks' }
  | { readonly step: 'answered' }
  | { readonly step: 'waits'; readonly since: number }
  /** A fix came that is not good enough, with the smallest radius so far in metres. */
  | { readonly step: 'nears'; readonly accuracy: number }
  /** `watched`: the device goes on after it. */
  | { readonly step: 'finds'; readonly fix: Fix; readonly watched: boolean }
  | { readonly step: 'fails'; readonly error: NoFixError }
  /** Nobody uses the device any more. */
  | { readonly step: 'rests' };

export const IDLE: Standing = Object.freeze({ asking: false, errand: Object.freeze({ state: 'idle' }) });
const ASKING: ReceiverStatus = Object.freeze({ state: 'asking' });

/** Status of the receiver after a step. */
export function standingAfter({ asking, errand }: Standing, step: StatusStep): Standing {
  switch (step.step) {
    case 'asks':
      return { asking: true, errand };
    case 'answered':
      return { asking: false, errand };
    default:
      return { asking, errand: errandAfter(errand, step) };
  }
}

function errandAfter(errand: Errand, step: Exclude<StatusStep, { step: 'asks' | 'answered' }>): Errand {
  switch (step.step) {
    case 'waits':
      return errand.state === 'following' ? errand : { state: 'waiting', since: step.since };
    case 'nears':
      return errand.state === 'waiting' ? { ...errand, accuracy: step.accuracy } : errand;
    case 'finds':
      return { state: step.watched ? 'following' : 'ready', fix: step.fix };
    case 'fails':
      return { state: 'failed', error: step.error };
    case 'rests':
      return errand.state === 'failed' ? errand : IDLE.errand;
  }
}

/** The public form of the status. */
export function statusOf({ asking, errand }: Standing): ReceiverStatus {
  return asking ? ASKING : errand;
}
