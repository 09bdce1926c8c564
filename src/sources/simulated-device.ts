import { anything, checkOptions, numberFrom, oneOf } from '../core/check/options.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import { position, type Position } from '../core/geodesy/position.js';
import { GAIT_NAMES } from '../core/motion/gait.js';
import { checkJourney, journey, stay, type JourneyOptions, type Moment } from '../core/motion/journey.js';
import { RECEPTION_NAMES } from '../core/motion/reception.js';
import type { Line, LinePoint } from '../core/trail/line.js';
import type { AccessReading, Level } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Demand, Source, SourceSink } from '../receiver/source.js';

/** How the pretend user answers a prompt. */
export type Answer = 'grant' | 'refuse' | 'bar' | 'never';

export interface SimulatedDeviceOptions extends Omit<JourneyOptions, 'start'> {
  /** Where the device is. Nothing is built in: without `at` and `route` it never finds a position. */
  readonly at?: Position;
  /** A line it goes along, from the moment it is first watched. */
  readonly route?: Line;
  /** At the end of the route: stay there, go round again, or end the source. Default `rest`. */
  readonly afterwards?: 'rest' | 'again' | 'end';
  readonly clock?: Clock;
  /** Seconds from the start of a watch to its first fix. Default 1. */
  readonly warmUp?: number;
  /** Permission before anybody asks. Default `not-asked`. */
  readonly permission?: 'not-asked' | 'granted' | 'barred';
  /** Default `grant`. */
  readonly answer?: Answer;
  /** Seconds the pretend user thinks before answering. Default 0. */
  readonly thinking?: number;
}

/**
 * A whole pretend device, as a source: somebody walks a route with it, is asked for permission, loses the signal,
 * turns the switch off. Everything goes by the clock it is given; the same seed gives the same fixes.
 */
export class SimulatedDevice implements Source {
  readonly name = 'the simulated device';
  readonly supported = true;
  /** How the next prompt is answered. */
  answer: Answer;
  /** Seconds until it is. */
  thinking: number;
  readonly #options: SimulatedDeviceOptions;
  readonly #clock: Clock;
  readonly #listeners = new Set<() => void>();
  readonly #sinks = new Set<SourceSink>();
  #permission: AccessReading['permission'];
  #level: AccessReading['level'] = 'none';
  #switchedOn = true;
  #signal = true;
  #prompts = 0;
  #moments: Generator<Moment> | undefined;
  #last: Moment | undefined;
  #rounds = 0;
  /** A moment taken from the journey before its time. */
  #due: Moment | undefined;

  /** @throws {InputError} for a misspelt option or a value out of range. */
  constructor(options: SimulatedDeviceOptions = {}) {
    const { at, clock, permission, answer, thinking, gait, every, reception, seed } = options;
    checkOptions('SimulatedDevice', options, {
      at: anything,
      route: anything,
      afterwards: oneOf('rest', 'again', 'end'),
      clock: anything,
      warmUp: numberFrom(0, 3600, 'seconds'),
      permission: oneOf('not-asked', 'granted', 'barred'),
      answer: oneOf('grant', 'refuse', 'bar', 'never'),
      thinking: numberFrom(0, 86_400, 'seconds'),
      gait: oneOf(...GAIT_NAMES),
      reception: oneOf(...RECEPTION_NAMES),
      every: numberFrom(0.05, 3600, 'seconds'),
      seed: anything,
    });
    checkJourney({ gait, every, reception, seed });
    if (at !== undefined) position(at.lat, at.lon);
    this.#options = { ...options };
    this.#clock = clock ?? systemClock;
    this.#permission = permission ?? 'not-asked';
    this.#level = permission === 'granted' ? 'foreground' : 'none';
    this.answer = answer ?? 'grant';
    this.thinking = thinking ?? 0;
  }

  /** How many prompts were shown. */
  get prompts(): number {
    return this.#prompts;
  }

  /** How many watches are open: the receiver is on while it is above 0. */
  get watches(): number {
    return this.#sinks.size;
  }

