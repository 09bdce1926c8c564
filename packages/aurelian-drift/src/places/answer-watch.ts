import {
  abortSignal, anything, callable, checkOptions, numberFrom, patienceSeconds, seconds,
} from '../core/check/options.js'; // prettier-ignore
import type { Fix } from '../core/fix/fix.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { rounded } from '../core/geodesy/rounded.js';
import type { Texts } from '../core/texts/texts.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { AnswerCache } from '../service/answer-cache.js';
import { Asking } from '../service/asking.js';
import { FollowedQuestion, hasMoved, type QuestionReading } from '../service/followed-question.js';
import type { PlaceService } from './place-service.js';

/** Options of `AnswerWatch`. */
export interface AnswerWatchOptions<Answer> {
  /**
   * The question to the app's own service, for a position: tides, notices, prices around. The signal aborts when
   * patience ends or the watch is closed. Let it reject with a `ServiceError` where the kind of failure is known.
   */
  readonly ask: (where: Position, signal: AbortSignal) => Promise<Answer>;
  /** Metres that the user must move before the next question, and at least the accuracy of the fix. Default 500. */
  readonly beyond?: number;
  /** Metres that positions are rounded to before they leave the device, 1 to 1 000 000. Default: not rounded. */
  readonly rounding?: number;
  /** Seconds after which an answer is asked for anew where the user is still. Default: never. */
  readonly refresh?: number;
  /** Maximum seconds for one try. Default 8. */
  readonly patience?: number;
  /** Number of further tries after a temporary failure. Default 2. */
  readonly retries?: number;
  /** Minimum seconds between two requests. Default 0. */
  readonly every?: number;
  /** Maximum number of stored answers; 0 for none. Default 50. */
  readonly keep?: number;
  /** Seconds for which an answer is stored, and used where the user comes back. Default 600. */
  readonly keepFor?: number;
  /** Names the place of an answer. Default: no names. */
  readonly places?: PlaceService;
  /** Clock of time-outs and pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Texts for the user in a failure. Default: English. */
  readonly texts?: Texts | undefined;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** An answer, with the place that it is for. */
export interface LocalAnswer<Answer> {
  readonly content: Answer;
  /** The position that the service was given: rounded where that is asked for. */
  readonly where: Position;
  /** Name of the place; absent without `places`, and where they know none. */
  readonly name?: string;
  /** Time of the answer, milliseconds since 1970 UTC. */
  readonly time: number;
}

/** What is known of the question: `fix` is that of the answer, so its age is that of the position used. */
export type LocalReading<Answer> = QuestionReading<LocalAnswer<Answer>>;

/**
 * A question of the app's own to a service, for the place where the user is: put only after real movement, one at a
 * time, with time limits and further tries. The answer for the newest position wins, answers are stored, and positions
 * rounded.
 */
export class AnswerWatch<Answer> {
  readonly #options: AnswerWatchOptions<Answer>;
  readonly #clock: Clock;
  readonly #reading = liveValue<LocalReading<Answer>>({ state: 'none' });
  readonly #question: FollowedQuestion<LocalAnswer<Answer>>;
  readonly #asking: Asking;
  readonly #cache: AnswerCache<LocalAnswer<Answer>>;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: AnswerWatchOptions<Answer>) {
    checkOptions('AnswerWatch', options, {
      ask: callable,
      beyond: numberFrom(1, 1e6, 'metres'),
      rounding: numberFrom(1, 1e6, 'metres'),
      refresh: numberFrom(10, 86_400, 'seconds'),
      patience: patienceSeconds,
      retries: numberFrom(0, 10, ''),
      every: seconds,
      keep: numberFrom(0, 100_000, ''),
      keepFor: numberFrom(0, 1e9, 'seconds'),
      places: anything,
      clock: anything,
      texts: anything,
      signal: abortSignal,
    });
    this.#options = options;
    const { beyond = 500, clock = systemClock, patience = 8, retries = 2, every = 0, texts } = options;
    const { keep = 50, keepFor = 600, refresh = Infinity, signal } = options;
    this.#clock = clock;
    this.#asking = new Asking({ patience, retries, every, clock, texts: texts?.serviceFailures });
    this.#cache = new AnswerCache(clock, keep, keepFor);
    this.#question = new FollowedQuestion({
      owner: 'AnswerWatch',
      ask: (fix, ends) => this.#ask(fix, ends),
      hasLeft: (fix, asked, answer) =>
        hasMoved(fix, asked, beyond) || (answer !== undefined && clock.now() - answer.time >= refresh * 1000),
      publish: (reading) => this.#reading.set(reading),
      clock,
      signal,
    });
  }

  /** The latest, live. */
  get $reading(): LiveValue<LocalReading<Answer>> {
    return this.#reading;
  }

  /**
   * How many times a question was due, how many answers were dropped because the user had left, and how many requests
   * were sent to the service.
   */
  get counts(): { readonly lookUps: number; readonly dropped: number; readonly requests: number } {
    return { ...this.#question.counts, requests: this.#asking.count };
  }

  /** Takes the fixes of a follow. Returns what ends that. */
  follow(follow: Follow): () => void {
    return this.#question.follow(follow);
  }

  /** Takes a fix; one that is older than the newest, or marked unsound, is passed over. */
  take(fix: Fix): void {
    this.#question.take(fix);
  }

  /** Puts the question anew for the newest fix: what is asked has changed. Stored answers are deleted. */
  renew(): void {
    this.#cache.clear();
    this.#question.renew();
  }

  /** Ends it: nothing is asked any more, and what is under way is cancelled. Closing twice is harmless. */
  close(): void {
    this.#question.close();
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  async #ask(fix: Fix, signal: AbortSignal): Promise<LocalAnswer<Answer>> {
    const { rounding, places, beyond = 500, refresh = Infinity } = this.#options;
    const where = positionOf(rounding === undefined ? fix : rounded(fix, rounding));
    // An answer serves for places that are nearer to each other than the user must move.
    const cell = rounded(where, Math.max(1, beyond / 4));
    const key = `${cell.lat},${cell.lon}`;
    const kept = this.#cache.get(key)?.[0];
    if (kept !== undefined && this.#clock.now() - kept.time < refresh * 1000) return kept;
    const content = await this.#asking.ask((ends) => this.#options.ask(where, ends), signal);
    const name = await nameOf(places, fix, signal);
    const answer = { content, where, ...(name !== undefined && { name }), time: this.#clock.now() };
    this.#cache.set(key, [answer]);
    return answer;
  }
}

/** The name of the place; an answer is worth showing without it too. */
async function nameOf(
  places: PlaceService | undefined,
  at: Position,
  signal: AbortSignal,
): Promise<string | undefined> {
  try {
    return (await places?.at(at, { signal }))?.[0]?.text;
  } catch (error) {
    if (signal.aborted) throw error;
    return undefined;
  }
}
