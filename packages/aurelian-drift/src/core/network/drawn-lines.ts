import type { Lanes } from './lane-graph.js';
import type { PointTable } from './point-table.js';

/** Lines as numbers of points. */
export interface DrawnLines {
  readonly lanes: Lanes;
  readonly table: PointTable;
  /** Point numbers of all lines, one line after the other. */
  points: number[];
  /** Index of the first point of each line, and the end. */
  starts: number[];
  /** Lane of each line. */
  readonly laneOf: number[];
}
