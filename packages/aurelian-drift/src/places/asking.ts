import type { PlaceFailureTexts } from '../core/texts/texts.js';
import { abortable } from '../receiver/abortable.js';
import type { Clock } from '../receiver/clock.js';
import { PlaceError, placeError } from '../core/place/place-error.js';

export interface AskingOptions {
  readonly patience: number;
  readonly retries: number;
  readonly every: number;
  readonly clock: Clock;
  readonly texts: Partial<PlaceFailureTexts> | undefined;
}

/** Seconds before the first further try; each next waits twice as long. */
const FIRST_PAUSE = 1;
/** Seconds that a service may ask to be left alone and still be asked again. */
const LONGEST_PAUSE = 30;

/** Asks with patience: each try ends in time, what may pass is tried again, and questions keep a distance in time. */
export class Asking {
  readonly #options: AskingOptions;
  /** When the next question may be put, milliseconds since 1970 UTC. */
  #next = 0;
  #count = 0;

  constructor(options: AskingOptions) {
    this.#options = options;
  }

  /** How many tries there were. */
  get count(): number {
    return this.#count;
  }

  /**
   * What `ask` resolves with, in one of the tries.
   *
   * @throws {PlaceError} of the last try, or the signal's reason.
   */
  async ask<Answer>(
    ask: (ends: AbortSignal) => Promise<Answer> | undefined,
    signal: AbortSignal | undefined,
  ): Promise<Answer> {
    const { texts } = this.#options;
    for (let tries = 0; ; tries++) {
      await this.#turn(signal);
      try {
        return await this.#try(ask, signal);
      } catch (cause) {
        signal?.throwIfAborted();
        const failure = placeError(cause);
        const error = texts === undefined ? failure : failure.with(texts);
        const pause = error.retryAfter ?? FIRST_PAUSE * 2 ** tries;
        if (!error.passing || tries >= this.#options.retries || pause > LONGEST_PAUSE) throw error;
        await this.#wait(pause, signal);
      }
    }
  }

  /** Waits until it is time for a further question. */
  async #turn(signal: AbortSignal | undefined): Promise<void> {
    const { clock, every } = this.#options;
    const now = clock.now();
    const start = Math.max(now, this.#next);
    this.#next = start + every * 1000;
    if (start > now) await this.#wait((start - now) / 1000, signal);
  }

  async #try<Answer>(
    ask: (ends: AbortSignal) => Promise<Answer> | undefined,
    signal: AbortSignal | undefined,
  ): Promise<Answer> {
    const ends = new AbortController();
    const cancel = () => ends.abort(signal?.reason);
    signal?.addEventListener('abort', cancel, { once: true });
    const { clock, patience } = this.#options;
    const stopWaiting = clock.after(patience, () =>
      ends.abort(new PlaceError('timed-out', { note: `${patience} s` })),
    );
    this.#count++;
    try {
      const answer = ask(ends.signal);
      if (answer === undefined) throw new PlaceError('unsupported');
      // A provider that does not heed its signal is not waited for.
      return await abortable(answer, ends.signal);
    } catch (cause) {
      throw ends.signal.aborted ? ends.signal.reason : cause;
    } finally {
      stopWaiting();
      signal?.removeEventListener('abort', cancel);
    }
  }

  #wait(seconds: number, signal: AbortSignal | undefined): Promise<void> {
    let cancel = () => {};
    const waited = new Promise<void>((resolve) => (cancel = this.#options.clock.after(seconds, resolve)));
    return abortable(waited, signal).finally(() => cancel());
  }
}
