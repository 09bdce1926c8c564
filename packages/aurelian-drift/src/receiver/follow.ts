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
import { isTooCoarse, REVEAL_AFTER } from './reveal.js';

/** Information about a fix for its listener. */
export interface FixContext {
  /**
   * Whether it is the first fix of this follow that is good enough to reveal a map: as accurate as demanded, or within
   * 500 m where nothing is demanded. If none is within 15 s, the next fix is flagged, however coarse.
   */
  readonly first: boolean;
}

/** Options of `Follow.onFix`. */
export interface OnFixOptions {
  /**
   * Include fixes marked `backwards`, `duplicate`, `outlier` or `stale`, which no readout should show. For recording.
   * Default false.
   */
  readonly all?: boolean;
  /**
   * Include accepted fixes that `every` and `beyond` hold back. For fences, which need the path in between. Default
   * false.
   */
  readonly unsampled?: boolean;
}

/** Class of a fix: it passes the sampling, is held back by it, or is marked as unusable. */
interface FixEvent {
  readonly kind: 'passing' | 'held' | 'unsound';
  readonly fix: Fix;
  readonly news: FixContext;
}

/** Parts of a follow that only the receiver uses. */
export interface FollowControls {
  /** A fix has arrived. `sound`: it may be shown. `passes`: the sampling lets it through. */
  push(fix: Fix, sound: boolean, passes: boolean): void;
  report(event: FollowEvent): void;
  step(step: FollowStep): void;
  /** The device is watched from now on: fixes are expected. */
  expect(): void;
  rename(reach: FollowReach): void;
  /** No fix is expected for a number of seconds: the receiver is off by plan. */
  spare(seconds: number): void;
  /** The filtered path. */
  readonly filter: FixFilter;
}

/** Reach of a follow: also while the app is hidden, or only while it is visible. */
export type FollowReach = 'background' | 'visible-only' | 'unknown';

/** Parts that the receiver makes a follow of. */
export interface FollowParts {
  readonly clock: Clock;
  readonly diagnostics: Diagnostics;
  /** Seconds without a fix after which the follow is silent. */
  readonly silentAfter: number;
  /** Whether the fixes are observed elsewhere: by the receiver's own live values. */
  readonly seenElsewhere: () => boolean;
  /** Whether a failure is shown elsewhere: somebody observes the status of the receiver. */
  readonly failureSeen: () => boolean;
  /** Releases the device. Called once, before the end is reported. */
  readonly release: () => void;
  /** The end was reported by the status of the follow. Called once. */
  readonly over: () => void;
  readonly unhandled: (error: NoFixError) => void;
}

/** Makes a follow; for the receiver only. */
export let makeFollow: (parts: FollowParts) => { follow: Follow; controls: FollowControls };

const OUTCOMES = { stops: 'stopped', ends: 'ended', fails: 'failed' } as const satisfies Record<
  LastStep['step'],
  FollowOutcome
>;

/** Number of unobserved fixes after which a diagnostic is reported. */
const UNHEARD = 3;

