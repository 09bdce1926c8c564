import type { Rest } from '../estimate/stillness.js';
import type { Position } from '../geodesy/position.js';

/** Minimum rest of a stop in seconds: a wait at a gate is shorter. */
const MIN = 60;

/** A rest of a minute or more. */
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
  #open: Stop | undefined;

  constructor(earlier: readonly Stop[] = [], open?: Stop) {
    this.#earlier = earlier;
    this.#earlierCount = earlier.length;
    this.#open = open;
  }

  /** @param rest `undefined` in motion. @param time of the fix, milliseconds since 1970 UTC. */
  add(rest: Rest | undefined, time: number): void {
    if (rest === undefined) {
      this.breakSegment();
      return;
    }
    const { lat, lon } = rest.place;
    if (this.#open?.start !== rest.since) this.breakSegment();
    this.#open = { lat, lon, start: rest.since, end: time, duration: (time - rest.since) / 1000 };
  }

  /** A gap: it is unknown whether the rest continues. */
  breakSegment(): void {
    if (this.#open !== undefined && this.#open.duration >= MIN) this.#stops.push(this.#open);
    this.#open = undefined;
  }

  /** A copy that continues by itself. Copies are not copied again. */
  fork(): StopGatherer {
    return new StopGatherer(this.#stops, this.#open);
  }

  /**
   * Returns a function that gives the stops as of now, including one in progress: a long list is not copied for each
   * fix.
   */
  snapshot(): () => Stop[] {
    const [count, open] = [this.#stops.length, this.#open];
    return () => {
      const stops = [...this.#earlier.slice(0, this.#earlierCount), ...this.#stops.slice(0, count)];
      if (open !== undefined && open.duration >= MIN) stops.push(open);
      return stops;
    };
  }
}
