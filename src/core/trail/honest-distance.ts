import type { Fix } from '../fix/fix.js';
import { distanceBetween } from '../geodesy/distance.js';

/** Slower than this, in m/s, is resting: half the pace of an easy stroll. */
const RESTING_SPEED = 0.4;

interface Anchor {
  readonly lat: number;
  readonly lon: number;
  readonly time: number;
}

/**
 * Distance that noise does not inflate.
 *
 * A fix wanders within its accuracy even when the user rests, and summing those wanderings can double a
 * walk. So a move counts once it leads farther from the last counted place than the fix's own 95 % radius;
 * until then it is held back. Fixes that state no accuracy are taken at their word.
 */
export class DistanceCounter {
  distance = 0;
  rawDistance = 0;
  /** Seconds in motion. */
  moving = 0;
  topSpeed: number | undefined;
  #gated = false;
  #anchor: Anchor | undefined;
  #last: Anchor | undefined;

  get path(): 'fixes' | 'beyond-accuracy' {
    return this.#gated ? 'beyond-accuracy' : 'fixes';
  }

  add(fix: Fix): void {
    if (fix.accuracy !== undefined) this.#gated = true;
    const { lat, lon, time } = fix;
    const last = this.#last;
    const anchor = this.#anchor;
    this.#last = { lat, lon, time };
    if (last === undefined || anchor === undefined) {
      this.#anchor = this.#last;
      return;
    }
    const step = distanceBetween(last.lat, last.lon, lat, lon);
    this.rawDistance += step;
    const move = distanceBetween(anchor.lat, anchor.lon, lat, lon);
    if (!(move > (fix.accuracy ?? 0))) return;
    this.distance += move;
    this.#anchor = this.#last;
    const elapsed = (time - anchor.time) / 1000;
    if (!(elapsed > 0)) return;
    const speed = move / elapsed;
    this.topSpeed = Math.max(this.topSpeed ?? 0, speed);
    // Too slow as a whole: the user rested first, and at least the last step was a real one.
    const stepTime = (time - last.time) / 1000;
    if (speed >= RESTING_SPEED) this.moving += elapsed;
    else if (stepTime > 0 && step / stepTime >= RESTING_SPEED) this.moving += stepTime;
  }

  breakSegment(): void {
    this.#anchor = undefined;
    this.#last = undefined;
  }
}
