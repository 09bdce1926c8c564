import type { Position } from '../geodesy/position.js';

export const CROSSING_KINDS = ['initial', 'enter', 'exit', 'linger', 'pass', 'closed'] as const;

/**
 * `initial`: the first certain fix was inside, which is not a crossing. `enter`, `exit`: the path cut the edge. `pass`:
 * in and out between two fixes. `linger`: inside for as long as the fence asks. `closed`: the fence was removed or
 * switched off while the user was inside.
 */
export type CrossingKind = (typeof CROSSING_KINDS)[number];

/** An event at a fence, with the place and time at which the path cut its edge. */
export interface Crossing extends Position {
  readonly kind: CrossingKind;
  /** Id and name of the fence. */
  readonly fence: string;
  readonly name: string;
  /**
   * Milliseconds since 1970 UTC, interpolated between the two fixes; for `initial` and `closed` the time of the fix.
   */
  readonly time: number;
  /**
   * The edge was crossed in a gap: after this time, in milliseconds since 1970 UTC, and by `time`. Place and time are
   * then those of the first certain fix after the gap.
   */
  readonly notBefore?: number;
  /** Probability of the event, 0…1; 1 where the fixes state no accuracy. */
  readonly certainty: number;
  /** Direction of the path at the edge, degrees clockwise from true north; for `pass` on the way in. */
  readonly course?: number;
  /** The 95 % radius in metres of the fix that made the event certain, when it states one. */
  readonly accuracy?: number;
  /** Seconds inside, for `exit`, `pass`, `linger` and `closed`; absent when the entry or the exit is unknown. */
  readonly duration?: number;
}
