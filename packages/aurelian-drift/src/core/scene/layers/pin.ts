import type { Position } from '../../geodesy/position.js';

export const PIN_SHAPES = ['round', 'square', 'flag'] as const;
/** Shape of the head of a pin. */
export type PinShape = (typeof PIN_SHAPES)[number];

/** A slim specimen pin: its point is the place. */
export interface Pin extends Position {
  readonly id: string;
  /** Text on a paper label beside it when open. Never interpreted as markup. */
  readonly text?: string;
  /** Whether the user may drag it. Default false. */
  readonly open?: boolean;
  /** Name of a group of pins, which can be removed together. */
  readonly group?: string;
  readonly draggable?: boolean;
  /** Colour of the head, `#rrggbb`. Default: ink. */
  readonly colour?: string;
  /** Shape of the head. Default `round`. */
  readonly shape?: PinShape;
}
