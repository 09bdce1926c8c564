import type { Position } from '../geodesy/position.js';
import type { Extras } from './extras.js';

/** A point of a line: a position and, when known, an altitude in metres. */
export interface LinePoint extends Position {
  readonly altitude?: number;
  /** Additional data of other writers, such as the name of a point of a route. */
  readonly extras?: Extras;
}

/** Points without times, in one or more parts: a planned route, or a track whose writer had no clock. */
export interface Line {
  readonly name?: string;
  readonly description?: string;
  readonly extras?: Extras;
  readonly parts: readonly (readonly LinePoint[])[];
}

/** A point with a name. */
export interface Waypoint extends LinePoint {
  readonly name?: string;
  readonly description?: string;
  /** Milliseconds since 1970 UTC. */
  readonly time?: number;
}
