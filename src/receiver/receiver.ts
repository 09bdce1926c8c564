import { atom, type ReadableAtom } from 'nanostores';
import { anything, checkOptions, numberFrom, oneOf, seconds, someText } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { marked, type Fix } from '../core/fix/fix.js';
import { NoFixError, noFixError } from '../core/fix/no-fix-error.js';
import { accessOf, obstacleIn, unreadAccess, type Access, type Level } from './access.js';
import { systemClock, type Clock } from './clock.js';
import { Follow, type FollowControls } from './follow.js';
import { samplingGate } from './sampling.js';
import { SharedWatch } from './shared-watch.js';
import type { Demand, Source } from './source.js';
import type { ReceiverStatus } from './status.js';
import { consoleWarn } from './warn.js';

export interface ReceiverOptions {
  readonly source: Source;
  /** Why the app wants positions, in a sentence for the user. */
  readonly purpose: string;
  /** Default the platform's. */
  readonly clock?: Clock;
  /** Gets what a developer should know; by default the console does. */
  readonly warn?: (text: string) => void;
}

export interface FixOptions {
  /** Metres that will do; a coarser fix is waited past, and offered marked `coarse` when patience ends. */
  readonly accuracy?: number;
  /** Seconds to wait for the device; the user's time at the prompt is not counted. Default 30. */
  readonly patience?: number;
  /** Seconds the last fix may be old to be taken instead of a new one. Default 0: always a new one. */
  readonly maxAge?: number;
  /** Ends the call, which then rejects with the signal's reason. */
  readonly signal?: AbortSignal;
}

export interface FollowOptions {
  /** Metres wanted of the device. */
  readonly accuracy?: number;
  /** Seconds, at least, between fixes that pass. Default 0. */
  readonly every?: number;
  /** Metres, at least, between fixes that pass; both `every` and `beyond` must be met. Default 0. */
  readonly beyond?: number;
  /** Stops the follow. */
  readonly signal?: AbortSignal;
}

/** The last fix there was, and how old it is now, in seconds. */
export interface LastFix {
  readonly fix: Fix;
  readonly age: number;
}

const DEFAULTS = Object.freeze({ patience: 30, maxAge: 0 }) satisfies FixOptions;
const accuracyRule = numberFrom(0.1, 1e6, 'metres');
const FIX_RULES = { accuracy: accuracyRule, patience: seconds, maxAge: seconds, signal: anything };
const FOLLOW_RULES = {
  accuracy: accuracyRule,
  every: seconds,
  beyond: numberFrom(0, 1e6, 'metres'),
  signal: anything,
};

/**
 * The one object an app keeps: asks for permission, gets a fix, follows.
 *
 * All who follow share one watch on the device, and it is released when the last one stops.
 */
export class Receiver {
  /** Why the app wants positions. */
  readonly purpose: string;
  readonly #source: Source;
  readonly #clock: Clock;
  readonly #warn: (text: string) => void;
  readonly #watch: SharedWatch;
  readonly #access;
  readonly #status = atom<ReceiverStatus>({ state: 'idle' });
  readonly #fix = atom<Fix | undefined>(undefined);
  #prompting: Promise<void> | undefined;

  /** @throws {InputError} for a misspelt option, or a purpose that says nothing. */
  constructor(options: ReceiverOptions) {
    checkOptions('Receiver', options, {
      source: anything,
      purpose: someText,
      clock: anything,
      warn: anything,
    });
    // Not every caller is checked by a compiler.
    const { source, purpose } = options as Partial<ReceiverOptions>;
    if (typeof source?.watch !== 'function') {
      throw new InputError('bad-value', 'Receiver: source is missing; in a page, pass browserSource()');
    }
    if (purpose === undefined) {
      throw new InputError(
        'bad-value',
        'Receiver: purpose is missing; say in a sentence why the app wants positions',
      );
    }
    this.purpose = purpose;
    this.#source = source;
    this.#clock = options.clock ?? systemClock;
    this.#warn = options.warn ?? consoleWarn;
    this.#watch = new SharedWatch(this.#source, this.#warn);
    this.#access = atom<Access>(accessOf(unreadAccess(this.#source.supported ? 'yes' : 'no')));
    this.#source.onAccess(() => void this.readAccess());
  }

  /** What stands between the app and a fix, live. */
  get $access(): ReadableAtom<Access> {
    return this.#access;
  }

