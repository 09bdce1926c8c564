import {
  journey,
  journeyOptionsOf,
  standstill,
  type JourneyOptions,
  type Moment,
} from '../core/motion/journey.js';
import type { Position } from '../core/geodesy/position.js';
import { routeFrom, type RouteGiven } from '../core/formats/route-from.js';
import type { Line, LinePoint } from '../core/trail/line.js';
import type { Clock } from '../receiver/clock.js';

/** Options of the motion of a pretend device. */
export interface MotionOptions extends Omit<JourneyOptions, 'start' | 'from'> {
  /** Position of the device. Without `at` and `route` it never finds a position. */
  readonly at?: Position;
  /** Route that it moves along, from its first watch on: a line, positions, GeoJSON, or the text of a file. */
  readonly route?: RouteGiven;
  /** At the end of the route: stay there, start again, or end the source. Default `rest`. */
  readonly afterwards?: 'rest' | 'again' | 'end';
}

/** Position of the pretend user, moment by moment, on a clock. */
export class SimulatedMotion {
  #options: MotionOptions;
  readonly #clock: Clock;
  readonly #route: Line | undefined;
  /** The line that is walked just now. */
  #walked: Line | undefined;
  #moments: Generator<Moment> | undefined;
  #last: Moment | undefined;
  #rounds = 0;
  /** A moment that was taken from the journey before its time. */
  #due: Moment | undefined;

  /** @throws {InputError} for an impossible route. */
  constructor(options: MotionOptions, clock: Clock) {
    this.#options = options;
    this.#route = options.route === undefined ? undefined : routeFrom(options.route);
    this.#clock = clock;
  }

  get setOff(): boolean {
    return this.#moments !== undefined;
  }

  /** Starts with the options, unless it was moved already. */
  begin(): void {
    const { at } = this.#options;
    if (this.#moments !== undefined) return;
    if (this.#route !== undefined) this.walk(this.#route);
    else if (at !== undefined) this.put(at);
  }

  /** At a place, from now on. */
  put(at: LinePoint): void {
    this.#walked = undefined;
    this.#start(standstill(at, this.#motion(this.#clock.now())));
  }

  walk(route: RouteGiven): void {
    this.#walked = routeFrom(route);
    this.#start(journey(this.#walked, this.#motion(this.#clock.now())));
  }

  /** Options from now on; it goes on where it is. */
  get options(): MotionOptions {
    return this.#options;
  }
  change(options: Pick<MotionOptions, 'gait' | 'reception'>): void {
    this.#options = { ...this.#options, ...options };
    const last = this.#last;
    if (this.#moments === undefined || last === undefined) return;
    this.#rounds++; // other random numbers than those of the part behind it
    const motion = this.#motion(this.#clock.now());
    this.#start(
      this.#walked !== undefined && last.along !== undefined
        ? journey(this.#walked, { ...motion, from: last.along })
        : standstill(last.truth, motion),
    );
  }

  /** Moments up to now: several when a timer was late. */
  due(): { moments: Moment[]; ended: boolean } {
    const now = this.#clock.now();
    const moments: Moment[] = [];
    for (;;) {
      this.#due ??= this.#next();
      if (this.#due === undefined) return { moments, ended: this.setOff };
      if (this.#due.truth.time > now + 1) return { moments, ended: false }; // a millisecond for rounding
      moments.push(this.#due);
      this.#due = undefined;
    }
  }

  /** Seconds until the next moment. */
  get untilNext(): number {
    this.#due ??= this.#next();
    const every = this.#options.every ?? 1;
    return this.#due === undefined ? every : Math.max(0, (this.#due.truth.time - this.#clock.now()) / 1000);
  }

  /** The next moment, beyond the end of a route as `afterwards` states. */
  #next(): Moment | undefined {
    const step = this.#moments?.next();
    if (step === undefined) return undefined;
    if (step.done !== true) {
      this.#last = step.value;
      return step.value;
    }
    const { afterwards = 'rest', every = 1 } = this.#options;
    const route = this.#route;
    const after = this.#last;
    if (afterwards === 'end' || after === undefined) return undefined;
    const start = after.truth.time + every * 1000;
    this.#rounds++;
    const motion = this.#motion(start);
    const again = afterwards === 'again' && route !== undefined;
    this.#walked = again ? route : undefined;
    this.#moments = again ? journey(route, motion) : standstill(after.truth, motion);
    return this.#next();
  }

  #start(moments: Generator<Moment>): void {
    this.#moments = moments;
    this.#due = undefined;
  }

  #motion(start: number): JourneyOptions {
    const { seed = 1 } = this.#options;
    return { ...journeyOptionsOf(this.#options), seed: seed + this.#rounds, start };
  }
}
