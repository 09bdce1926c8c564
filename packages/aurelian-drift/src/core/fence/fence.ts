import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import type { Timetable } from './timetable.js';

/** Fields that fences of every kind have. */
export interface FenceLabels {
  /** Unique among the fences watched together. */
  readonly id: string;
  readonly name: string;
  /** Seconds inside after which `linger` is told. Default: it is not. */
  readonly linger?: number;
  /** Probability, 0.5…1 (1 excluded), from which being inside counts. Default that of the watch. */
  readonly certainty?: number;
  /** When it is watched: `timetable()`. Default: always. */
  readonly when?: Timetable;
}

/** All positions within `radius` metres of the centre. */
export interface CircleFence extends FenceLabels {
  readonly kind: 'circle';
  readonly centre: Position;
  readonly radius: number;
}

/** One outline and the holes in it. Rings need not be closed, nor wound one way. */
export type PolygonPart = readonly (readonly Position[])[];

/** One or more outlines. Edges are straight in longitude and latitude, as RFC 7946 section 3.1.1 has them. */
export interface PolygonFence extends FenceLabels {
  readonly kind: 'polygon';
  readonly parts: readonly PolygonPart[];
}

/** All positions within `halfWidth` metres of a line, or of several. */
export interface CorridorFence extends FenceLabels {
  readonly kind: 'corridor';
  readonly lines: readonly (readonly Position[])[];
  readonly halfWidth: number;
}

/** An area that a user may enter and leave. */
export type Fence = CircleFence | PolygonFence | CorridorFence;

/** A fence as geometry: what the watch asks of it. */
export interface FenceShape {
  /** Metres from a position to the nearest edge: positive inside, negative outside. */
  depth(lat: number, lon: number): number;
  /**
   * Where a straight step (in longitude and latitude) cuts the edge: fractions of the step, 0…1, ascending.
   * A step that starts or ends on the edge cuts it there at most once.
   */
  cuts(from: Position, to: Position): number[];
  /** The box around it, in degrees: the whole earth's width around a pole. */
  readonly bounds: Bounds;
  /** Radius in metres of a circle of the same area: how small the fence is beside a fix's spread. */
  readonly size: number;
}