  /** What the receiver is about, live. */
  get $status(): ReadableAtom<ReceiverStatus> {
    return this.#status;
  }

  /** The latest fix, live; `undefined` before the first. */
  get $fix(): ReadableAtom<Fix | undefined> {
    return this.#fix;
  }

  /** Whether the device's receiver is on for us. */
  get receiving(): boolean {
    return this.#watch.open;
  }

  /** Reads what stands in the way, without ever prompting. */
  async readAccess(): Promise<Access> {
    const access = accessOf(await this.#source.readAccess());
    this.#access.set(access);
    return access;
  }

  /**
   * Asks the user, if needed, and waits for the answer. Resolves with the access that came of it, whatever it is;
   * where asking cannot help, nobody is asked. Calls at the same time share one prompt.
   */
  async ask(level: Level = 'foreground'): Promise<Access> {
    const fault = oneOf('once', 'foreground', 'background')(level);
    if (fault !== undefined) throw new InputError('bad-value', `ask: level ${fault}`);
    const access = await this.readAccess();
    const obstacle = obstacleIn(access);
    if ((obstacle !== undefined && obstacle !== 'refused') || access.permission === 'granted') return access;
    const before = this.#status.get();
    this.#status.set({ state: 'asking' });
    this.#prompting ??= this.#source.prompt(level).finally(() => (this.#prompting = undefined));
    try {
      await this.#prompting;
    } finally {
      this.#status.set(before.state === 'asking' ? { state: 'idle' } : before);
    }
    return this.readAccess();
  }

  /**
   * One fix: support, page, switch, permission and device are gone through in that order, and either a fix or one
   * typed failure comes of it.
   *
   * @throws {NoFixError} with kind, texts and remedy; the signal's reason when aborted; {InputError} for a bad option.
   */
  async fix(options: FixOptions = {}): Promise<Fix> {
    checkOptions('fix', options, FIX_RULES);
    const { maxAge = DEFAULTS.maxAge, signal } = options;
    signal?.throwIfAborted();
    try {
      await this.#admit(signal);
      const last = this.lastFix();
      if (last !== undefined && maxAge > 0 && last.age <= maxAge)
        return this.#ready(marked(last.fix, 'cached'));
      return this.#ready(await this.#oneShot(options));
    } catch (cause) {
      if (signal?.aborted === true) {
        this.#settle();
        throw cause;
      }
      const error = noFixError(cause);
      this.#status.set({ state: 'failed', error });
      throw error;
    }
  }

  /** The last fix of this receiver and its age; `undefined` when there was none. Never prompts, never waits. */
  lastFix(): LastFix | undefined {
    const fix = this.#fix.get();
    return fix === undefined ? undefined : { fix, age: (this.#clock.now() - fix.time) / 1000 };
  }

  /**
   * Fixes that keep coming. Returns at once; permission is asked for, if needed, on the way to the first fix.
   * `no-signal` in mid-course is passed over, and fixes go on when it returns; any other failure ends the follow.
   *
   * @throws {InputError} for a bad option.
   */
  follow(options: FollowOptions = {}): Follow {
    checkOptions('follow', options, FOLLOW_RULES);
    const passes = samplingGate(options);
    let leave = () => {};
    const { follow, controls } = Follow.make(
      () => {
        leave();
        options.signal?.removeEventListener('abort', stop);
        this.#settle();
      },
      (error) => this.#unhandled(error),
    );
    const stop = () => void follow.stop();
    options.signal?.addEventListener('abort', stop);
    if (options.signal?.aborted === true) follow.stop();
    void this.#admit().then(
      () => {
        if (isOver(follow)) return;
        if (this.#status.get().state !== 'following')
          this.#status.set({ state: 'waiting', since: this.#clock.now() });
        leave = this.#watch.join({
          demand: { maxAge: 0, ...(options.accuracy !== undefined && { accuracy: options.accuracy }) },
          fix: (fix) => this.#deliver(fix, passes, controls),
          trouble: (error) => {
            if (error.kind !== 'no-signal' && error.kind !== 'timed-out') this.#fail(error, controls);
          },
          gap: () => controls.gap(),
          end: () => controls.end(),
        });
        if (isOver(follow)) leave(); // a source that ended at once
      },
      (cause: unknown) => this.#fail(noFixError(cause), controls),
    );
    return follow;
  }

  #deliver(fix: Fix, passes: (fix: Fix) => boolean, controls: FollowControls): void {
    const sound =
      fix.marks?.some((mark) => mark === 'backwards' || mark === 'duplicate' || mark === 'wild') !== true;
    if (sound) {
      this.#fix.set(fix);
      this.#status.set({ state: 'following', fix });
    }
    if (!sound) controls.push(fix, false);
    else if (passes(fix)) controls.push(fix, true);
  }

