import { Silences } from '../distance/silence.js';
import type { Trail } from '../trail/trail.js';
import { mercatorX, mercatorY } from './mercator.js';

/** Zooms with a level of their own; each keeps the points that are a pixel apart at its zoom. */
const MIN_LEVEL = 2;
const MAX_LEVEL = 19;
/** Points of a block: blocks outside a picture are skipped. */
const BLOCK = 128;
/** Marks a kept point that begins a run. */
const BEGINS = 0x80000000;

/** The points of a trail for one zoom. */
class PyramidLevel {
  /** Squared distance, on the Mercator square, from which a point is kept. */
  readonly min: number;
  /** Indices of fixes, in order; `BEGINS` set for the first of a run. */
  kept = new Uint32Array(256);
  count = 0;
  /** [x1, y1, x2, y2] of each block. */
  boxes = new Float64Array(64);

  constructor(zoom: number) {
    this.min = (1 / (256 * 2 ** zoom)) ** 2;
  }

  add(index: number, begins: boolean, x: number, y: number): void {
    if (this.count === this.kept.length) this.kept = grown(this.kept, new Uint32Array(this.count * 2));
    this.kept[this.count] = begins ? index | BEGINS : index;
    const block = Math.floor(this.count / BLOCK);
    if (block * 4 + 4 > this.boxes.length)
      this.boxes = grown(this.boxes, new Float64Array(this.boxes.length * 2));
    const { boxes } = this;
    const at = block * 4;
    if (this.count % BLOCK === 0) {
      boxes[at] = boxes[at + 2] = x;
      boxes[at + 1] = boxes[at + 3] = y;
    } else {
      boxes[at] = Math.min(boxes[at] as number, x);
      boxes[at + 1] = Math.min(boxes[at + 1] as number, y);
      boxes[at + 2] = Math.max(boxes[at + 2] as number, x);
      boxes[at + 3] = Math.max(boxes[at + 3] as number, y);
    }
    this.count++;
  }
}

/** Takes the points of a run, in order: the first, and each after it. */
export interface RunSink {
  begin(index: number, x: number, y: number): void;
  go(index: number, x: number, y: number): void;
}

/**
 * A trail prepared for drawing at any zoom: for each zoom the points that a picture can show, in blocks that are
 * skipped outside the picture. It grows with the trail, at a constant cost per fix, and does not change the trail.
 */
export class TrailPyramid {
  readonly #trail: Trail;
  /** The line is broken at silences, because the path is unknown. */
  readonly #silences = new Silences();
  readonly #levels: readonly PyramidLevel[];
  /** Points on the Mercator square, unwrapped, so that a run never jumps across the date line. */
  #xs = new Float64Array(1024);
  #ys = new Float64Array(1024);
  #length = 0;
  #segments = 0;

