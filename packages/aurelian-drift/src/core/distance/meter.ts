import type { Fix } from '../fix/fix.js';
import type { Tally } from './tally.js';

/** Speed in m/s below which the user is at rest: half of an easy stroll. */
export const RESTING_SPEED = 0.4;

/** Measures a run of fixes without a break, and adds to a tally. */
export interface Meter {
  /** Takes the next fix. */
  add(fix: Fix): void;
  /** Ends the run: all that is held back counts now. */
  end(): void;
  /** Adds to a copy of the tally what would count if the run ended now. */
  provisional(copy: Tally): void;
  /** Time of the last fix whose figures are final, milliseconds since 1970 UTC; `undefined` when all are. */
  readonly finalUntil?: number | undefined;
}
