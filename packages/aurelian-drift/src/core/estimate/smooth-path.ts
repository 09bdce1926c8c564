import type { Fix } from '../fix/fix.js';
import { labelsOf } from '../trail/part.js';
import { Trail } from '../trail/trail.js';
import { smoothTrail } from './smooth-trail.js';

/** Fixes at the end whose smoothed places may still move, because later fixes are not known yet. */
const PROVISIONAL = 60;
/** Fixes before a new part that are smoothed again with it, so that it continues the old one. */
const CONTEXT = 120;

/**
 * The smoothed path of a trail that may grow (see `smoothTrail`), at a constant cost per fix. All but its end is
 * settled and does not change any more.
 */
export class SmoothPath {
  readonly trail: Trail;
  /** The settled part: one fix for each of the trail but the last ones. */
  readonly settled: Trail;
  #tail: readonly Fix[] = [];
  /** Number of fixes of the trail that were taken in. */
  #taken = 0;

  constructor(trail: Trail) {
    this.trail = trail;
    this.settled = new Trail(labelsOf(trail));
    this.grow();
  }

  /** The end that may still change, with the last settled fix before it unless a gap is between them. */
  get tail(): readonly Fix[] {
    return this.#tail;
  }

  /** Takes in the growth of the trail. Returns whether there was any. */
  grow(): boolean {
    const { trail, settled } = this;
    if (trail.length === this.#taken) return false;
    this.#taken = trail.length;
    const from = Math.max(0, settled.length - CONTEXT);
    const part = new Trail();
    const starts = new Set(trail.segments.map(({ start }) => start));
    for (let i = from; i < trail.length; i++) {
      if (starts.has(i)) part.breakSegment();
      part.appendFrom(trail, i);
    }
    const smooth = smoothTrail(part);
    const breaks = new Set(smooth.segments.map(({ start }) => start));
    const end = Math.max(settled.length, trail.length - PROVISIONAL);
    for (let i = settled.length; i < end; i++) {
      if (i > from && breaks.has(i - from)) settled.breakSegment();
      settled.appendFrom(smooth, i - from);
    }
    const tail: Fix[] = [];
    const last = settled.at(-1);
    if (last !== undefined && !breaks.has(end - from)) tail.push(last);
    for (let i = end; i < trail.length; i++) tail.push(smooth.at(i - from) as Fix);
    this.#tail = tail;
    return true;
  }
}
