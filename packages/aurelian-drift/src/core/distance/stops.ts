import type { Rest } from '../estimate/stillness.js';
import { distance } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';

/** Minimum rest of a stop in seconds: a wait at a gate is shorter. */
const MIN = 60;
/** Rests with this many seconds and metres between them at most are one stop. */
const SOON = 60;
const NEAR = 15;

/** A rest of a minute or more; moving about for less than a minute, within 15 m, does not end it. */
export interface Stop extends Position {
  /** Milliseconds since 1970 UTC. */
  readonly start: number;
  readonly end: number;
  /** Seconds from start to end. */
  readonly duration: number;
}

/** Collects the stops of a trail, from the rest at each fix. */
export class StopGatherer {
  /** Stops of the gatherer that this one is a copy of. */
  readonly #earlier: readonly Stop[];
  readonly #earlierCount: number;
  readonly #stops: Stop[] = [];
  /** The last stop that has ended, which another rest may continue. */
  #ended: Stop | undefined;
  #open: Stop | undefined;
  /** Start of the present rest; the stop may have started earlier. */
  #since: number | undefined;

  constructor(earlier: readonly Stop[] = []) {
    this.#earlier = earlier;
    this.#earlierCount = earlier.length;
  }

  /** @param rest `undefined` in motion. @param time of the fix, milliseconds since 1970 UTC. */
  add(rest: Rest | undefined, time: number): void {
    if (rest === undefined) {
      this.#close();
      return;
    }
    const { since, place } = rest;
    if (this.#since !== since) {
      this.#close();
      this.#since = since;
      const ended = this.#ended;
      if (ended !== undefined && since - ended.end <= SOON * 1000 && distance(ended, place) <= NEAR) {
        this.#open = ended;
        this.#ended = undefined;
      }
    }
    const start = this.#open?.start ?? since;
    this.#open = { lat: place.lat, lon: place.lon, start, end: time, duration: (time - start) / 1000 };
  }

  /** A gap: it is unknown whether the rest continues. */
  breakSegment(): void {
    this.#close();
    if (this.#ended !== undefined) this.#stops.push(this.#ended);
    this.#ended = undefined;
  }

  /** A copy that continues by itself. Copies are not copied again. */
  fork(): StopGatherer {
    const copy = new StopGatherer(this.#stops);
    copy.#ended = this.#ended;
    copy.#open = this.#open;
    copy.#since = this.#since;
    return copy;
  }

  /**
   * Returns a function that gives the stops as of now, including one in progress: a long list is not copied for each
   * fix.
   */
  snapshot(): () => Stop[] {
    const count = this.#stops.length;
    const latest = [this.#ended, this.#open];
    return () => {
      const stops = [...this.#earlier.slice(0, this.#earlierCount), ...this.#stops.slice(0, count)];
      for (const stop of latest) if (stop !== undefined && stop.duration >= MIN) stops.push(stop);
      return stops;
    };
  }

  /** The present rest has ended. */
  #close(): void {
    if (this.#open !== undefined && this.#open.duration >= MIN) {
      if (this.#ended !== undefined) this.#stops.push(this.#ended);
      this.#ended = this.#open;
    }
    this.#open = this.#since = undefined;
  }
}
