/*
 * A scene is the content of a picture as a list of drawing steps in pixels: plain data, painted in order. Painters know
 * nothing of maps; layers know nothing of painters.
 */

/** A flat colour, or thin parallel strokes of one colour. */
export type Fill = string | Hatch;

/** A fill of parallel strokes. Lengths are in pixels, the angle in degrees. */
export interface Hatch {
  readonly colour: string;
  /** Pixels from one stroke to the next, and the width of a stroke. */
  readonly spacing: number;
  readonly width: number;
  /** Degrees clockwise from the horizontal. */
  readonly angle: number;
}

/** How a line is drawn. Lengths are in pixels. */
export interface Stroke {
  readonly colour: string;
  readonly width: number;
  /** Pixels on, off, on, … */
  readonly dash?: readonly number[];
  /** Without rounded ends and corners, for very many lines. */
  readonly plain?: boolean;
}

/** Lines or areas: flat lists of x, y. Holes are rings inside rings (even-odd). */
export interface ShapeStep {
  readonly kind: 'shape';
  readonly rings: readonly ArrayLike<number>[];
  readonly closed: boolean;
  readonly fill?: Fill;
  readonly stroke?: Stroke;
}

/** Draws a disc. Positions and the radius are in pixels. */
export interface DiscStep {
  readonly kind: 'disc';
  readonly x: number;
  readonly y: number;
  readonly radius: number;
  readonly fill?: Fill;
  readonly stroke?: Stroke;
}

/** Draws a line of text. Lengths are in pixels, the turn in degrees. */
export interface TextStep {
  readonly kind: 'text';
  /** Baseline at x, y; `anchor` selects the end of the text. */
  readonly x: number;
  readonly y: number;
  readonly text: string;
  readonly size: number;
  readonly colour: string;
  readonly anchor?: 'start' | 'middle' | 'end';
  readonly weight?: 400 | 600;
  readonly italic?: boolean;
  /** Colour of a rim around the letters. */
  readonly halo?: string;
  /** Degrees clockwise. */
  readonly turn?: number;
  /** Extra pixels between letters. */
  readonly spacing?: number;
}

/** Later steps are visible within this rectangle only; without one, everywhere again. */
export interface ClipStep {
  readonly kind: 'clip';
  readonly rect?: readonly [x: number, y: number, width: number, height: number];
}

/** An external picture, such as a tile. Painters that cannot show it skip it. */
export interface ImageStep {
  readonly kind: 'image';
  /** The top left corner, and the size. */
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
  /** Degrees clockwise about that corner. */
  readonly turn?: number;
  /** A picture for the painter. */
  readonly image: unknown;
  /** The visible part: left, top, width, height in its own pixels. */
  readonly part?: readonly [number, number, number, number];
}

/** One drawing step. */
export type Step = ShapeStep | DiscStep | TextStep | ClipStep | ImageStep;

/** A group of steps with a stable id. */
export interface Layer {
  readonly id: string;
  readonly steps: readonly Step[];
}

/** A picture as drawing steps, in layers from bottom to top. Sizes are in pixels. */
export interface Scene {
  readonly width: number;
  readonly height: number;
  readonly layers: readonly Layer[];
  /** Description of the picture in words, for people who do not see it. */
  readonly title: string;
}
