import type { Position } from '../geodesy/position.js';
import type { Random } from '../motion/random.js';
import type { Veil } from './veil.js';

/**
 * A veil for positions that are shared live. The rest of the path is unknown, so a user who comes nearer to an area
 * than a random distance, up to the margin of the veil, is hidden, even if they only pass by. A new random distance is
 * drawn after they were beyond the whole margin. So the last position before an area and the first after it do not
 * reveal its edge.
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

  /** Whether a position must not be shared. Call it with positions in the order of the path. */
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
