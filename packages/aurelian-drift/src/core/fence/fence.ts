import type { Bounds } from '../geodesy/bounds.js';
import type { Position } from '../geodesy/position.js';
import type { Timetable } from './timetable.js';

/** Fields that fences of every kind have. */
export interface FenceLabels {
  /** Unique among the fences of a watch. */
  readonly id: string;
  readonly name: string;
  /** Seconds inside after which `linger` is reported. Default: never. */
  readonly linger?: number;
  /** Probability from which the user counts as inside, 0.5…1 (1 excluded). Default: that of the watch. */
  readonly certainty?: number;
  /** Times at which it is watched: `timetable()`. Default: always. */
  readonly when?: Timetable;
}

/** All positions within `radius` metres of the centre. */
export interface CircleFence extends FenceLabels {
  readonly kind: 'circle';
  readonly centre: Position;
  readonly radius: number;
}

/** One outline and its holes. Rings may be open or closed, in either direction. */
export type PolygonPart = readonly (readonly Position[])[];

/** One or more outlines. Edges are straight in longitude and latitude, as in RFC 7946 section 3.1.1. */
export interface PolygonFence extends FenceLabels {
  readonly kind: 'polygon';
  readonly parts: readonly PolygonPart[];
}

/** All positions within `halfWidth` metres of one or more lines. */
export interface CorridorFence extends FenceLabels {
  readonly kind: 'corridor';
  readonly lines: readonly (readonly Position[])[];
  readonly halfWidth: number;
}

/** An area that a user may enter and leave. */
export type Fence = CircleFence | PolygonFence | CorridorFence;

/** Geometry of a fence, for the watch. */
export interface FenceShape {
  /** Metres from a position to the nearest edge: positive inside, negative outside. */
  depth(lat: number, lon: number): number;
  /**
   * Where a straight step (in longitude and latitude) cuts the edge: fractions of the step, 0…1, ascending. A step that
   * starts or ends on the edge cuts it there at most once.
   */
  cuts(from: Position, to: Position): number[];
  /** Bounds in degrees: the whole width of the earth around a pole. */
  readonly bounds: Bounds;
  /** Radius in metres of a circle of the same area: the size of the fence in relation to the spread of a fix. */
  readonly size: number;
}
