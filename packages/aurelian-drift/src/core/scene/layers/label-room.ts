import { LOOK } from '../look.js';
import type { Step } from '../scene.js';
import { cutText } from '../text-lines.js';
import { textWidth, type MeasureText } from '../text-width.js';
import type { LabelPaint } from './label-paint.js';

/** Widest name in pixels; a longer one is cut. */
const WIDEST = 240;

/** Keeps names from overlapping: the first one gets the room. */
export class LabelRoom {
  readonly #taken: (readonly [x1: number, y1: number, x2: number, y2: number])[] = [];
  readonly #within: readonly [x1: number, y1: number, x2: number, y2: number];

  /** Measures texts in the font that draws them. */
  readonly measure: MeasureText;

  /**
   * @param within visible part of the picture in pixels. Default: everywhere.
   * @param measure default: widths of the font of the house.
   */
  constructor(
    within: readonly [number, number, number, number] = [-Infinity, -Infinity, Infinity, Infinity],
    measure: MeasureText = textWidth,
  ) {
    this.#within = within;
    this.measure = measure;
  }

  /** Whether a rectangle is completely in the visible part. */
  holds(x: number, y: number, width: number, height: number): boolean {
    const [x1, y1, x2, y2] = this.#within;
    return x >= x1 && y >= y1 && x + width <= x2 && y + height <= y2;
  }

  /** The nearest corner at which a rectangle is completely in the visible part, as far as it fits. */
  inside(x: number, y: number, width: number, height: number): readonly [x: number, y: number] {
    const [x1, y1, x2, y2] = this.#within;
    return [Math.max(x1, Math.min(x, x2 - width)), Math.max(y1, Math.min(y, y2 - height))];
  }

  /** Takes a rectangle, whatever else is there. */
  seize(x: number, y: number, width: number, height: number): void {
    this.#taken.push([x, y, x + width, y + height]);
  }

  /** Takes a rectangle if it is visible and free. */
  take(x: number, y: number, width: number, height: number): boolean {
    if (!this.holds(x, y, width, height)) return false;
    const free = this.#taken.every(
      ([x1, y1, x2, y2]) => x > x2 || x + width < x1 || y > y2 || y + height < y1,
    );
    if (free) this.seize(x, y, width, height);
    return free;
  }

  /** Steps of a name at a place; none when there is no room. */
  place(name: string, x: number, y: number, paint: LabelPaint): Step[] {
    const { size, weight, italic, spacing = 0, mark } = paint;
    const text = cutText(name, WIDEST, (part) => this.measure(part, size, weight));
    const width = this.measure(text, size, weight) + spacing * text.length;
    const left = mark === undefined ? x - width / 2 : x + 7;
    // At its place, otherwise a little above or below, unless a mark shows the exact place.
    const shifts = mark === undefined ? [0, -size * 1.5, size * 1.5] : [0];
    const middle = y + size * 0.34;
    const shift = shifts.find((each) => this.take(left - 3, middle + each - size, width + 6, size * 1.3));
    if (shift === undefined) return [];
    const base = middle + shift;
    return [
      ...(mark === undefined ? [] : markSteps(mark, x, y)),
      {
        kind: 'text',
        x: left,
        y: base,
        text,
        size,
        weight,
        colour: LOOK.ink,
        halo: LOOK.parchment,
        ...(italic !== undefined && { italic }),
        ...(spacing > 0 && { spacing }),
      },
    ];
  }
}

function markSteps(mark: 'summit' | 'dot', x: number, y: number): Step[] {
  if (mark === 'dot') return [{ kind: 'disc', x, y, radius: 2.4, fill: LOOK.ink }];
  const rings = [[x, y - 4, x + 4, y + 3, x - 4, y + 3]];
  return [{ kind: 'shape', rings, closed: true, fill: LOOK.ink }];
}
