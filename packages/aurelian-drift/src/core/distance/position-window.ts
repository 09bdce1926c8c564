import { bufferSize } from '../estimate/buffer-size.js';
import { offsetTo } from '../estimate/local-offset.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';

/** The latest fixes of a run, and their offsets from the first of them. */
export class PositionWindow {
  /** Milliseconds since 1970 UTC. */
  readonly times: number[] = [];
  readonly #fixes: Fix[] = [];
  /** Metres east and north from the fix before. */
  readonly #eastward: number[] = [];
  readonly #northward: number[] = [];
  #size = 0;
  /** Seconds since the first fix, metres east and north of it, and weights; filled by `unfold`. */
  seconds = new Float64Array(0);
  east = new Float64Array(0);
  north = new Float64Array(0);
  weights = new Float64Array(0);

  get length(): number {
    return this.times.length;
  }

  get first(): number {
    return this.times[0] ?? NaN;
  }

  get last(): number {
    return this.times.at(-1) ?? NaN;
  }

  get fixes(): readonly Fix[] {
    return this.#fixes;
  }

  add(fix: Fix): void {
    const before = this.#fixes.at(-1);
    const { east, north } = offsetTo(before ?? fix, fix);
    this.#eastward.push(east);
    this.#northward.push(north);
    this.times.push(fix.time);
    this.#fixes.push(fix);
  }

  /** Forgets the fixes before a time. */
  forgetBefore(time: number): void {
    let count = 0;
    while (count < this.length && (this.times[count] as number) < time) count++;
    for (const column of [this.times, this.#fixes, this.#eastward, this.#northward]) column.splice(0, count);
  }

  clear(): void {
    this.forgetBefore(Infinity);
  }

  position(k: number): Position {
    return this.#fixes[k] as Fix;
  }

  /**
   * Computes the offsets and the weights. A fix that is coarser than the finest usual ones has less weight, by the
   * square of its radius.
   *
   * @param usual 95 % radius of usual fixes in metres; NaN when none is stated.
   */
  unfold(usual: number): void {
    const count = this.length;
    if (count > this.#size) {
      this.#size = bufferSize(count);
      const column = () => new Float64Array(this.#size);
      [this.seconds, this.east, this.north, this.weights] = [column(), column(), column(), column()];
    }
    let [x, y] = [0, 0];
    const start = this.first;
    for (let k = 0; k < count; k++) {
      x += k === 0 ? 0 : (this.#eastward[k] as number);
      y += k === 0 ? 0 : (this.#northward[k] as number);
      this.seconds[k] = ((this.times[k] as number) - start) / 1000;
      this.east[k] = x;
      this.north[k] = y;
      const ratio = usual / ((this.#fixes[k] as Fix).accuracy ?? NaN);
      this.weights[k] = ratio < 1 ? Math.max(1e-9, ratio * ratio) : 1;
    }
  }
}
