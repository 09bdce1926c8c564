import type { Position } from '../geodesy/position.js';

export const CROSSING_KINDS = ['initial', 'enter', 'exit', 'linger', 'pass', 'closed'] as const;

/**
 * `initial`: the first certain fix was inside, which is no crossing. `enter`, `exit`: the edge was cut. `pass`: in and
 * out between two fixes. `linger`: inside for as long as the fence asks. `closed`: the fence was removed or switched
 * off while the user was inside.
 */
export type CrossingKind = (typeof CROSSING_KINDS)[number];

/** Something that happened at a fence, at the place and time where the path cut its edge. */
export interface Crossing extends Position {
  readonly kind: CrossingKind;
  /** The fence's id and name. */
  readonly fence: string;
  readonly name: string;
  /** Milliseconds since 1970 UTC, interpolated between the two fixes; for `initial` and `closed` the fix's own time. */
  readonly time: number;
  /**
   * The edge was crossed unseen, in a gap: after this time, milliseconds since 1970 UTC, and by `time`. Place and time
   * are then those of the first certain fix afterwards.
   */
  readonly notBefore?: number;
  /** Probability, 0…1, that it happened; 1 where the fixes state no accuracy. */
  readonly certainty: number;
  /** Direction in which the edge was cut, degrees clockwise from true north; the way in, for `pass`. */
  readonly course?: number;
  /** The 95 % radius in metres of the fix that made it certain, when it states one. */
  readonly accuracy?: number;
  /**
   * Seconds spent inside, for `exit`, `pass`, `linger` and `closed`; absent when the entry, or the exit, was not seen.
   */
  readonly duration?: number;
}
