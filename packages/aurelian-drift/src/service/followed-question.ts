import { ClosedError } from '../core/check/closed-error.js';
import { isUnsound } from '../core/estimate/fix-order.js';
import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';
import { serviceError, type ServiceError } from '../core/service/service-error.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import type { Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';

/** What is known of a question that follows the position. */
export interface QuestionReading<Answer> {
  /** `none` before the first fix; `looking` during a question. */
  readonly state: 'none' | 'looking' | 'known' | 'failed';
  /** The latest answer; kept when a later question fails. */
  readonly answer?: Answer;
  /** The fix of the answer. */
  readonly fix?: Fix;
  /** Metres between that fix and the newest one. */
  readonly moved?: number;
  /** Failure of the newest question. */
  readonly error?: ServiceError;
}

export interface FollowedQuestionOptions<Answer> {
  /** Name of the owner, for warnings and errors. */
  readonly owner: string;
  readonly ask: (fix: Fix, signal: AbortSignal) => Promise<Answer>;
  /** Whether a fix needs another answer than the one for an earlier fix. */
  readonly hasLeft: (fix: Fix, asked: Fix, answer: Answer | undefined) => boolean;
  /** @param newest the newest fix; `undefined` before the first. */
  readonly publish: (reading: QuestionReading<Answer>, newest: Fix | undefined) => void;
  readonly clock: Clock;
  readonly signal?: AbortSignalLike | undefined;
}

/**
 * Seconds before a failed question is put again while the user stays; each next waits twice as long, up to the most.
 */
const FIRST_PAUSE = 15;
const MAX_PAUSE = 300;
/**
 * Answers for places left behind that are passed over in a row; a slow service and a fast car would else show nothing
 * ever.
 */
const PASSED_OVER = 2;

/** Whether a fix is really somewhere else than an earlier one: by a number of metres, and by its own accuracy. */
export function hasMoved(fix: Fix, before: Fix, beyond: number): boolean {
  return distance(before, fix) >= Math.max(beyond, fix.accuracy ?? 0);
}

/**
 * A question to a service that follows the position: put only after real movement, one at a time, and the answer for
 * the newest position wins.
 */
export class FollowedQuestion<Answer> {
  readonly #options: FollowedQuestionOptions<Answer>;
  readonly #cancel = new AbortController();
  readonly #lifetime: Lifetime;
  #reading: QuestionReading<Answer> = { state: 'none' };
  #newest: Fix | undefined;
  /** The fix of the question under way, or of the last one. */
  #asked: Fix | undefined;
  #underWay = false;
  #failures = 0;
  #retryAt = 0;
  #passedOver = 0;
  #lookUps = 0;
  #dropped = 0;

  constructor(options: FollowedQuestionOptions<Answer>) {
    this.#options = options;
    this.#lifetime = new Lifetime(warnOfListener(`a ${options.owner}`, consoleWarn));
    this.#lifetime.add(() => this.#cancel.abort(this.#lifetime.reason));
    this.#lifetime.endWith(options.signal);
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
    const shown = this.#reading.fix;
    if (shown !== undefined) this.#publish({ ...this.#reading, moved: distance(shown, fix) });
    this.#consider();
  }

  /** Puts the question anew, for the newest fix: what is asked has changed. The answer so far is dropped. */
  renew(): void {
    this.#asked = undefined;
    this.#failures = 0;
    this.#publish({ state: 'none' });
    this.#consider();
  }

  /** Ends it: its follows are let go, and what is under way is cancelled. Closing twice is harmless. */
  close(): void {
    this.#lifetime.end(new ClosedError(`the ${this.#options.owner}`));
  }

  #publish(reading: QuestionReading<Answer>): void {
    this.#reading = reading;
    this.#options.publish(reading, this.#newest);
  }

  #consider(): void {
    const fix = this.#newest;
    if (fix === undefined || this.#underWay || this.#cancel.signal.aborted) return;
    const waits = this.#failures > 0 && this.#options.clock.now() < this.#retryAt;
    const again = this.#failures > 0 && !waits;
    if (again || this.#hasLeft(fix)) void this.#put(fix);
  }

  /** Whether a fix is really somewhere else than the last that was asked for. */
  #hasLeft(fix: Fix): boolean {
    const asked = this.#asked;
    // After a failure the answer is that of an earlier question.
    const answer = this.#failures > 0 ? undefined : this.#reading.answer;
    return asked === undefined || this.#options.hasLeft(fix, asked, answer);
  }

  async #put(fix: Fix): Promise<void> {
    this.#underWay = true;
    this.#asked = fix;
    this.#lookUps++;
    const { error, ...before } = this.#reading;
    this.#publish({ ...before, state: 'looking' });
    try {
      const answer = await this.#options.ask(fix, this.#cancel.signal);
      this.#failures = 0;
      // Undefined if the question changed meanwhile.
      if (this.#asked === fix) this.#take(fix, answer);
    } catch (cause) {
      if (this.#cancel.signal.aborted) return;
      this.#failures++;
      const pause = Math.min(MAX_PAUSE, FIRST_PAUSE * 2 ** (this.#failures - 1));
      this.#retryAt = this.#options.clock.now() + pause * 1000;
      if (this.#asked === fix)
        this.#publish({ ...this.#reading, state: 'failed', error: serviceError(cause) });
    } finally {
      this.#underWay = false;
    }
    this.#consider();
  }

  #take(fix: Fix, answer: Answer): void {
    if (this.#cancel.signal.aborted) return;
    const newest = this.#newest ?? fix;
    if (this.#options.hasLeft(newest, fix, answer) && this.#passedOver < PASSED_OVER) {
      this.#passedOver++;
      this.#dropped++;
      this.#asked = undefined; // the newest is asked for next
      return;
    }
    this.#passedOver = 0;
    this.#publish({ state: 'known', answer, fix, moved: distance(fix, newest) });
  }
}
