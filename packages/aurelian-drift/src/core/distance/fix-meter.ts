import type { Rest } from '../estimate/stillness.js';
import type { Fix } from '../fix/fix.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { RESTING_SPEED, type Meter } from './meter.js';
import type { Tally } from './tally.js';
import { TopSpeed } from './top-speed.js';

/** Measures from fix to fix, and takes each position as exact. */
export class FixMeter implements Meter {
  readonly #tally: Tally;
  readonly #top: TopSpeed;
  #last: (Position & { readonly time: number }) | undefined;
  #rest: Rest | undefined;

  constructor(tally: Tally) {
    this.#tally = tally;
    this.#top = new TopSpeed(tally);
  }

  add({ lat, lon, time }: Fix): void {
    const last = this.#last;
    this.#last = { lat, lon, time };
    if (last === undefined) return;
    const tally = this.#tally;
    const way = distance(last, { lat, lon });
    const seconds = (time - last.time) / 1000;
    const speed = seconds > 0 ? way / seconds : 0;
    if (speed >= RESTING_SPEED) {
      tally.moving += seconds;
      this.#rest = undefined;
    } else this.#rest ??= { since: last.time, place: last };
    tally.stops.add(this.#rest, time);
    if (!(way > 0)) return;
    tally.advance(last.time, time, way);
    if (seconds > 0) this.#top.move(last, last.time, { lat, lon }, time, speed);
  }

  end(): void {
    this.#last = this.#rest = undefined;
    this.#top.forget();
  }

  provisional(): void {
    // Every fix counts at once.
  }
}
