import { callable, checkOptions, yesOrNo } from '../core/check/options.js';
import type { FixFilter } from '../core/estimate/fix-filter.js';
import type { Fix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';
import { DISPOSE } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { atTurnsEnd, inTurn } from '../live/turn.js';
import type { Clock } from './clock.js';
import type { FollowEvent, FollowOutcome, FollowStatus } from './follow-events.js';
import { followStateAfter, goesOn, type FollowStep, type LastStep } from './follow-state.js';
import { Liveliness } from './liveliness.js';
import type { Diagnostics } from './diagnostics.js';

/** What a listener is told beside a fix. */
export interface FixContext {
  /** The first fix of this follow: the moment to reveal a map. */
  readonly first: boolean;
}

/** Options of `Follow.onFix`. */
export interface OnFixOptions {
  /** Also fixes marked backwards, duplicate or wild, which no readout should show. For recording. Default false. */
  readonly all?: boolean;
  /** Also sound fixes that `every` and `beyond` hold back. For fences, which need the path between. Default false. */
  readonly unsampled?: boolean;
}

/** A fix comes: it is `passing` the sampling, `held` back by it, or `unsound`. */
interface FixEvent {
  readonly kind: 'passing' | 'held' | 'unsound';
  readonly fix: Fix;
  readonly news: FixContext;
}

/** What the receiver holds of a follow, and the handle does not show. */
export interface FollowControls {
  /** A fix has arrived; `sound` tells whether it may be shown, `passes` whether it is one of those asked for. */
  push(fix: Fix, sound: boolean, passes: boolean): void;
  report(event: FollowEvent): void;
  step(step: FollowStep): void;
  rename(reach: FollowReach): void;
  /** No fix is expected for so many seconds, by plan. */
  spare(seconds: number): void;
  /** The path of the fixes that were sound. */
  readonly filter: FixFilter;
}

/** How far a follow reaches: on while the app is hidden, or only while it is visible. */
export type FollowReach = 'background' | 'visible-only' | 'unknown';

/** What a follow is made of; by the receiver only. */
export interface FollowParts {
  readonly clock: Clock;
  readonly diagnostics: Diagnostics;
  /** Seconds. */
  readonly silentAfter: number;
  /** Whether somebody sees the fixes elsewhere: through the receiver's own live values. */
  readonly seenElsewhere: () => boolean;
  /** Leaves the device. Called once, before anybody is told of the end. */
  readonly release: () => void;
  /** The end has been told through the state of the follow. Called once. */
  readonly over: () => void;
  readonly unhandled: (error: NoFixError) => void;
}

/** Makes a follow; for the receiver only. */
export let makeFollow: (parts: FollowParts) => { follow: Follow; controls: FollowControls };

const OUTCOMES = { stops: 'stopped', ends: 'ended', fails: 'failed' } as const satisfies Record<
  LastStep['step'],
  FollowOutcome
>;

/** Fixes that may pass unheard before that is diagnosed. */
const UNHEARD = 3;

/**
 * A handle on fixes that keep coming, until `stop` is called or the source ends.
 *
 * `for await (const fix of follow)` gives the newest fix each time; one that comes while the loop is busy replaces
 * the one that waits, and `missed` counts it. A listener of `onFix` misses none. Only this handle can stop this follow.
 */
export class Follow implements AsyncIterable<Fix> {
  readonly #fixes: Emitter<FixEvent>;
  readonly #events: Emitter<FollowEvent>;
  readonly #parts: FollowParts;
  readonly #waiting = new Set<() => void>();
  readonly #over: Promise<FollowOutcome>;
  readonly #state;
  readonly #liveliness: Liveliness;
  #settleOver: (outcome: FollowOutcome) => void = () => {};
  #latest: Fix | undefined;
  #passed = 0;
  #missed = 0;
  #read = 0;
  /** Loops over this follow that have begun and not been left. */
  #loops = 0;
  #received = false;
  #outage = false;
  #reach: FollowReach = 'unknown';

  static {
    makeFollow = (parts) => {
      const follow = new Follow(parts);
      const controls: FollowControls = {
        push: (fix, sound, passes) => follow.#push(fix, sound, passes),
        report: (event) => follow.#report(event),
        step: (step) => follow.#step(step),
        rename: (reach) => (follow.#reach = reach),
        spare: (seconds) => follow.#liveliness.spare(seconds),
        filter: follow.#liveliness.filter,
      };
      return { follow, controls };
    };
  }

  private constructor(parts: FollowParts) {
    this.#parts = parts;
    const onListenerError = parts.diagnostics.faultsOf('a follow');
    this.#fixes = new Emitter(onListenerError);
    this.#events = new Emitter(onListenerError);
    this.#state = liveValue<FollowStatus>({ state: 'waiting', since: parts.clock.now() }, onListenerError);
    this.#liveliness = new Liveliness(parts.clock, parts.silentAfter, (step) => this.#step(step));
    this.#over = new Promise((resolve) => (this.#settleOver = resolve));
  }

  /** Whether it goes on: neither stopped, nor ended, nor failed. */
  get running(): boolean {
    return goesOn(this.#state.get());
  }

  /** How it stands, in one word: see `$state`. */
  get state(): FollowStatus['state'] {
    return this.#state.get().state;
  }

  /** How it stands, live: waiting, live, still, silent, paused, failed, stopped or ended. */
  get $status(): LiveValue<FollowStatus> {
    return this.#state;
  }

  /** Whether it goes on while the app is hidden; `unknown` until the device is watched. */
  get reach(): FollowReach {
    return this.#reach;
  }

  /** Resolves with how it ended once the follow is over, for whatever reason. Never rejects. */
  get outcome(): Promise<FollowOutcome> {
    return this.#over;
  }

  /** Why it failed, if it did. */
  get error(): NoFixError | undefined {
    const state = this.#state.get();
    return state.state === 'failed' ? state.error : undefined;
  }

  /** The fix that passed last. */
  get latest(): Fix | undefined {
    return this.#latest;
  }

  /** How many fixes passed so far. */
  get passed(): number {
    return this.#passed;
  }

  /** How many of them a loop over this follow was too slow to see. */
  get missed(): number {
    return this.#missed;
  }

  /**
   * Calls back with each fix that passes, each of a bundle too; the returned function ends that.
   *
   * @throws {InputError} for a misspelt option, or a listener that is no function.
   */
  onFix(listener: (fix: Fix, news: FixContext) => void, options: OnFixOptions = {}): () => void {
    checkOptions('tap', { listener, ...options }, { listener: callable, all: yesOrNo, unsampled: yesOrNo });
    const { all = false, unsampled = false } = options;
    this.#received = true;
    const report: (fix: Fix, news: FixContext) => unknown = listener; // what it returns may be a promise
    return this.#fixes.onEvent(({ kind, fix, news }) =>
      kind === 'passing' || (kind === 'unsound' ? all : unsampled) ? report(fix, news) : undefined,
    );
  }

  /**
   * Calls back with what happens beside the fixes: gaps, outages, the app hidden and back, a failure. Switch on its
   * `kind`.
   */
  onEvent(listener: (event: FollowEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Stops; no callback follows. Returns whether it was running: stopping twice is harmless. */
  stop(): boolean {
    const { running } = this;
    this.#step({ step: 'stops' });
    return running;
  }

  /** As `stop`, for `using`. */
  [DISPOSE](): void {
    this.stop();
  }

  /** The fixes from now on. Ends with the follow; throws the `NoFixError` when it fails. */
  async *[Symbol.asyncIterator](): AsyncGenerator<Fix> {
    this.#received = true;
    this.#loops++;
    try {
      let seen = this.#read;
      for (;;) {
        const { state } = this;
        if (state === 'stopped') {
          return;
        } else if (this.#passed > seen && this.#latest !== undefined) {
          this.#missed += this.#passed - seen - 1;
          seen = this.#read = this.#passed;
          yield this.#latest;
        } else if (this.error !== undefined) {
          throw this.error;
        } else if (!this.running) {
          return;
        } else {
          await new Promise<void>((resolve) => this.#waiting.add(resolve));
        }
      }
    } finally {
      this.#loops--; // a loop that was left handles no failure any more
    }
  }

  #push(fix: Fix, sound: boolean, passes: boolean): void {
    if (!this.running) return;
    if (this.#outage) {
      this.#outage = false;
      this.#report({ kind: 'recovered' });
    }
    if (sound) this.#liveliness.add(fix);
    if (passes) {
      this.#passed++;
      this.#latest = fix;
      if (this.#passed === UNHEARD && !this.#received && !this.#parts.seenElsewhere()) {
        const text = `a follow runs and nobody listens: ${UNHEARD} fixes went unheard; tap it, loop over it, or stop it`;
        this.#parts.diagnostics.report('nobody-listens', text);
      }
    }
    const news = { first: passes && this.#passed === 1 };
    this.#fixes.emit({ kind: passes ? 'passing' : sound ? 'held' : 'unsound', fix, news });
    this.#wake();
  }

  #report(event: FollowEvent): void {
    if (!this.running) return;
    if (event.kind === 'outage') {
      if (this.#outage) return; // platforms repeat themselves
      this.#outage = true;
    }
    if (event.kind === 'gap') this.#liveliness.forget();
    this.#events.emit(event);
  }

  /** Listeners are told once all is done: the outcome settled, and after the last step the device released. */
  #step(step: FollowStep): void {
    const before = this.#state.get();
    const state = followStateAfter(before, step);
    if (state === before) return;
    inTurn(() => {
      this.#state.set(state);
      if (state.state === 'paused' || !goesOn(state)) this.#liveliness.rest();
      if (!goesOn(state)) this.#end(step as LastStep);
    });
  }

  #end(step: LastStep): void {
    // After a stop no callback follows; else what came before the end is still told.
    if (step.step === 'stops') {
      this.#fixes.clear();
      this.#events.clear();
    }
    this.#parts.release();
    this.#parts.over();
    if (step.step === 'fails') this.#tellFailure(step.error);
    this.#fixes.finish();
    this.#events.finish();
    this.#settleOver(OUTCOMES[step.step]);
    this.#wake();
  }

  #tellFailure(error: NoFixError): void {
    let taken = this.#loops > 0;
    this.#events.emit({
      kind: 'failed',
      get error() {
        taken = true;
        return error;
      },
    });
    atTurnsEnd(() => {
      if (!taken) this.#parts.unhandled(error);
    });
  }

  #wake(): void {
    for (const resolve of this.#waiting) resolve();
    this.#waiting.clear();
  }
}
