import type { Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';

/** Metres within which a user who says nothing of accuracy may sway and be at rest. */
const LEAST_ROOM = 10;
/** Seconds without leaving that room that count as rest: a walker crosses it in half of that. */
const STILL_AFTER = 30;

/**
 * Whether the user stays where they are: no fix has left the room of its own and the first one's 95 % radius, 10 m at
 * the least, for 30 s.
 */
export class Stillness {
  #anchor: Fix | undefined;
  #latest = 0;

  add(fix: Fix): void {
    this.#latest = fix.time;
    const anchor = this.#anchor;
    const room = Math.max(LEAST_ROOM, fix.accuracy ?? 0, anchor?.accuracy ?? 0);
    if (anchor === undefined || distance(anchor, fix) > room) this.#anchor = fix;
  }

  /** Since when, milliseconds since 1970 UTC; `undefined` in motion. */
  get since(): number | undefined {
    const start = this.#anchor?.time;
    return start !== undefined && this.#latest - start >= STILL_AFTER * 1000 ? start : undefined;
  }

  forget(): void {
    this.#anchor = undefined;
  }
}
