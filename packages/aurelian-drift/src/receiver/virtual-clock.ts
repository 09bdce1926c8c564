import type { Clock } from './clock.js';

interface Alarm {
  readonly time: number;
  readonly order: number;
  readonly action: () => void;
}

/**
 * A clock that stands still until it is advanced: an hour passes at once, with events in the same order.
 *
 * After each alarm, promise callbacks run before the next alarm.
 */
export class VirtualClock implements Clock {
  #now: number;
  #order = 0;
  #alarms: Alarm[] = [];

  /** @param start milliseconds since 1970 UTC; by default a spring morning, 2026-05-14T08:00:00Z. */
  constructor(start = Date.UTC(2026, 4, 14, 8)) {
    this.#now = start;
  }

  now(): number {
    return this.#now;
  }

  after(seconds: number, action: () => void): () => void {
    const alarm = { time: this.#now + seconds * 1000, order: this.#order++, action };
    // Few alarms are set at a time, nearly always for a later time than the others: search from the end.
    let index = this.#alarms.length;
    while (index > 0 && (this.#alarms[index - 1] as Alarm).time > alarm.time) index--;
    this.#alarms.splice(index, 0, alarm);
    return () => {
      this.#alarms = this.#alarms.filter((each) => each !== alarm);
    };
  }

  /** Advances the clock by a number of seconds. */
  async advance(seconds: number): Promise<void> {
    const end = this.#now + seconds * 1000;
    await settled();
    while (this.#alarms.length > 0 && (this.#alarms[0] as Alarm).time <= end) await this.#ring();
    this.#now = end;
    await settled();
  }

  /** Advances the clock until a promise settles, however long that takes; fails when no alarm is left. */
  async settle<T>(promise: Promise<T>): Promise<T> {
    const wait = { over: false };
    const close = () => (wait.over = true);
    promise.then(close, close);
    await settled();
    while (!wait.over) {
      if (this.#alarms.length === 0) throw new Error('no alarm is left, and the promise is still pending');
      await this.#ring();
    }
    return promise;
  }

  async #ring(): Promise<void> {
    const alarm = this.#alarms.shift() as Alarm;
    this.#now = Math.max(this.#now, alarm.time);
    alarm.action();
    await settled();
  }
}

/**
 * Maximum length of a chain of promise callbacks between two alarms: over twice as long as the longest in the library.
 */
const ROUNDS = 120;

/** Lets promise callbacks run. */
async function settled(): Promise<void> {
  for (let round = 0; round < ROUNDS; round++) await Promise.resolve();
}