  /** Whether satellites are heard. Without them, a watch is told `no-signal` once, and then nothing. */
  get signal(): boolean {
    return this.#signal;
  }
  set signal(heard: boolean) {
    if (this.#signal && !heard)
      for (const sink of [...this.#sinks]) sink.trouble(new NoFixError('no-signal'));
    this.#signal = heard;
  }

  /** The device's own switch. */
  get switchedOn(): boolean {
    return this.#switchedOn;
  }
  set switchedOn(on: boolean) {
    this.#switchedOn = on;
    if (!on) this.#endAll(new NoFixError('switched-off'));
    this.#changed();
  }

  /** Puts the device somewhere, at once; whoever watches is told. */
  moveTo(at: LinePoint): void {
    position(at.lat, at.lon);
    this.#start(stay(at, this.#motion(this.#clock.now())));
    const moment = this.#moments?.next().value as Moment | undefined;
    if (moment?.fix !== undefined && this.#signal) for (const sink of [...this.#sinks]) sink.fix(moment.fix);
  }

  /** Sets off along a line, now. */
  walk(route: Line): void {
    this.#start(journey(route, this.#motion(this.#clock.now())));
  }

  /** The user takes the permission back in the settings. */
  withdraw(): void {
    this.#permission = 'barred';
    this.#level = 'none';
    this.#endAll(new NoFixError('barred'));
    this.#changed();
  }

  /** Forgets the user's decision, as a fresh installation would. */
  reset(): void {
    this.#permission = 'not-asked';
    this.#level = 'none';
    this.#changed();
  }

  readAccess(): Promise<AccessReading> {
    return Promise.resolve({
      support: 'yes',
      secure: 'yes',
      policy: 'allowed',
      switch: this.#switchedOn ? 'on' : 'off',
      permission: this.#permission,
      level: this.#level,
      precision: this.#permission === 'granted' ? 'precise' : 'unknown',
    });
  }

  onAccess(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => void this.#listeners.delete(listener);
  }

  prompt(level: Level): Promise<void> {
    this.#prompts++;
    return new Promise((resolve) => {
      if (this.answer === 'never') return;
      this.#clock.after(this.thinking, () => {
        this.#permission = this.answer === 'grant' ? 'granted' : this.answer === 'bar' ? 'barred' : 'refused';
        this.#level = this.answer === 'grant' ? level : 'none';
        this.#changed();
        resolve();
      });
    });
  }

  watch(_demand: Demand, sink: SourceSink): () => void {
    if (this.#permission !== 'granted') {
      // The platform's own call would prompt here; the library always asks first, so this is its last guard.
      sink.trouble(new NoFixError(this.#permission === 'barred' ? 'barred' : 'refused'));
      return () => {};
    }
    this.#sinks.add(sink);
    if (!this.#signal) sink.trouble(new NoFixError('no-signal'));
    let cancel = this.#clock.after(this.#options.warmUp ?? 1, () => {
      if (this.#moments === undefined) this.#setOff();
      // What passed while nobody watched is not delivered: only where the user is now.
      const { moments, ended } = this.#momentsDue();
      deliver(moments.slice(-1), ended);
    });
    const deliver = (moments: readonly Moment[], ended: boolean) => {
      for (const { fix } of moments)
        if (fix !== undefined && this.#signal && this.#sinks.has(sink)) sink.fix(fix);
      if (!this.#sinks.has(sink)) return;
      if (ended) sink.end();
      else cancel = this.#clock.after(this.#untilNext(), tick);
    };
    const tick = () => {
      const { moments, ended } = this.#momentsDue();
      deliver(moments, ended);
    };
    return () => {
      this.#sinks.delete(sink);
      cancel();
    };
  }

  /** The moments that are due by now: several when a timer was late. */
  #momentsDue(): { moments: Moment[]; ended: boolean } {
    const now = this.#clock.now();
    const moments: Moment[] = [];
    for (;;) {
      this.#due ??= this.#next();
      if (this.#due === undefined) return { moments, ended: this.#moments !== undefined };
      if (this.#due.truth.time > now + 1) return { moments, ended: false }; // a millisecond for rounding
      moments.push(this.#due);
      this.#due = undefined;
    }
  }

  #untilNext(): number {
    this.#due ??= this.#next();
    const every = this.#options.every ?? 1;
    return this.#due === undefined ? every : Math.max(0, (this.#due.truth.time - this.#clock.now()) / 1000);
  }

  /** The next moment, over the end of a route as `afterwards` has it. */
  #next(): Moment | undefined {
    const step = this.#moments?.next();
    if (step === undefined) return undefined;
    if (step.done !== true) {
      this.#last = step.value;
      return step.value;
    }
    const { afterwards = 'rest', route, every = 1 } = this.#options;
    const after = this.#last;
    if (afterwards === 'end' || after === undefined) return undefined;
    const start = after.truth.time + every * 1000;
    this.#rounds++;
    const motion = this.#motion(start);
    this.#moments =
      afterwards === 'again' && route !== undefined ? journey(route, motion) : stay(after.truth, motion);
    return this.#next();
  }

  #setOff(): void {
    const { at, route } = this.#options;
    const motion = this.#motion(this.#clock.now());
    if (route !== undefined) this.#start(journey(route, motion));
    else if (at !== undefined) this.#start(stay(at, motion));
  }

  #start(moments: Generator<Moment>): void {
    this.#moments = moments;
    this.#due = undefined;
  }

  #motion(start: number): JourneyOptions {
    const { gait = 'walk', every = 1, reception = 'open', seed = 1 } = this.#options;
    return { gait, every, reception, seed: seed + this.#rounds, start };
  }

  #endAll(error: NoFixError): void {
    for (const sink of [...this.#sinks]) {
      this.#sinks.delete(sink);
      sink.trouble(error);
    }
  }

  #changed(): void {
    for (const listener of [...this.#listeners]) listener();
  }
}
