import { checkOptions, numberFrom } from '../core/check/options.js';
import { systemClock, type Clock } from './clock.js';

/** A clock that runs faster or slower than another one. */
export interface ScaledClock extends Clock {
  /** How many times as fast as the other clock it runs, 0 to 100 000. At 0 it stands still, and its alarms wait. */
  tempo: number;
}

interface Alarm {
  /** Time of this clock at which it rings, in milliseconds. */
  readonly due: number;
  readonly action: () => void;
  cancel: () => void;
}

/**
 * A clock that starts at `start` (milliseconds since 1970 UTC) and runs `tempo` times as fast as another clock.
 *
 * @throws {InputError} for a tempo that is none.
 */
export function scaledClock(tempo: number, start: number, base: Clock = systemClock): ScaledClock {
  return base.steady === undefined
    ? new Scaled(tempo, start, base)
    : new SteadyScaled(tempo, start, base, () => base.steady?.() ?? NaN);
}

class Scaled implements ScaledClock {
  readonly #base: Clock;
  readonly #pace: Pace;
  readonly #alarms = new Set<Alarm>();

  constructor(tempo: number, start: number, base: Clock) {
    this.#base = base;
    this.#pace = new Pace(checked(tempo), start, () => base.now());
  }

  get tempo(): number {
    return this.#pace.tempo;
  }
  set tempo(tempo: number) {
    this.#pace.tempo = checked(tempo);
    for (const alarm of this.#alarms) {
      alarm.cancel();
      this.#set(alarm);
    }
  }

  now(): number {
    return this.#pace.now();
  }

  after(seconds: number, action: () => void): () => void {
    const alarm: Alarm = { due: this.now() + seconds * 1000, action, cancel() {} };
    this.#alarms.add(alarm);
    this.#set(alarm);
    return () => {
      alarm.cancel();
      this.#alarms.delete(alarm);
    };
  }

  #set(alarm: Alarm): void {
    if (this.tempo === 0) {
      alarm.cancel = () => {};
      return;
    }
    alarm.cancel = this.#base.after(Math.max(0, alarm.due - this.now()) / 1000 / this.tempo, () => {
      this.#alarms.delete(alarm);
      alarm.action();
    });
  }
}

/** Over a clock that has steady time. */
class SteadyScaled extends Scaled {
  readonly #steady: Pace;

  constructor(tempo: number, start: number, base: Clock, steady: () => number) {
    super(tempo, start, base);
    this.#steady = new Pace(tempo, steady() * tempo, steady);
  }

  override get tempo(): number {
    return super.tempo;
  }
  override set tempo(tempo: number) {
    super.tempo = tempo;
    this.#steady.tempo = tempo;
  }

  steady(): number {
    return this.#steady.now();
  }
}

/** A time that runs at a pace, and goes on from where it is when the pace is changed. */
class Pace {
  readonly #base: () => number;
  #tempo: number;
  #time: number;
  /** Time of the base at which the pace began. */
  #since: number;

  constructor(tempo: number, start: number, base: () => number) {
    this.#base = base;
    this.#tempo = tempo;
    this.#time = start;
    this.#since = base();
  }

  get tempo(): number {
    return this.#tempo;
  }
  set tempo(tempo: number) {
    this.#time = this.now();
    this.#since = this.#base();
    this.#tempo = tempo;
  }

  now(): number {
    return this.#time + (this.#base() - this.#since) * this.#tempo;
  }
}

function checked(tempo: number): number {
  checkOptions('scaledClock', { tempo }, { tempo: numberFrom(0, 100_000, '') });
  return tempo;
}
