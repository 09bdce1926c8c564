import { ClosedError } from '../core/check/closed-error.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn } from '../live/warn.js';
import { abortSignal, anything, checkOptions, numberFrom, oneOf } from '../core/check/options.js';
import { isUnsound } from '../core/estimate/fix-order.js';
import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';
import { patternProblem, type AddressPattern } from '../core/place/address.js';
import { languageProblem } from '../core/place/languages.js';
import { PLACE_LEVELS, isCoarserOrSame, type PlaceAnswer, type PlaceLevel } from '../core/place/place.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { placeError, type PlaceError } from '../core/place/place-error.js';
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
  readonly error?: PlaceError;
}

/** Metres of accuracy beyond which a fix says nothing of houses, and of localities. */
const COARSE: readonly (readonly [number, PlaceLevel])[] = [
  [20_000, 'region'],
  [75, 'locality'],
];
/**
 * Seconds before a failed look-up is tried again while the user stays; each next waits twice as long, up to the most.
 */
const FIRST_PAUSE = 15;
const MAX_PAUSE = 300;
/**
 * Answers for places left behind that are passed over in a row; a slow service and a fast car would else show nothing
 * ever.
 */
const PASSED_OVER = 2;

/**
 * Where the user is in names, while fixes come: looked up only after real movement, one question at a time, and the
 * answer for the newest position wins.
 */
export class PlaceWatch {
  readonly #options: PlaceWatchOptions;
  readonly #beyond: number;
  readonly #clock: Clock;
  readonly #reading = liveValue<PlaceReading>({ state: 'none', answers: [] });
  readonly #cancel = new AbortController();
  readonly #lifetime = new Lifetime(warnOfListener('a PlaceWatch', consoleWarn));
  #newest: Fix | undefined;
  /** The fix of the question under way, or of the last one. */
  #asked: Fix | undefined;
  #underWay = false;
  #failures = 0;
  #retryAt = 0;
  #passedOver = 0;
  #lookUps = 0;
  #dropped = 0;

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
    this.#beyond = options.beyond ?? 50;
    this.#clock = options.clock ?? systemClock;
    this.#lifetime.add(() => this.#cancel.abort(this.#lifetime.reason));
    this.#lifetime.endWith(options.signal);
  }

  /** The latest, live. */
  get $reading(): LiveValue<PlaceReading> {
    return this.#reading;
  }

  /** How many questions were put, and how many answers were dropped because the user had left. */
  get counts(): { readonly lookUps: number; readonly dropped: number } {
    return { lookUps: this.#lookUps, dropped: this.#dropped };
  }

  /** Takes the fixes of a follow. Returns what ends that. */
  follow(follow: Follow): () => void {
    const untap = follow.onFix((fix) => this.take(fix));
    const forget = this.#lifetime.add(untap);
    return () => {
      forget();
      untap();
    };
  }

  /** Takes a fix; one that is older than the newest, or marked unsound, is passed over. */
  take(fix: Fix): void {
    if (this.#cancel.signal.aborted || isUnsound(fix) || fix.time < (this.#newest?.time ?? -Infinity)) return;
    this.#newest = fix;
    const { fix: shown, ...reading } = this.#reading.get();
    if (shown !== undefined) this.#reading.set({ ...reading, fix: shown, moved: distance(shown, fix) });
    this.#consider();
  }

  /**
   * Ends it: its follows are let go, nothing is asked any more, and what is under way is cancelled. Closing twice is
   * harmless.
   */
  close(): void {
    this.#lifetime.end(new ClosedError('the place watch'));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  #consider(): void {
    const fix = this.#newest;
    if (fix === undefined || this.#underWay || this.#cancel.signal.aborted) return;
    const waits = this.#failures > 0 && this.#clock.now() < this.#retryAt;
    const again = this.#failures > 0 && !waits;
    if (again || this.#hasLeft(fix)) void this.#lookUp(fix);
  }

  /** Whether a fix is really somewhere else than the last that was looked up. */
  #hasLeft(fix: Fix): boolean {
    const asked = this.#asked;
    return asked === undefined || distance(asked, fix) >= Math.max(this.#beyond, fix.accuracy ?? 0);
  }

  async #lookUp(fix: Fix): Promise<void> {
    this.#underWay = true;
    this.#asked = fix;
    this.#lookUps++;
    const { error, ...before } = this.#reading.get();
    this.#reading.set({ ...before, state: 'looking' });
    try {
      const answers = await this.#options.places.at(fix, this.#question(fix));
      this.#failures = 0;
      this.#take(fix, answers);
    } catch (cause) {
      if (this.#cancel.signal.aborted) return;
      this.#failures++;
      const pause = Math.min(MAX_PAUSE, FIRST_PAUSE * 2 ** (this.#failures - 1));
      this.#retryAt = this.#clock.now() + pause * 1000;
      this.#reading.set({ ...this.#reading.get(), state: 'failed', error: placeError(cause) });
    } finally {
      this.#underWay = false;
    }
    this.#consider();
  }

  #take(fix: Fix, answers: readonly PlaceAnswer[]): void {
    if (this.#cancel.signal.aborted) return;
    const newest = this.#newest ?? fix;
    const left = this.#hasLeft(newest);
    if (left && this.#passedOver < PASSED_OVER) {
      this.#passedOver++;
      this.#dropped++;
      return; // the newest is looked up next
    }
    this.#passedOver = 0;
    this.#reading.set({ state: 'known', answers, fix, moved: distance(fix, newest) });
  }

  #question(fix: Fix) {
    const { level = 'house', language, pattern } = this.#options;
    const coarse = COARSE.find(([metres]) => (fix.accuracy ?? 0) > metres)?.[1];
    return {
      level: coarse !== undefined && isCoarserOrSame(coarse, level) ? coarse : level,
      ...(language !== undefined && { language }),
      ...(pattern !== undefined && { pattern }),
      signal: this.#cancel.signal,
    };
  }
}
