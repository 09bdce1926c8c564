import { InputError } from '../check/input-error.js';
import type { Position } from '../geodesy/position.js';
import { LaneGraph, type EdgePlace } from './lane-graph.js';
import type { LaneProperties } from './travel-kinds.js';

/** Lanes and where they meet, from `networkFrom`: nodes, and edges between them. */
export interface Network {
  readonly edgeCount: number;
  readonly nodeCount: number;
  /** Length of each edge, metres on the ellipsoid. */
  readonly lengths: ArrayLike<number>;
  /** Properties of the lane of an edge. */
  lane(edge: number): LaneProperties;
  /** The place that is nearest to a position on the edges that pass a test, within some metres. */
  nearest(at: Position, metres: number, isOpen: (edge: number) => boolean): EdgePlace | undefined;
}

/**
 * The graph of a network.
 *
 * @throws {InputError} for an object that `networkFrom` has not made.
 */
export function graphOf(network: Network): LaneGraph {
  if (network instanceof LaneGraph) return network;
  throw new InputError('bad-value', 'a network comes from networkFrom');
}
