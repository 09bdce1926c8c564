import { ClosedError } from '../core/check/closed-error.js';
import { oneOf } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { isUnsound } from '../core/estimate/fix-order.js';
import { fixFrom, marked, type Fix } from '../core/fix/fix.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { noFixError } from '../core/fix/no-fix-error.js';
import { throwIfAborted, type AbortSignalLike } from '../live/abort-signal.js';
import { DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { inTurn } from '../live/turn.js';
import { consoleWarn } from '../live/warn.js';
import { abortable } from './abortable.js';
import { ACCESS_LEVELS, accessOf, readingOf, type Access, type AccessLevel } from './access.js';
import { systemClock, type Clock } from './clock.js';
import type { Follow } from './follow.js';
import { FollowRun } from './follow-run.js';
import { Ladder, READING_LIMIT } from './ladder.js';
import type { LifeEntry, LifeEvent } from './life.js';
import { limited } from './limited.js';
import { Diagnostics, type Diagnostic } from './diagnostics.js';
import { oneShot } from './one-shot.js';
import {
  PATIENCE,
  checkFix,
  checkFollow,
  checkReceiver,
  doubtfulDurations,
  type FixOptions,
  type FollowOptions,
  type ReceiverOptions,
} from './options.js';
import { ownClock } from './own-clock.js';
import { Patience } from './patience.js';
import { needlessDemands, withProfile } from './profiles.js';
import { SharedWatch, type Deliveries } from './shared-watch.js';
import type { Source } from './source.js';
import { IDLE, standingAfter, statusOf, type ReceiverStatus, type StatusStep } from './status.js';
import { TrackingSign, type Tracking } from './tracking.js';
import type { Usage } from './usage.js';

/** The last fix there was, and how old it is now, in seconds. */
export interface LastFix {
  readonly fix: Fix;
  readonly age: number;
}

/** Entries that the log of the app's life holds; the oldest goes first. */
const LIFE_KEPT = 100;

/**
 * The one object an app keeps: asks for permission, gets a fix, follows.
 *
 * All who follow share one watch on the device, and it is released when the last one stops.
 */
export class Receiver {
  /** Why the app wants positions. */
  readonly purpose: string;
  readonly #lifetime: Lifetime;
  readonly #source: Source;
  /** Its alarms are called off when the receiver is closed. */
  readonly #clock: Clock;
  readonly #diagnostics: Diagnostics;
  readonly #ladder: Ladder;
  readonly #watch: SharedWatch;
  readonly #sign: TrackingSign;
  readonly #runs = new Set<FollowRun>();
  readonly #access;
  readonly #status;
  readonly #fix;
  readonly #life: LifeEntry[] = [];
  #standing = IDLE;
  /** The newest sound fix of a bundle that is still being delivered. */
  #pending: Fix | undefined;
  /** Whether anything was followed with `background: true`. */
  #backgroundUsed = false;

  /** @throws {InputError} for a misspelt option, or a purpose that says nothing. */
  constructor(options: ReceiverOptions) {
    checkReceiver(options);
    const {
      source,
      purpose,
      clock = systemClock,
      strict = false,
      startUp = false,
      explain,
      texts,
      warn = consoleWarn,
      signal,
    } = options;
    this.purpose = purpose;
    this.#source = source;
    this.#diagnostics = new Diagnostics(warn, () => clock.now());
    this.#lifetime = new Lifetime((error) =>
      this.#diagnostics.report(
        'source-error',
        `${source.name} threw as it was released: ${String(error)}`,
        error,
      ),
    );
    const own = ownClock(clock, this.#lifetime);
    this.#clock = own;
    const onListenerError = this.#diagnostics.faultsOf('a receiver');
    this.#status = liveValue<ReceiverStatus>(statusOf(IDLE), onListenerError);
    this.#fix = liveValue<Fix | undefined>(undefined, onListenerError);
    const support = source.supported ? 'yes' : 'no';
    this.#access = liveValue<Access>(accessOf(readingOf({ support }), undefined, texts), onListenerError);
    this.#ladder = new Ladder({
      source,
      clock: own,
      diagnostics: this.#diagnostics,
      texts,
      introduce: async () => {
        // Going on from the app's own card is an act of the user. Nobody is asked for a receiver that was closed
        // meanwhile.
        if (explain !== undefined)
          return (await explain(purpose)) === 'go-on' && !this.closed ? 'go-on' : 'not-now';
        if (strict && !startUp && source.userActing?.() === false) {
          const text = 'the user was asked without having acted: ask upon a press, or say startUp: true';
          this.#diagnostics.report('prompt-without-act', text);
        }
        return 'go-on';
      },
      onAccess: (access) => this.#seeAccess(access),
      onAsking: (asking) => this.#seeAsking(asking),
    });
    this.#watch = new SharedWatch(source, own, this.#diagnostics, () => this.#access.get().level);
    this.#sign = new TrackingSign(() => clock.now(), onListenerError);
    const ends = [
      source.onEvent?.(({ kind }) => kind === 'access' && void this.readAccess()),
      source.life?.onEvent((event) => inTurn(() => this.#seeLife(event))),
    ];
    for (const end of ends) if (end !== undefined) this.#lifetime.add(end);
    // Before anything else is released: what is followed stops, and leaves the device.
    this.#lifetime.add(() => {
      for (const run of [...this.#runs]) run.follow.stop();
      this.#step({ step: 'answered' });
      this.#settle();
    });
    this.#lifetime.endWith(signal);
  }

  /** Whether it was closed, by `close` or by the signal that it was given. */
  get closed(): boolean {
    return this.#lifetime.aborted;
  }

  /**
   * Ends the receiver: every follow stops, the device and the source are released, and what waits is rejected with a
   * `ClosedError`. Its live values keep what they have. Closing twice is harmless.
   */
  close(): void {
    inTurn(() => this.#lifetime.end(new ClosedError('the receiver')));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  /** What stands between the app and a fix, live. */
  get $access(): LiveValue<Access> {
    return this.#access;
  }

  /** What the receiver is about, live. */
  get $status(): LiveValue<ReceiverStatus> {
    return this.#status;
  }

  /** The latest fix, live; `undefined` before the first. */
  get $fix(): LiveValue<Fix | undefined> {
    return this.#fix;
  }

  /** Whether anything is followed, at which level and since when, live: for a sign on the screen. */
  get $tracking(): LiveValue<Tracking> {
    return this.#sign.$tracking;
  }

  /** What a developer should know, live; each is also given to `warn` when it happens first. */
  get $diagnostics(): LiveValue<readonly Diagnostic[]> {
    return this.#diagnostics.$all;
  }

  /** Whether the device's receiver is on for us. */
  get receiving(): boolean {
    return this.#watch.open;
  }

  /** Receiver-on time and open watches so far. */
  get usage(): Usage {
    return this.#watch.usage;
  }

  /** How many fixes came, and how many were marked or left out, and why. */
  get deliveries(): Deliveries {
    return this.#watch.deliveries;
  }

  /** The follows that run now. */
  get follows(): readonly Follow[] {
    return [...this.#runs].map((run) => run.follow).filter((follow) => follow.running);
  }

  /** What the platform did with the app, oldest first. */
  get lifeLog(): readonly LifeEntry[] {
    return this.#life;
  }

  /** Reads what stands in the way, without ever prompting. Of a closed receiver it is what was read last. */
  async readAccess(): Promise<Access> {
    if (this.closed) return this.#access.get();
    return this.#orClosed((signal) => abortable(this.#ladder.read(), signal)).catch((error: unknown) => {
      if (this.closed) return this.#access.get();
      throw error;
    });
  }

  /**
   * Asks the user, if needed, and waits for the answer. Resolves with the access that came of it, whatever it is;
   * where asking cannot help, nobody is asked. Calls at the same time share one prompt.
   *
   * @throws {InputError} for a level that is none.
   * @throws {ClosedError} when the receiver is closed, or is so meanwhile.
   */
  async ask(level: AccessLevel = 'foreground'): Promise<Access> {
    const problem = oneOf(...ACCESS_LEVELS)(level);
    if (problem !== undefined) throw new InputError('bad-value', `ask: level ${problem}`);
    if (level === 'background' && !this.#backgroundUsed) {
      this.#diagnostics.report(
        'background-unused',
        'ask("background") asks for more than is used: nothing follows with background: true; ask for "foreground", or set that option of follow',
      );
    }
    return this.#orClosed((signal) => abortable(this.#ladder.ask(level), signal));
  }

  /**
   * One fix, from whatever state the app is in: asks if it must, waits for the answer, then for the device.
   *
   * It ends within `patience` and the user's own time at a question, of which 15 minutes are waited for at most, and
   * one minute at the prompt of a platform that does not tell the permission.
   *
   * @throws {NoFixError} with the one kind that tells why there is none, or the signal's reason.
   * @throws {InputError} for a bad option.
   * @throws {ClosedError} when the receiver is closed, or is so meanwhile.
   */
  async fix(options: FixOptions = {}): Promise<Fix> {
    return this.#fixWithin(options, this.#patienceOf('fix', options));
  }

  /**
   * First the last fix there was, of this receiver or of the platform, marked `cached` and however old; then a fresh
   * one. Without a last fix, or before permission, only the fresh one.
   *
   * @throws as `fix` does.
   */
  async *quickThenFresh(options: Omit<FixOptions, 'maxAge'> = {}): AsyncGenerator<Fix> {
    const patience = this.#patienceOf('quickThenFresh', options);
    const cached = await this.#orClosed(async (signal) => {
      const { permission } = await abortable(this.#ladder.read(patience), signal);
      return permission === 'granted' ? abortable(this.#cached(), signal) : undefined;
    }, options.signal);
    if (cached !== undefined) yield marked(cached, 'cached');
    yield await this.#fixWithin(options, patience);
  }

  /** Checks the options of a one-shot call, and tells of doubtful ones. */
  #patienceOf(call: string, options: FixOptions): Patience {
    checkFix(options);
    this.#checkDemand(call, options);
    return new Patience(this.#clock, options.patience ?? PATIENCE);
  }

  #fixWithin(options: FixOptions, patience: Patience): Promise<Fix> {
    const { accuracy, maxAge = 0 } = withProfile(options);
    return this.#orClosed(async (signal) => {
      try {
        const demand = { maxAge: 0, ...(accuracy !== undefined && { accuracy }) };
        const access = await abortable(this.#ladder.climb(demand, 'foreground', patience), signal);
        const last = this.lastFix();
        if (last !== undefined && maxAge > 0 && last.age <= maxAge && isWithin(last.fix, accuracy))
          return this.#ready(marked(last.fix, 'cached'));
        this.#startWaiting();
        const approximate = access.precision === 'approximate';
        return this.#ready(
          await oneShot(this.#watch, this.#clock, { accuracy, patience, signal, approximate }),
        );
      } catch (cause) {
        if (signal.aborted) {
          this.#settle();
          throw cause;
        }
        const error = this.#ladder.remedied(noFixError(cause));
        this.#step({ step: 'fails', error });
        throw error;
      }
    }, options.signal);
  }

  /** Runs a call whose signal aborts when the receiver is closed, and with the signal of the caller. */
  async #orClosed<T>(call: (signal: AbortSignalLike) => Promise<T>, signal?: AbortSignalLike): Promise<T> {
    const until = new Lifetime((error) => this.#diagnostics.report('listener-error', String(error), error));
    try {
      until.endWith(this.#lifetime);
      until.endWith(signal);
      throwIfAborted(until);
      return await call(until);
    } finally {
      until.end(undefined);
    }
  }

  /** The last fix of this receiver and its age; `undefined` when there was none. Never prompts, never waits. */
  lastFix(): LastFix | undefined {
    const fix = this.#fix.get();
    return fix === undefined ? undefined : { fix, age: (this.#clock.now() - fix.time) / 1000 };
  }

  /**
   * Takes a place that the user typed (`readPosition` reads it), chose or put a pin on for the latest fix, of origin
   * `manual`: all that shows the receiver's fix shows it, also after a refusal. Fixes of the device, when they come,
   * take its place.
   *
   * @throws {InputError} for an impossible position; {ClosedError} when the receiver is closed.
   */
  placeByHand(at: Position & { readonly accuracy?: number }): Fix {
    this.#refuseIfClosed();
    const { accuracy } = at;
    return this.#ready(fixFrom({ ...positionOf(at), time: this.#clock.now(), accuracy, origin: 'manual' }));
  }

  /**
   * Fixes that keep coming. Returns at once; permission is asked for, if needed, on the way to the first fix.
   * `no-signal` in mid-course is passed over, and fixes go on when it returns; any other failure ends the follow.
   *
   * @throws {InputError} for a bad option; {ClosedError} when the receiver is closed.
   */
  follow(options: FollowOptions = {}): Follow {
    checkFollow(options);
    this.#refuseIfClosed();
    const { name } = options;
    const running = [...this.#runs].find((run) => run.follow.running && run.name === name);
    if (name !== undefined && running !== undefined) return running.follow;
    this.#checkDemand('follow', options);
    const run: FollowRun = new FollowRun(withProfile(options), {
      source: this.#source,
      clock: this.#clock,
      diagnostics: this.#diagnostics,
      ladder: this.#ladder,
      watch: this.#watch,
      seenElsewhere: () => this.#fix.observed || this.#status.observed,
      onJoined: () => this.#startWaiting(),
      onFix: (fix, more) => this.#seeFix(fix, more),
      onFailed: (error) => {
        this.#step({ step: 'fails', error });
        void this.readAccess();
      },
      onOver: () => {
        this.#runs.delete(run);
        this.#sign.end(run);
        this.#settle();
      },
    });
    if (options.signal?.aborted === true) {
      run.follow.stop(); // before it has begun: nobody is asked, and the device is left alone
      return run.follow;
    }
    if (options.background === true) this.#backgroundUsed = true;
    this.#runs.add(run);
    this.#sign.begin(run, options.background === true);
    void run.start();
    return run.follow;
  }

  #refuseIfClosed(): void {
    throwIfAborted(this.#lifetime);
  }

  #checkDemand(call: string, options: FixOptions & FollowOptions): void {
    for (const text of needlessDemands(call, options, this.#source.minInterval))
      this.#diagnostics.report('needless-demand', text);
    for (const text of doubtfulDurations(call, options)) this.#diagnostics.report('doubtful-duration', text);
  }

  /** The newer of our own last fix and the platform's. */
  async #cached(): Promise<Fix | undefined> {
    const own = this.#fix.get();
    try {
      const answer = this.#source.cached?.() ?? Promise.resolve(undefined);
      const raw = await limited(this.#clock, READING_LIMIT, answer, () => {
        const text = `${this.#source.name} did not answer cached within ${READING_LIMIT} s`;
        this.#diagnostics.report('unanswered', text);
        return undefined;
      });
      if (raw === undefined) return own;
      const found = fixFrom(raw);
      return own !== undefined && own.time >= found.time ? own : found;
    } catch (error) {
      this.#diagnostics.report(
        'source-error',
        `${this.#source.name} threw on cached: ${String(error)}`,
        error,
      );
      return own;
    }
  }

  #seeFix(fix: Fix, more: boolean): void {
    if (!isUnsound(fix)) this.#pending = fix;
    if (more || this.#pending === undefined) return;
    const newest = this.#pending;
    this.#pending = undefined;
    if (this.#fix.get() === newest) return; // another follow has brought it already
    this.#show(newest, true);
  }

  #seeAccess(access: Access): void {
    if (this.closed) return; // a source that answers late
    const before = this.#access.get();
    const lost =
      before.permission === 'granted' && access.permission !== 'granted' && access.permission !== 'unknown';
    inTurn(() => {
      this.#access.set(access);
      if (lost && this.#runs.size > 0) this.#watch.fail(this.#ladder.failure('withdrawn', access));
    });
  }

  #seeAsking(asking: boolean): void {
    if (this.closed) return;
    this.#step({ step: asking ? 'asks' : 'answered' });
  }

  #seeLife({ kind, time = this.#clock.now() }: LifeEvent): void {
    this.#life.push({ kind, time });
    if (this.#life.length > LIFE_KEPT) this.#life.shift();
    if (time < this.#clock.now() && kind === 'killed') return; // an earlier run, found out now
    if (kind === 'closed' || kind === 'killed') for (const run of [...this.#runs]) run.report({ kind });
    this.#watch.life(kind);
  }

  #startWaiting(): void {
    this.#step({ step: 'waits', since: this.#clock.now() });
  }

  #ready(fix: Fix): Fix {
    this.#show(fix, this.#watch.open);
    return fix;
  }

  /** After a stop: idle, unless others go on. */
  #settle(): void {
    if (!this.#watch.open) this.#step({ step: 'rests' });
  }

  #show(fix: Fix, watched: boolean): void {
    inTurn(() => {
      this.#fix.set(fix);
      this.#step({ step: 'finds', fix, watched });
    });
  }

  #step(step: StatusStep): void {
    this.#standing = standingAfter(this.#standing, step);
    this.#status.set(statusOf(this.#standing));
  }
}

/** Whether a fix is as good as is demanded. */
function isWithin(fix: Fix, accuracy: number | undefined): boolean {
  return accuracy === undefined || (fix.accuracy !== undefined && fix.accuracy <= accuracy);
}
