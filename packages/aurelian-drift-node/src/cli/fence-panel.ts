import type { Crossing, Fence, FenceWatch, Fix } from 'aurelian-drift';
import { shapeOf, type FenceShape } from 'aurelian-drift/internal';
import { Panel } from './panel.js';
import { clockText, PLAIN_WORDS, table } from './tables.js';

/** Maximum number of fences in the panel, the nearest first. */
const SHOWN = 8;
const HEAD = ['fence', 'now', 'to its edge', 'since', 'for'];

/** The state of the fences around the user, drawn below the printed lines on a terminal and updated with every fix. */
export class FencePanel {
  readonly #watch: FenceWatch;
  readonly #fences: readonly { readonly fence: Fence; readonly shape: FenceShape }[];
  readonly #panel: Panel;
  /** Start of the current visits. */
  readonly #entered = new Map<string, number>();

  constructor(watch: FenceWatch, fences: readonly Fence[], print: (text: string) => void) {
    this.#watch = watch;
    this.#fences = fences.map((fence) => ({ fence, shape: shapeOf(fence) }));
    this.#panel = new Panel(print);
  }

  /** Prints a line above the panel. */
  line(text: string): void {
    this.#panel.line(text);
  }

  /** Draws the panel again. @param reported lines about the fix, above the fences. */
  draw(fix: Fix, reported: string, crossings: readonly Crossing[]): void {
    for (const { kind, fence, time } of crossings) {
      if (kind === 'enter' || kind === 'initial') this.#entered.set(fence, time);
      if (kind === 'exit' || kind === 'closed') this.#entered.delete(fence);
    }
    const near = this.#fences
      .map(({ fence, shape }) => ({ fence, depth: shape.depth(fix.lat, fix.lon) }))
      .toSorted((a, b) => Math.abs(a.depth) - Math.abs(b.depth))
      .slice(0, SHOWN);
    const rows = near.map(({ fence: { id, name }, depth }) => {
      const side = this.#watch.sideOf(id) ?? 'not watched';
      const since = this.#entered.get(id);
      return [
        `${side === 'inside' ? '●' : side === 'uncertain' ? '◐' : '○'} ${name}`,
        side,
        PLAIN_WORDS.length(Math.abs(depth)),
        since === undefined ? '' : clockText(since),
        since === undefined ? '' : PLAIN_WORDS.duration(Math.max(0, fix.time - since) / 1000),
      ];
    });
    this.#panel.draw(`\n${reported}\n\n${table(rows, HEAD, [2, 4])}`);
  }
}