  #fail(error: NoFixError, controls: FollowControls): void {
    // What worked before and does no longer was taken back, by whatever name the platform calls it.
    const withdrawn =
      (error.kind === 'refused' || error.kind === 'barred') && this.#status.get().state === 'following';
    const told = withdrawn ? new NoFixError('withdrawn', { cause: error }) : error;
    controls.end(told);
    this.#status.set({ state: 'failed', error: told });
    void this.readAccess();
  }

  #unhandled(error: NoFixError): void {
    this.#warn(`a follow failed and nobody handles it (see Follow.onFailure): ${error.message}`);
    this.#source.showUnhandled?.(error);
  }

  /** Goes up the ladder to a granted permission, or throws what is in the way. */
  async #admit(signal?: AbortSignal): Promise<void> {
    let access = await this.readAccess();
    if (obstacleIn(access) === undefined || obstacleIn(access) === 'refused') {
      if (access.permission !== 'granted') access = await abortable(this.ask(), signal);
    }
    const obstacle = obstacleIn(access);
    if (obstacle !== undefined) throw new NoFixError(obstacle);
  }

  #oneShot({ accuracy, patience = DEFAULTS.patience, signal }: FixOptions): Promise<Fix> {
    if (this.#status.get().state !== 'following')
      this.#status.set({ state: 'waiting', since: this.#clock.now() });
    return new Promise((resolve, reject) => {
      const demand: Demand = { maxAge: 0, ...(accuracy !== undefined && { accuracy }) };
      let best: Fix | undefined;
      let trouble: NoFixError | undefined;
      let leave = () => {};
      const call = { done: false };
      const finish = (action: () => void) => {
        if (call.done) return;
        call.done = true;
        leave();
        cancel();
        signal?.removeEventListener('abort', abort);
        action();
      };
      const offerBest = () =>
        finish(() => {
          if (best !== undefined) resolve(marked(best, 'coarse'));
          else reject(trouble ?? new NoFixError('timed-out', { note: `after ${patience} s` }));
        });
      const abort = () => finish(() => reject(signal?.reason as Error));
      const cancel = this.#clock.after(patience, offerBest);
      signal?.addEventListener('abort', abort);
      leave = this.#watch.join({
        demand,
        fix: (fix) => {
          if (fix.marks?.includes('backwards') === true) return;
          if (accuracy === undefined || (fix.accuracy !== undefined && fix.accuracy <= accuracy))
            finish(() => resolve(fix));
          else if (best === undefined || (fix.accuracy ?? Infinity) < (best.accuracy ?? Infinity)) best = fix;
        },
        trouble: (error) => {
          // "Unavailable" may pass: platforms say so once while the receiver warms up. Patience decides.
          if (error.kind === 'no-signal') trouble = error;
          else if (error.kind !== 'timed-out') finish(() => reject(error));
        },
        gap: () => {},
        end: offerBest,
      });
      if (call.done) leave(); // a source that answered at once
    });
  }

  #ready(fix: Fix): Fix {
    this.#fix.set(fix);
    this.#status.set(this.#watch.open ? { state: 'following', fix } : { state: 'ready', fix });
    return fix;
  }

  /** After a stop: idle, unless others go on. */
  #settle(): void {
    if (!this.#watch.open && this.#prompting === undefined) this.#status.set({ state: 'idle' });
  }
}

function isOver(follow: Follow): boolean {
  return follow.state !== 'running';
}

/** The promise, or the signal's reason when it aborts first. */
function abortable<T>(promise: Promise<T>, signal: AbortSignal | undefined): Promise<T> {
  if (signal === undefined) return promise;
  return new Promise((resolve, reject) => {
    const abort = () => reject(signal.reason as Error);
    signal.addEventListener('abort', abort, { once: true });
    promise.then(resolve, reject).finally(() => signal.removeEventListener('abort', abort));
  });
}
