import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { abortSignal, anything, checkOptions, numberFrom, oneOf } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { patternProblem, type AddressPattern } from '../core/place/address.js';
import { languageProblem } from '../core/place/languages.js';
import { PLACE_LEVELS, isCoarserOrSame, type PlaceAnswer, type PlaceLevel } from '../core/place/place.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import type { ServiceError } from '../core/service/service-error.js';
import { FollowedQuestion, hasMoved } from '../service/followed-question.js';
import type { PlaceService } from './place-service.js';

/** Options of `PlaceWatch`. */
export interface PlaceWatchOptions {
  /** Service that answers the look-ups. */
  readonly places: PlaceService;
  /** Metres that the user must move before the next look-up, and at least the accuracy of the fix. Default 50. */
  readonly beyond?: number;
  /** Finest wanted level. Default `house`; for a coarse fix a coarser level is looked up. */
  readonly level?: PlaceLevel;
  /** BCP 47 tags of names, the preferred one first. Default: the names in their own language. */
  readonly language?: string | readonly string[];
  /** Order of the lines of an address. Default: the order of the country. */
  readonly pattern?: AddressPattern;
  /** Clock of the pauses. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** Names for the current position. The position itself is in the fixes, and never waits for the names. */
export interface PlaceReading {
  /** `none` before the first fix; `looking` during a look-up. */
  readonly state: 'none' | 'looking' | 'known' | 'failed';
  /** The latest answer, from exact to coarse; kept when a later look-up fails. */
  readonly answers: readonly PlaceAnswer[];
  /** The fix of the answers. */
  readonly fix?: Fix;
  /** Metres between that fix and the newest one. */
  readonly moved?: number;
  /** Failure of the newest look-up. */
  readonly error?: ServiceError;
}

/** Metres of accuracy beyond which a fix says nothing of houses, and of localities. */
const COARSE: readonly (readonly [number, PlaceLevel])[] = [
  [20_000, 'region'],
  [75, 'locality'],
];
/**
 * Where the user is in names, while fixes come: looked up only after real movement, one question at a time, and the
 * answer for the newest position wins.
 */
export class PlaceWatch {
  readonly #options: PlaceWatchOptions;
  readonly #reading = liveValue<PlaceReading>({ state: 'none', answers: [] });
  readonly #question: FollowedQuestion<readonly PlaceAnswer[]>;

  /** @throws {InputError} for a misspelt or impossible option. */
  constructor(options: PlaceWatchOptions) {
    checkOptions('PlaceWatch', options, {
      places: (value) => (typeof value === 'object' && value !== null ? undefined : 'must be a PlaceService'),
      beyond: numberFrom(1, 1e6, 'metres'),
      level: oneOf(...PLACE_LEVELS),
      language: languageProblem,
      pattern: patternProblem,
      clock: anything,
      signal: abortSignal,
    });
    this.#options = options;
    const { places, beyond = 50, clock = systemClock, signal } = options;
    this.#question = new FollowedQuestion({
      owner: 'PlaceWatch',
      ask: (fix, ends) => places.at(fix, { ...this.#optionsFor(fix), signal: ends }),
      hasLeft: (fix, asked) => hasMoved(fix, asked, beyond),
      publish: ({ answer = [], ...reading }) => this.#reading.set({ ...reading, answers: answer }),
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

  #optionsFor(fix: Fix) {
    const { level = 'house', language, pattern } = this.#options;
    const coarse = COARSE.find(([metres]) => (fix.accuracy ?? 0) > metres)?.[1];
    return {
      level: coarse !== undefined && isCoarserOrSame(coarse, level) ? coarse : level,
      ...(language !== undefined && { language }),
      ...(pattern !== undefined && { pattern }),
    };
  }
}
