import type { Bounds } from '../core/geodesy/bounds.js';
import type { Position } from '../core/geodesy/position.js';

/** The view, who moved it last, and whether the movement has ended. */
export interface MapView {
  readonly centre: Position;
  readonly zoom: number;
  readonly turn: number;
  readonly bounds: Bounds;
  readonly by: 'hand' | 'program';
  readonly settled: boolean;
}

/** Events of a map: one object with a kind. */
export type MapEvent =
  | ({ readonly kind: 'view' } & MapView)
  /** A short press: the place, and the pin or the kite that was pressed. */
  | { readonly kind: 'tap'; readonly at: Position; readonly pin?: string; readonly kite: boolean }
  /** A long press on the map itself; it is no tap as well. */
  | { readonly kind: 'hold'; readonly at: Position }
  /** A pin was put down somewhere else, by hand or by keys. */
  | { readonly kind: 'drop'; readonly at: Position; readonly pin: string };
