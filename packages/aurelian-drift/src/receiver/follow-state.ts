import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { FollowStatus } from './follow-events.js';

/** Steps that change the status of a follow. Times are milliseconds since 1970 UTC. */
export type FollowStep =
  /** A state that the fixes imply. */
  | { readonly step: 'moves' }
  | { readonly step: 'rests'; readonly since: number }
  /** Nothing has come for too long. */
  | { readonly step: 'falls-silent'; readonly since: number }
  /** The app is hidden, or back. */
  | { readonly step: 'pauses'; readonly at: number }
  | { readonly step: 'resumes'; readonly at: number }
  | LastStep;

export type LastStep =
  | { readonly step: 'stops' }
  | { readonly step: 'ends' }
  | { readonly step: 'fails'; readonly error: NoFixError };

/** Whether a follow in this status is running. */
export function goesOn({ state }: FollowStatus): boolean {
  return state !== 'stopped' && state !== 'ended' && state !== 'failed';
}

/** Status after a step. Returns the same value when the step changes nothing; an ended follow does not change. */
export function followStateAfter(state: FollowStatus, step: FollowStep): FollowStatus {
  if (!goesOn(state)) return state;
  const paused = state.state === 'paused';
  switch (step.step) {
    case 'moves':
      return paused || state.state === 'live' ? state : { state: 'live' };
    case 'rests':
      if (paused || (state.state === 'still' && state.since === step.since)) return state;
      return { state: 'still', since: step.since };
    case 'falls-silent':
      return paused ? state : { state: 'silent', since: step.since };
    case 'pauses':
      return paused ? state : { state: 'paused', since: step.at };
    case 'resumes':
      return paused ? { state: 'waiting', since: step.at } : state;
    case 'stops':
      return { state: 'stopped' };
    case 'ends':
      return { state: 'ended' };
    case 'fails':
      return { state: 'failed', error: step.error };
  }
}
