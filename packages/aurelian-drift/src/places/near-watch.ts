import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { seenFrom } from '../core/place/answer.js';
import { NEAR_RULES, type NearOptions } from '../core/place/gazetteer.js';
import type { PlaceAnswer } from '../core/place/place.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { FollowedQuestion, hasMoved } from '../service/followed-question.js';
import type { PlaceService } from './place-service.js';
import type { PlaceReading } from './place-watch.js';

/** Options of `NearWatch`: those of the question, and when it is put again. */
export interface NearWatchOptions extends NearOptions {
  /** Service that answers the look-ups. */
  readonly places: PlaceService;
  /** Metres that the user must move before the next look-up, and at least the accuracy of the fix. Default 50. */
  readonly beyond?: number;
  /** Clock of the pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/**
 * The places around the user, while fixes come: looked up only after real movement, one question at a time, and the
 * answer for the newest position wins. Distances and directions are from the newest fix.
 */
export class NearWatch {
  readonly #options: NearWatchOptions;
  readonly #reading = liveValue<PlaceReading>({ state: 'none', answers: [] });
  readonly #question: FollowedQuestion<readonly PlaceAnswer[]>;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: NearWatchOptions) {
    checkOptions('NearWatch', options, {
      ...NEAR_RULES,
      places: (value) => (typeof value === 'object' && value !== null ? undefined : 'must be a PlaceService'),
      beyond: numberFrom(1, 1e6, 'metres'),
      clock: anything,
      signal: abortSignal,
    });
    this.#options = options;
    const { places, beyond = 50, clock = systemClock, signal, ...near } = options;
    this.#question = new FollowedQuestion({
      owner: 'NearWatch',
      ask: (fix, ends) => places.near(fix, { ...near, signal: ends }),
      hasLeft: (fix, asked) => hasMoved(fix, asked, beyond),
      publish: ({ answer = [], ...reading }, newest) => {
        const answers = newest === undefined ? answer : answer.map((each) => seenFrom(newest, each));
        this.#reading.set({ ...reading, answers: this.#inOrder(answers) });
      },
      clock,
      signal,
    });
  }

  /** The latest, live. */
  get $reading(): LiveValue<PlaceReading> {
    return this.#reading;
  }

  /** How many questions were put, and how many answers were dropped because the user had left. */
  get counts(): { readonly lookUps: number; readonly dropped: number } {
    return this.#question.counts;
  }

  /** Takes the fixes of a follow. Returns what ends that. */
  follow(follow: Follow): () => void {
    return this.#question.follow(follow);
  }

  /** Takes a fix; one that is older than the newest, or marked unsound, is passed over. */
  take(fix: Fix): void {
    this.#question.take(fix);
  }

  /**
   * Ends it: its follows are let go, nothing is asked any more, and what is under way is cancelled. Closing twice is
   * harmless.
   */
  close(): void {
    this.#question.close();
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  #inOrder(answers: readonly PlaceAnswer[]): readonly PlaceAnswer[] {
    if (this.#options.by === 'prominence') return answers;
    return [...answers].sort((a, b) => (a.distance ?? 0) - (b.distance ?? 0));
  }
}
