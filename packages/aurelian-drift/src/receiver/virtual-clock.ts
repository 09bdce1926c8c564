import type { Clock } from './clock.js';

interface Alarm {
  readonly time: number;
  readonly order: number;
  readonly action: () => void;
}

/**
 * A clock that stands still until it is told to go on: an hour passes in no time, in the same order of events.
 *
 * After each alarm, what awaits it may run before the next one rings.
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
    // Few alarms are set at a time, nearly always for later than the others: search from the end.
    let index = this.#alarms.length;
    while (index > 0 && (this.#alarms[index - 1] as Alarm).time > alarm.time) index--;
    this.#alarms.splice(index, 0, alarm);
    return () => {
      this.#alarms = this.#alarms.filter((each) => each !== alarm);
    };
  }

  /** Lets so many seconds pass. */
  async advance(seconds: number): Promise<void> {
    const end = this.#now + seconds * 1000;
    await settled();
    while (this.#alarms.length > 0 && (this.#alarms[0] as Alarm).time <= end) await this.#ring();
    this.#now = end;
    await settled();
  }

  /** Lets time pass until a promise settles, however long that takes; fails when no alarm is left to wait for. */
  async settle<T>(promise: Promise<T>): Promise<T> {
    const wait = { over: false };
    const close = () => (wait.over = true);
    promise.then(close, close);
    await settled();
    while (!wait.over) {
      if (this.#alarms.length === 0)
        throw new Error('nothing is due any more, and the promise is still open');
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
 * Promise callbacks in a chain that may run between two alarms: over twice as many as the longest chain of the library
 * has.
 */
const ROUNDS = 120;

/** Lets promise callbacks run. */
async function settled(): Promise<void> {
  for (let round = 0; round < ROUNDS; round++) await Promise.resolve();
}
