import type { ServiceFailureTexts } from '../core/texts/texts.js';
import { abortable } from '../receiver/abortable.js';
import type { Clock } from '../receiver/clock.js';
import { ServiceError, serviceError } from '../core/service/service-error.js';

export interface AskingOptions {
  readonly patience: number;
  readonly retries: number;
  readonly every: number;
  readonly clock: Clock;
  readonly texts: Partial<ServiceFailureTexts> | undefined;
  /** Whether an error is an answer, such as that there is no way: it is passed on as it is. */
  readonly isAnswer?: (cause: unknown) => boolean;
}

/** Seconds before the second try; each later pause is twice as long. */
const FIRST_PAUSE = 1;
/** Maximum pause in seconds that a service may request. */
const LONGEST_PAUSE = 30;

/**
 * Sends requests with a time limit per try, further tries after temporary failures, and a minimum time between
 * requests.
 */
export class Asking {
  readonly #options: AskingOptions;
  /** Earliest time of the next request, milliseconds since 1970 UTC. */
  #next = 0;
  #count = 0;

  constructor(options: AskingOptions) {
    this.#options = options;
  }

  /** Number of tries so far. */
  get count(): number {
    return this.#count;
  }

  /**
   * Resolves with the result of `ask`, from one of the tries.
   *
   * @throws {ServiceError} of the last try, or the reason of the signal.
   */
  async ask<Answer>(
    ask: (ends: AbortSignal) => Promise<Answer> | undefined,
    signal: AbortSignal | undefined,
  ): Promise<Answer> {
    const { texts } = this.#options;
    for (let tries = 0; ; tries++) {
      await this.#turn(signal);
      signal?.throwIfAborted();
      try {
        return await this.#try(ask, signal);
      } catch (cause) {
        signal?.throwIfAborted();
        if (this.#options.isAnswer?.(cause) === true) throw cause;
        const failure = serviceError(cause);
        const error = texts === undefined ? failure : failure.with(texts);
        const pause = error.retryAfter ?? FIRST_PAUSE * 2 ** tries;
        if (!error.passing || tries >= this.#options.retries || pause > LONGEST_PAUSE) throw error;
        await this.#wait(pause, signal);
      }
    }
  }

  /** Waits for the earliest time of the next request. */
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
      ends.abort(new ServiceError('timed-out', { note: `${patience} s` })),
    );
    this.#count++;
    try {
      const answer = ask(ends.signal);
      if (answer === undefined) throw new ServiceError('unsupported');
      // A provider that ignores its signal is not waited for.
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
