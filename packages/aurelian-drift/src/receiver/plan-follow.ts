import { ClosedError } from '../core/check/closed-error.js';
import { abortSignal, anything, checkOptions } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import type { Plan } from '../core/plan/plan.js';
import type { PlanWatchState } from '../core/plan/plan-state.js';
import { PlanWatch } from '../core/plan/plan-watch.js';
import type { PlanEvent, Progress } from '../core/plan/progress.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn } from '../live/warn.js';
import type { Follow } from './follow.js';

/** Options of `PlanFollow`. */
export interface PlanFollowOptions {
  /** State of an earlier one of the same plan, to go on from. Default: begin anew. */
  readonly state?: PlanWatchState | undefined;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** A plan while following: progress as a live value, and events. */
export class PlanFollow {
  readonly #watch: PlanWatch;
  readonly #progress = liveValue<Progress | undefined>(undefined);
  readonly #events = new Emitter<PlanEvent>(warnOfListener('a PlanFollow', consoleWarn));
  readonly #lifetime = new Lifetime(warnOfListener('a PlanFollow', consoleWarn));

  /** @throws {InputError} for a misspelt option, and for a state that is damaged or of another plan. */
  constructor(plan: Plan, options: PlanFollowOptions = {}) {
    checkOptions('PlanFollow', options, { state: anything, signal: abortSignal });
    this.#watch = new PlanWatch(plan);
    if (options.state !== undefined) this.#watch.restore(options.state);
    this.#lifetime.add(() => this.#events.finish());
    this.#lifetime.endWith(options.signal);
  }

  get plan(): Plan {
    return this.#watch.plan;
  }

  /** Where the user is on the plan; `undefined` before the first fix near it. */
  get $progress(): LiveValue<Progress | undefined> {
    return this.#progress;
  }

  /** The state to store, so that nothing is told twice after a restart. */
  get state(): PlanWatchState {
    return this.#watch.state;
  }

  /** Calls the listener with each event. Returns the function that unsubscribes. */
  onEvent(listener: (event: PlanEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Takes every fix of a follow, and its gaps. Returns what ends that. */
  follow(follow: Follow): () => void {
    const ends = [
      follow.onFix((fix) => this.take(fix), { unsampled: true }),
      follow.onEvent(({ kind }) => {
        if (kind === 'gap') this.breakSegment();
      }),
    ];
    const end = () => ends.forEach((each) => each());
    const forget = this.#lifetime.add(end);
    return () => {
      forget();
      end();
    };
  }

  /** Takes a fix. */
  take(fix: Fix): void {
    if (this.#lifetime.aborted) return;
    const events = this.#watch.take(fix);
    this.#progress.set(this.#watch.progress);
    for (const event of events) this.#events.emit(event);
  }

  /** A pause or a gap: the user may have moved anywhere meanwhile. */
  breakSegment(): void {
    this.#watch.breakSegment();
  }

  /** Ends it: its follows are let go. Closing twice is harmless. */
  close(): void {
    this.#lifetime.end(new ClosedError('the plan'));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }
}
