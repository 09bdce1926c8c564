import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import type { Tally } from './tally.js';

/**
 * Finds the greatest speed over two moves in a row, which also holds from the start of the first to the end of the
 * second: an outlier makes two fast moves, but they lead nowhere.
 */
export class TopSpeed {
  readonly #tally: Tally;
  #before: { readonly position: Position; readonly time: number; readonly speed: number } | undefined;

  constructor(tally: Tally) {
    this.#tally = tally;
  }

  /** Takes a move. Times in milliseconds since 1970 UTC, speed in m/s. */
  move(from: Position, left: number, to: Position, arrived: number, speed: number): void {
    const before = this.#before;
    this.#before = { position: from, time: left, speed };
    if (before === undefined) return;
    const direct = (distance(before.position, to) * 1000) / (arrived - before.time);
    this.#tally.speed(Math.min(before.speed, speed, direct));
  }

  /** Starts a new run. */
  forget(): void {
    this.#before = undefined;
  }
}
