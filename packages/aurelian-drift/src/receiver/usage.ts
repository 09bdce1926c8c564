import type { Demand } from './source.js';

/**
 * Accuracy in metres from which a position of the network is sufficient, so that the satellite receiver may stay off.
 */
export const ROUGH_WILL_DO = 500;

/** Demand of a watch on the device: `fine` keeps the satellite receiver on. */
export function demandLevel({ accuracy }: Demand): 'fine' | 'rough' {
  return accuracy === undefined || accuracy < ROUGH_WILL_DO ? 'fine' : 'rough';
}

/** Use of the device. */
export interface Usage {
  /** Seconds for which the receiver of the device was on for this app, in total and by demand. */
  readonly receiverOn: number;
  readonly fine: number;
  readonly rough: number;
  /** Watches open on the device now, 0 or 1, and the number opened so far. */
  readonly openWatches: number;
  readonly watchesOpened: number;
}

/** Measures the time with the receiver on. */
export class UsageMeter {
  readonly #seconds = { fine: 0, rough: 0 };
  readonly #now: () => number;
  #running: { level: 'fine' | 'rough'; since: number } | undefined;
  #opened = 0;

  constructor(now: () => number) {
    this.#now = now;
  }

  start(demand: Demand): void {
    this.stop();
    this.#running = { level: demandLevel(demand), since: this.#now() };
    this.#opened++;
  }

  stop(): void {
    const running = this.#running;
    if (running !== undefined) this.#seconds[running.level] += (this.#now() - running.since) / 1000;
    this.#running = undefined;
  }

  get usage(): Usage {
    const running = this.#running;
    const open = running === undefined ? 0 : (this.#now() - running.since) / 1000;
    const fine = this.#seconds.fine + (running?.level === 'fine' ? open : 0);
    const rough = this.#seconds.rough + (running?.level === 'rough' ? open : 0);
    const openWatches = running === undefined ? 0 : 1;
    return { receiverOn: fine + rough, fine, rough, openWatches, watchesOpened: this.#opened };
  }
}
