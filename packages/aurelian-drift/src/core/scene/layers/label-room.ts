import { LOOK } from '../look.js';
import type { Step } from '../scene.js';
import { textWidth } from '../text-width.js';
import type { LabelPaint } from './label-paint.js';

/** Keeps names from overlapping: the first one gets the room. */
export class LabelRoom {
  readonly #taken: (readonly [x1: number, y1: number, x2: number, y2: number])[] = [];
  readonly #within: readonly [x1: number, y1: number, x2: number, y2: number];

  /** @param within visible part of the picture in pixels. Default: everywhere. */
  constructor(
    within: readonly [number, number, number, number] = [-Infinity, -Infinity, Infinity, Infinity],
  ) {
    this.#within = within;
  }

  /** Whether a rectangle is completely in the visible part. */
  holds(x: number, y: number, width: number, height: number): boolean {
    const [x1, y1, x2, y2] = this.#within;
    return x >= x1 && y >= y1 && x + width <= x2 && y + height <= y2;
  }

  /** Takes a rectangle if it is visible and free. */
  take(x: number, y: number, width: number, height: number): boolean {
    if (!this.holds(x, y, width, height)) return false;
    const free = this.#taken.every(
      ([x1, y1, x2, y2]) => x > x2 || x + width < x1 || y > y2 || y + height < y1,
    );
    if (free) this.#taken.push([x, y, x + width, y + height]);
    return free;
  }

  /** Steps of a name at a place; none when there is no room. */
  place(text: string, x: number, y: number, paint: LabelPaint): Step[] {
    const { size, weight, italic, spacing = 0, mark } = paint;
    const width = textWidth(text, size, weight) + spacing * text.length;
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
