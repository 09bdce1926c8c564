import type { Position } from '../geodesy/position.js';
import type { Stretches } from './stretches.js';

/** Where a user is on a plan, at the last fix. */
export interface Progress {
  /** Time of the fix, milliseconds since 1970 UTC. */
  readonly time: number;
  /** Metres along the line at which the user is, or left it. */
  readonly along: number;
  /** Metres from there to the end of the plan: to its beginning, if it is walked backwards. */
  readonly left: number;
  /** Metres of the plan that were travelled, and their share of it, 0…1. */
  readonly done: number;
  readonly share: number;
  /** Stretches that were travelled, in metres along the line. */
  readonly travelled: Stretches;
  readonly direction: 'forward' | 'backward';
  /** Whether the user keeps to the plan; `undefined` before that is certain. */
  readonly on: boolean | undefined;
  /** Metres from the line; and on which side, seen along the line. */
  readonly distance: number;
  readonly side: 'left' | 'right';
  /** Probability, 0…1, that the user is at this place of the line and not at another, such as another lap. */
  readonly certainty: number;
  /** Pace along the plan in motion, m/s; absent before it is known. */
  readonly pace?: number;
  /** Expected arrival at the end at that pace, milliseconds since 1970 UTC. */
  readonly arrival?: number;
  /**
   * The next named point, with the metres along the line to it, its direction from here in degrees, and the arrival.
   */
  readonly next?: {
    readonly name: string;
    readonly distance: number;
    readonly bearing: number;
    readonly arrival?: number;
    /** Its planned time, milliseconds since 1970 UTC. */
    readonly planned?: number;
    /** Seconds by which the arrival is after its planned time; negative: before. */
    readonly late?: number;
  };
  /** Stretches that were passed by, in metres along the line. */
  readonly skipped: Stretches;
  /** Metres that were travelled again. */
  readonly repeated: number;
}

/** Events on a plan. Times are milliseconds since 1970 UTC, places metres along the line. */
export type PlanEvent =
  /** A named point was reached; `late`: seconds after its planned time. */
  | {
      readonly kind: 'reached';
      readonly name: string;
      readonly time: number;
      readonly along: number;
      readonly late?: number;
    }
  /** A named point was passed by. */
  | { readonly kind: 'skipped'; readonly name: string; readonly time: number; readonly along: number }
  /** The user left the corridor: at that time and place, on that side. */
  | (Position & {
      readonly kind: 'left';
      readonly time: number;
      readonly along: number;
      readonly side: 'left' | 'right';
      readonly certainty: number;
      /**
       * Metres from the line when it is told, and the point of the line that is nearest then: the way back leads there.
       */
      readonly distance: number;
      readonly nearest: Position;
    })
  /** The user is back in the corridor. */
  | (Position & {
      readonly kind: 'back';
      readonly time: number;
      readonly along: number;
      readonly certainty: number;
    })
  /** The end of the plan was reached. */
  | { readonly kind: 'finished'; readonly time: number; readonly share: number };
