import type { Fix } from '../fix/fix.js';
import { distanceBetween } from '../geodesy/distance.js';
import { Silences } from './silence.js';

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
  /** The greatest speed held over two moves in a row: a wild place makes two quick ones, but they lead nowhere. */
  topSpeed: number | undefined;
  readonly #honest: boolean;
  readonly #silences = new Silences();
  #gated = false;
  /** The counted place before `#anchor`, of the same segment, and the speed from there. */
  #before: { readonly place: Anchor; readonly speed: number } | undefined;
  #anchor: Anchor | undefined;
  #last: Anchor | undefined;

  /** @param path `fixes` takes every fix as it stands, whatever accuracy it states. */
  constructor(path?: 'fixes') {
    this.#honest = path === undefined;
  }

  /** Time of the last counted place; `undefined` at the beginning of a segment. */
  get anchorTime(): number | undefined {
    return this.#anchor?.time;
  }

  get path(): 'fixes' | 'beyond-accuracy' {
    return this.#gated ? 'beyond-accuracy' : 'fixes';
  }

  /** Returns whether there was silence before the fix: what was gone meanwhile is not known, and not counted. */
  add(fix: Fix): boolean {
    const silent = this.#silences.heard(fix.time);
    if (silent) this.#forget();
    this.#count(fix);
    return silent;
  }

  #count(fix: Fix): void {
    if (fix.accuracy !== undefined && this.#honest) this.#gated = true;
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
    if (!(move > (this.#honest ? (fix.accuracy ?? 0) : 0))) return;
    this.distance += move;
    this.#anchor = this.#last;
    const elapsed = (time - anchor.time) / 1000;
    if (!(elapsed > 0)) return;
    const speed = move / elapsed;
    this.#top(anchor, speed, this.#last);
    // Too slow as a whole: the user rested first, and at least the last step was a real one.
    const stepTime = (time - last.time) / 1000;
    if (speed >= RESTING_SPEED) this.moving += elapsed;
    else if (stepTime > 0 && step / stepTime >= RESTING_SPEED) this.moving += stepTime;
  }

  #top(anchor: Anchor, speed: number, here: Anchor): void {
    const before = this.#before;
    this.#before = { place: anchor, speed };
    if (before === undefined) return;
    const { place } = before;
    const ahead = distanceBetween(place.lat, place.lon, here.lat, here.lon);
    const held = Math.min(before.speed, speed, (ahead * 1000) / (here.time - place.time));
    this.topSpeed = Math.max(this.topSpeed ?? 0, held);
  }

  breakSegment(): void {
    this.#silences.breakSegment();
    this.#forget();
  }

  #forget(): void {
    this.#before = undefined;
    this.#anchor = undefined;
    this.#last = undefined;
  }
}