/**
 * Handle of a stream of fixes, which continues until `stop` is called or the source ends.
 *
 * `for await (const fix of follow)` gives the newest fix each time: a fix that arrives while the loop is busy replaces
 * the one that waits, and `missed` counts it. A listener of `onFix` misses none. Only this handle stops this follow.
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
  /** Whether a fix was flagged as the first; and when the first of any accuracy passed, milliseconds since 1970 UTC. */
  #revealed = false;
  #begun = NaN;
  #missed = 0;
  #read = 0;
  /** Number of loops over this follow in progress. */
  #loops = 0;
  #received = false;
  #outage = false;
  #silent = false;
  #reach: FollowReach = 'unknown';

  static {
    makeFollow = (parts) => {
      const follow = new Follow(parts);
      const controls: FollowControls = {
        push: (fix, sound, passes) => follow.#push(fix, sound, passes),
        report: (event) => follow.#report(event),
        step: (step) => follow.#step(step),
        expect: () => follow.#liveliness.begin(),
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

  /** Whether it is running: not stopped, ended or failed. */
  get running(): boolean {
    return goesOn(this.#state.get());
  }

  /** The current state, in one word: see `$status`. */
  get state(): FollowStatus['state'] {
    return this.#state.get().state;
  }

  /** Status, live: waiting, live, still, silent, paused, failed, stopped or ended. */
  get $status(): LiveValue<FollowStatus> {
    return this.#state;
  }

  /** Whether it continues while the app is hidden; `unknown` until the device is watched. */
  get reach(): FollowReach {
    return this.#reach;
  }

  /** Resolves with how the follow ended. Never rejects. */
  get outcome(): Promise<FollowOutcome> {
    return this.#over;
  }

  /** The failure; `undefined` unless the follow failed. */
  get error(): NoFixError | undefined {
    const state = this.#state.get();
    return state.state === 'failed' ? state.error : undefined;
  }

  /** The last fix that passed; `undefined` before the first. */
  get latest(): Fix | undefined {
    return this.#latest;
  }

  /** Number of fixes that passed. */
  get passed(): number {
    return this.#passed;
  }

  /** Number of passed fixes that a loop over this follow was too slow for. */
  get missed(): number {
    return this.#missed;
  }

  /**
   * Calls the listener with each fix that passes, including each fix of a bundle. Returns the function that
   * unsubscribes.
   *
   * @throws {InputError} for a misspelt option, or a listener that is not a function.
   */
  onFix(listener: (fix: Fix, news: FixContext) => void, options: OnFixOptions = {}): () => void {
    checkOptions('tap', { listener, ...options }, { listener: callable, all: yesOrNo, unsampled: yesOrNo });
    const { all = false, unsampled = false } = options;
    this.#received = true;
    const report: (fix: Fix, news: FixContext) => unknown = listener; // the listener may return a promise
    return this.#fixes.onEvent(({ kind, fix, news }) =>
      kind === 'passing' || (kind === 'unsound' ? all : unsampled) ? report(fix, news) : undefined,
    );
  }

  /**
   * Calls the listener with events beside the fixes: gaps, outages, the app hidden and visible, a failure. Returns the
   * function that unsubscribes.
   */
  onEvent(listener: (event: FollowEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Stops the follow; no listener is called afterwards. Returns whether it was running: stopping twice is harmless. */
  stop(): boolean {
    const { running } = this;
    this.#step({ step: 'stops' });
    return running;
  }

  /** As `stop`, for `using`. */
  [DISPOSE](): void {
    this.stop();
  }

  /** Fixes from now on. Ends with the follow, and throws its `NoFixError` when it fails. */
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
      this.#loops--; // a loop that was left no longer handles a failure
    }
  }

  #push(fix: Fix, sound: boolean, passes: boolean): void {
    if (!this.running) return;
    if (sound) {
      if (this.#outage || this.#silent) {
        this.#outage = this.#silent = false;
        this.#report({ kind: 'recovered' });
      }
      this.#liveliness.add(fix);
    }
    if (passes) {
      this.#passed++;
      this.#latest = fix;
      if (this.#passed === UNHEARD && !this.#received && !this.#parts.seenElsewhere()) {
        const text =
          `a follow runs and nobody listens: ${UNHEARD} fixes went unheard; tap it, loop over it, or ` +
          `stop it`;
        this.#parts.diagnostics.report('nobody-listens', text);
      }
    }
    const news = { first: passes && this.#reveals(fix) };
    this.#fixes.emit({ kind: passes ? 'passing' : sound ? 'held' : 'unsound', fix, news });
    this.#wake();
  }

  /** Whether a passing fix is the first that is good enough; asked once for each. */
  #reveals(fix: Fix): boolean {
    if (this.#revealed) return false;
    const now = this.#parts.clock.now();
    if (Number.isNaN(this.#begun)) this.#begun = now;
    this.#revealed = !isTooCoarse(fix) || now - this.#begun >= REVEAL_AFTER * 1000;
    return this.#revealed;
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

  /** Listeners are called when everything is done: the outcome is settled, and the device is released. */
  #step(step: FollowStep): void {
    const before = this.#state.get();
    const state = followStateAfter(before, step);
    if (state === before) return;
    inTurn(() => {
      this.#state.set(state);
      if (state.state === 'silent') {
        this.#silent = true;
        this.#report({ kind: 'silent', since: state.since });
      }
      if (state.state === 'paused' || !goesOn(state)) this.#liveliness.rest();
      else if (step.step === 'resumes') this.#liveliness.begin();
      if (!goesOn(state)) this.#end(step as LastStep);
    });
  }

  #end(step: LastStep): void {
    // After `stop` no listener is called; otherwise earlier events are still delivered.
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
      if (!taken && !this.#state.observed && !this.#parts.failureSeen()) this.#parts.unhandled(error);
    });
  }

  #wake(): void {
    for (const resolve of this.#waiting) resolve();
    this.#waiting.clear();
  }
}
