import type { Position } from '../geodesy/position.js';
import type { Random } from '../motion/random.js';
import type { Veil } from './veil.js';

/**
 * A veil for positions that are shared as they come. What is to come is not known, so whoever comes nearer to an area
 * than chance says, up to the veil's margin, is hidden, also if they only pass; chance is asked anew once they were
 * beyond the whole margin. So the last place before an area and the first after it do not draw its edge.
 */
export class LiveVeil {
  readonly #veil: Veil;
  readonly #random: Random;
  #margin: number;

  constructor(veil: Veil, random: Random) {
    this.#veil = veil;
    this.#random = random;
    this.#margin = this.#draw();
  }

  /** Whether a position must not be shared. Positions are asked in the order they come. */
  hides(at: Position): boolean {
    const away = this.#veil.away(at);
    const hidden = away === 0 || away < this.#margin;
    if (!hidden && away > this.#veil.margin) this.#margin = this.#draw();
    return hidden;
  }

  #draw(): number {
    return this.#random.uniform() * this.#veil.margin;
  }
}
