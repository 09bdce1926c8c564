import type { Fix } from '../fix/fix.js';
import { distanceBetween } from '../geodesy/distance.js';
import { alongStraight } from '../geodesy/straight.js';
import { Silences } from './silence.js';

/** Slower than this, in m/s, is resting: half the pace of an easy stroll. */
const RESTING_SPEED = 0.4;

/** Milliseconds over which fixes are taken together: noise of each alone evens out, and a walker is a dozen metres farther. */
const MIDDLE = 10_000;
/** So many times the accuracy must a move lead; the first of a segment farther, for the fix that it is measured from stands alone. */
const ROOM = 1.3;
const FIRST_ROOM = 2;

interface Anchor {
  readonly lat: number;
  readonly lon: number;
  readonly time: number;
}

/**
 * Distance that noise does not inflate.
 *
 * A fix wanders within its accuracy even when the user rests, and summing those wanderings can double a
 * walk. So a move counts once the middle of the last seconds' fixes is farther from the last counted place than 1.3 times the fix's own
 * 95 % radius, twice for the first move of a segment; until then it is held back. Fixes that state no accuracy are taken at their word.
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
  /** Where the fixes of the last seconds lie in the middle, and the accuracy that they usually have. */
  #middle: Anchor | undefined;
  #usual = 0;
  /** Whether a move was counted in this segment. */
  #moved = false;

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

  /** Distance and time in motion with what is held back at the moment, as far as it leads from the last counted place. */
  get totals(): { readonly distance: number; readonly moving: number } {
    const { distance, moving } = this.#held();
    return { distance: this.distance + distance, moving: this.moving + moving };
  }

  /** The way from the last counted place to the last fix: the middle lags behind a walker by some seconds. */
  #held(): { distance: number; moving: number } {
    const [anchor, last] = [this.#anchor, this.#last];
    if (!this.#moved || this.#middle === undefined || anchor === undefined || last === undefined)
      return { distance: 0, moving: 0 };
    const move = distanceBetween(anchor.lat, anchor.lon, last.lat, last.lon);
    const seconds = (last.time - anchor.time) / 1000;
    if (!(move > ROOM * this.#usual)) return { distance: 0, moving: 0 };
    return { distance: move, moving: seconds > 0 && move / seconds >= RESTING_SPEED ? seconds : 0 };
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
    const here = this.#honest && fix.accuracy !== undefined ? this.#middled(fix, fix.accuracy) : this.#last;
    const move = distanceBetween(anchor.lat, anchor.lon, here.lat, here.lon);
    const room = this.#honest ? (fix.accuracy ?? 0) * (this.#moved ? ROOM : FIRST_ROOM) : 0;
    if (!(move > room)) return;
    this.#moved = true;
    this.distance += move;
    this.#anchor = here;
    const elapsed = (time - anchor.time) / 1000;
    if (!(elapsed > 0)) return;
    const speed = move / elapsed;
    this.#top(anchor, speed, here);
    // Too slow as a whole: the user rested first, and at least the last step was a real one.
    const stepTime = (time - last.time) / 1000;
    if (speed >= RESTING_SPEED) this.moving += elapsed;
    else if (stepTime > 0 && step / stepTime >= RESTING_SPEED) this.moving += stepTime;
  }

  /** The middle of the fixes of the last seconds, the coarser counting less. */
  #middled({ lat, lon, time }: Fix, accuracy: number): Anchor {
    const before = this.#middle ?? this.#anchor ?? { lat, lon, time };
    if (this.#usual === 0) this.#usual = accuracy;
    const sure = accuracy <= this.#usual ? 1 : (this.#usual / accuracy) ** 2;
    const share = (1 - Math.exp(-Math.max(0, time - before.time) / MIDDLE)) * sure;
    this.#usual += (accuracy - this.#usual) * 0.05;
    this.#middle = { ...alongStraight(before, { lat, lon }, share), time };
    return this.#middle;
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
    const held = this.#held();
    this.distance += held.distance;
    this.moving += held.moving;
    this.#before = undefined;
    this.#anchor = undefined;
    this.#last = undefined;
    this.#middle = undefined;
    this.#moved = false;
  }
}
