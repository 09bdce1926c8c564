import type { Position } from '../geodesy/position.js';

/**
 * `initial`: the first certain fix was inside, which is no crossing. `enter`, `exit`: the edge was cut.
 * `pass`: in and out between two fixes.
 */
export type CrossingKind = 'initial' | 'enter' | 'exit' | 'pass';

/** Something that happened at a fence's edge, at the place and time where the path cut it. */
export interface Crossing extends Position {
  readonly kind: CrossingKind;
  /** The fence's id and name. */
  readonly fence: string;
  readonly name: string;
  /** Milliseconds since 1970 UTC, interpolated between the two fixes; for `initial` the fix's own time. */
  readonly time: number;
  /** Probability, 0…1, that it happened; 1 where the fixes state no accuracy. */
  readonly certainty: number;
  /** The 95 % radius in metres of the fix that made it certain, when it states one. */
  readonly accuracy?: number;
  /** Seconds spent inside, for `exit` and `pass`; absent when the entry was not seen. */
  readonly stay?: number;
}