  constructor(trail: Trail) {
    this.#trail = trail;
    this.#levels = Array.from(
      { length: MAX_LEVEL - MIN_LEVEL + 1 },
      (_, i) => new PyramidLevel(MIN_LEVEL + i),
    );
    this.grow();
  }

  get trail(): Trail {
    return this.#trail;
  }

  /** Number of fixes taken in: the vertices of the line. */
  get length(): number {
    return this.#length;
  }

  /** Takes in the growth of the trail. Returns whether there was any. */
  grow(): boolean {
    const { length, segments } = this.#trail;
    if (length === this.#length) return false;
    if (length > this.#xs.length) {
      const size = Math.max(length, this.#xs.length * 2);
      this.#xs = grown(this.#xs, new Float64Array(size));
      this.#ys = grown(this.#ys, new Float64Array(size));
    }
    for (let i = this.#length; i < length; i++) {
      const starts = segments[this.#segments]?.start === i;
      if (starts) this.#segments++;
      if (starts) this.#silences.breakSegment();
      const spared = this.#trail.isMarked(i, 'planned-gap');
      this.#add(i, this.#silences.received(this.#trail.number(i, 'time'), spared) || starts);
    }
    this.#length = length;
    return true;
  }

  #add(i: number, begins: boolean): void {
    const y = mercatorY(this.#trail.number(i, 'lat'));
    let x = mercatorX(this.#trail.number(i, 'lon'));
    if (i > 0) x -= Math.round(x - (this.#xs[i - 1] as number));
    this.#xs[i] = x;
    this.#ys[i] = y;
    for (const level of this.#levels) {
      if (begins) {
        // The last point of the run before it ends that run, wherever it lies.
        const last = level.count === 0 ? i - 1 : (level.kept[level.count - 1] as number) & ~BEGINS;
        if (i > 0 && last >>> 0 !== i - 1)
          level.add(i - 1, false, this.#xs[i - 1] as number, this.#ys[i - 1] as number);
        level.add(i, true, x, y);
        continue;
      }
      const before = ((level.kept[level.count - 1] as number) & ~BEGINS) >>> 0;
      const dx = x - (this.#xs[before] as number);
      const dy = y - (this.#ys[before] as number);
      if (dx * dx + dy * dy >= level.min) level.add(i, false, x, y);
    }
  }

  /**
   * The finest level, as a zoom, with at most a number of points near a box, and their number: denser points look like
   * one colour.
   */
  detailFor(
    zoom: number,
    box: readonly [number, number, number, number],
    max: number,
  ): { readonly zoom: number; readonly points: number } {
    let level = this.#levelOf(zoom);
    let points = this.#countNear(this.#levels[level] as PyramidLevel, box);
    while (level > 0 && points > max) points = this.#countNear(this.#levels[--level] as PyramidLevel, box);
    return { zoom: MIN_LEVEL + level, points };
  }

  #levelOf(zoom: number): number {
    return Math.max(0, Math.min(this.#levels.length - 1, Math.ceil(zoom) - MIN_LEVEL));
  }

  #countNear({ count, boxes }: PyramidLevel, box: readonly [number, number, number, number]): number {
    let near = 0;
    for (let start = 0, at = 0; start < count; start += BLOCK, at += 4) {
      const x1 = boxes[at] as number;
      const x2 = boxes[at + 2] as number;
      const shift = Math.round((box[0] + box[2]) / 2 - (x1 + x2) / 2);
      if (x2 + shift < box[0] || x1 + shift > box[2]) continue;
      if ((boxes[at + 3] as number) < box[1] || (boxes[at + 1] as number) > box[3]) continue;
      near += Math.min(BLOCK, count - start);
    }
    return near;
  }

  /**
   * The runs near a box of the Mercator square, with the points for a zoom. The box may be in any copy of the world.
   * The end of the trail is always included.
   */
  visit(zoom: number, box: readonly [number, number, number, number], sink: RunSink): void {
    const level = this.#levels[
      Math.max(0, Math.min(this.#levels.length - 1, Math.ceil(zoom) - MIN_LEVEL))
    ] as PyramidLevel;
    const { kept, count, boxes } = level;
    for (let start = 0; start < count; start += BLOCK) {
      const end = Math.min(start + BLOCK, count);
      const at = (start / BLOCK) * 4;
      // The line of a block continues to the first point of the next one.
      const next =
        end < count && ((kept[end] as number) & BEGINS) === 0
          ? ((kept[end] as number) & ~BEGINS) >>> 0
          : undefined;
      const nextX = next === undefined ? (boxes[at] as number) : (this.#xs[next] as number);
      const nextY = next === undefined ? (boxes[at + 1] as number) : (this.#ys[next] as number);
      const x1 = Math.min(boxes[at] as number, nextX);
      const x2 = Math.max(boxes[at + 2] as number, nextX);
      const shift = Math.round((box[0] + box[2]) / 2 - (x1 + x2) / 2);
      if (x2 + shift < box[0] || x1 + shift > box[2]) continue;
      if (
        Math.max(boxes[at + 3] as number, nextY) < box[1] ||
        Math.min(boxes[at + 1] as number, nextY) > box[3]
      )
        continue;
      for (let k = start; k < end; k++) {
        const index = ((kept[k] as number) & ~BEGINS) >>> 0;
        const x = (this.#xs[index] as number) + shift;
        if (k === start || ((kept[k] as number) & BEGINS) !== 0)
          sink.begin(index, x, this.#ys[index] as number);
        else sink.go(index, x, this.#ys[index] as number);
      }
      if (next !== undefined) sink.go(next, nextX + shift, nextY);
      else if (end === count) this.#finish(level, shift, sink);
    }
  }

  /** From the last kept point to the end of the trail. */
  #finish(level: PyramidLevel, shift: number, sink: RunSink): void {
    const last = this.#length - 1;
    if (level.count === 0 || ((level.kept[level.count - 1] as number) & ~BEGINS) >>> 0 === last) return;
    sink.go(last, (this.#xs[last] as number) + shift, this.#ys[last] as number);
  }

  /** A point of the trail on the Mercator square. */
  at(index: number): readonly [x: number, y: number] {
    return [this.#xs[index] ?? NaN, this.#ys[index] ?? NaN];
  }
}

function grown<Numbers extends Uint32Array | Float64Array>(from: Numbers, to: Numbers): Numbers {
  to.set(from);
  return to;
}
