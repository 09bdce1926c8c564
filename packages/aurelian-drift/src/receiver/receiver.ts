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
import type { Deliveries } from './fix-intake.js';
import type { Follow } from './follow.js';
import { FollowRun } from './follow-run.js';
import { Ladder, READING_LIMIT } from './ladder.js';
import type { LifeEntry, LifeEvent } from './life.js';
import { limited } from './limited.js';
import { SILENT_AFTER } from './liveliness.js';
import { Diagnostics, type Diagnostic } from './diagnostics.js';
import { isWithin, oneShot } from './one-shot.js';
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
import { SharedWatch } from './shared-watch.js';
import type { Source } from './source.js';
import { IDLE, standingAfter, statusOf, type ReceiverStatus, type StatusStep } from './status.js';
import { TrackingSign, type Tracking } from './tracking.js';
import type { Usage } from './usage.js';

/** The last fix and its age in seconds. */
export interface LastFix {
  readonly fix: Fix;
  readonly age: number;
}

/** Maximum number of entries in the log of the app's life cycle; the oldest is dropped first. */
const LIFE_KEPT = 100;

/**
 * The object that an app keeps: asks for permission, gets a fix, follows.
 *
 * All follows share one watch on the device, which is released when the last one stops.
 */
export class Receiver {
  /** Purpose of the positions. */
  readonly purpose: string;
  readonly #lifetime: Lifetime;
  readonly #source: Source;
  /** Its alarms are cancelled when the receiver is closed. */
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
  /** The newest accepted fix of a bundle whose delivery is in progress. */
  #pending: Fix | undefined;
  /** Whether any follow had `background: true`. */
  #backgroundUsed = false;

  /** @throws {InputError} for a misspelt option, or a blank purpose. */
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
    this.#access = liveValue<Access>(
      accessOf(readingOf({ support }), undefined, texts, source.inApp),
      onListenerError,
    );
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
          const text = 'the user was asked without an action: ask after a press, or set startUp: true';
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
    // Before anything else is released, all follows stop and release the device.
    this.#lifetime.add(() => {
      for (const run of [...this.#runs]) run.follow.stop();
      this.#step({ step: 'answered' });
      this.#settle();
    });
    this.#lifetime.endWith(signal);
  }

  /** Whether it was closed, by `close` or by its signal. */
  get closed(): boolean {
    return this.#lifetime.aborted;
  }

  /**
   * Ends the receiver: all follows stop, the device and the source are released, and pending calls are rejected with a
   * `ClosedError`. The live values keep their content. Closing twice is harmless.
   */
  close(): void {
    inTurn(() => this.#lifetime.end(new ClosedError('the receiver')));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  /** Conditions for a fix and the next remedy, live. */
  get $access(): LiveValue<Access> {
    return this.#access;
  }

  /** What the receiver is doing, live. */
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

  /** Diagnostics for the developer, live. Each is also passed to `warn` at its first occurrence. */
  get $diagnostics(): LiveValue<readonly Diagnostic[]> {
    return this.#diagnostics.$all;
  }

  /** Whether the receiver of the device is on for this app. */
  get receiving(): boolean {
    return this.#watch.open;
  }

  /** Time with the receiver on, and open watches, so far. */
  get usage(): Usage {
    return this.#watch.usage;
  }

  /** Number of fixes that arrived, and of those marked or left out, by reason. */
  get deliveries(): Deliveries {
    return this.#watch.deliveries;
  }

  /** The last fixes of the device, 50 at most, oldest first: also those with a mark that no readout shows. */
  get recentFixes(): readonly Fix[] {
    return [...this.#watch.recent];
  }

  /** The running follows. */
  get follows(): readonly Follow[] {
    return [...this.#runs].map((run) => run.follow).filter((follow) => follow.running);
  }

  /** Past changes in the life cycle of the app, oldest first. */
  get lifeLog(): readonly LifeEntry[] {
    return this.#life;
  }

  /** Reads the access without a prompt. A closed receiver gives its last reading. */
  async readAccess(): Promise<Access> {
    if (this.closed) return this.#access.get();
    return this.#orClosed((signal) => abortable(this.#ladder.read(), signal)).catch((error: unknown) => {
      if (this.closed) return this.#access.get();
      throw error;
    });
  }

  /**
   * Asks the user, if needed, and waits for the answer. Resolves with the resulting access, whatever it is; where a
   * prompt cannot help, nobody is asked. Simultaneous calls share one prompt.
   *
   * @throws {InputError} for an unknown level.
   * @throws {ClosedError} when the receiver is closed, or closes meanwhile.
   */
  async ask(level: AccessLevel = 'foreground'): Promise<Access> {
    const problem = oneOf(...ACCESS_LEVELS)(level);
    if (problem !== undefined) throw new InputError('bad-value', `ask: level ${problem}`);
    if (level === 'background' && !this.#backgroundUsed) {
      this.#diagnostics.report(
        'background-unused',
        'ask("background") asks for more than is used: nothing follows with background: true; ask for ' +
          '"foreground", or set that option of follow',
      );
    }
    return this.#orClosed((signal) => abortable(this.#ladder.ask(level), signal));
  }

  /**
   * Gets one fix, from any state: asks if needed, waits for the answer, then for the device.
   *
   * The call ends within `patience` plus the user's own time to answer, at most 15 minutes, or one minute at the prompt
   * of a platform that does not report the permission.
   *
   * @throws {NoFixError} with the kind of failure, or the reason of the signal.
   * @throws {InputError} for an invalid option.
   * @throws {ClosedError} when the receiver is closed, or closes meanwhile.
   */
  async fix(options: FixOptions = {}): Promise<Fix> {
    return this.#fixWithin(options, this.#patienceOf('fix', options));
  }

  /**
   * Gives the last fix of this receiver or of the platform, marked `cached` and of any age, and then a fresh one.
   * Without a last fix, or before permission, only the fresh one.
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

  /** Checks the options of a one-shot call, and reports doubtful ones. */
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
        const access = await abortable(
          this.#ladder.climb(demand, () => 'foreground', patience),
          signal,
        );
        const last = this.lastFix();
        if (
          last !== undefined &&
          maxAge > 0 &&
          last.age >= 0 &&
          last.age <= maxAge &&
          isWithin(last.fix, accuracy)
        )
          return this.#ready(marked(last.fix, 'cached'));
        const newest = this.#newestWithin(accuracy);
        if (newest !== undefined) return this.#ready(newest);
        this.#startWaiting();
        const approximate = access.precision === 'approximate';
        const onBetter = ({ accuracy: radius }: Fix) => {
          if (radius !== undefined) this.#step({ step: 'nears', accuracy: radius });
        };
        const shot = { accuracy, patience, maxAge, signal, onBetter, approximate };
        return this.#ready(await oneShot(this.#watch, this.#clock, shot));
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

  /**
   * The newest fix of the running follows, if it came within the last seconds: a second request would give no other,
   * and none at all on a platform that is silent at rest.
   */
  #newestWithin(accuracy: number | undefined): Fix | undefined {
    const { newest } = this.#watch;
    const isNew = newest !== undefined && this.#clock.now() - newest.arrived <= SILENT_AFTER * 1000;
    return isNew && isWithin(newest.fix, accuracy) ? newest.fix : undefined;
  }

  /** Runs a call with a signal that aborts when the receiver is closed or when the caller's signal aborts. */
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

  /** The last fix of this receiver and its age; `undefined` when there is none. Never prompts, never waits. */
  lastFix(): LastFix | undefined {
    const fix = this.#fix.get();
    return fix === undefined ? undefined : { fix, age: (this.#clock.now() - fix.time) / 1000 };
  }

  /**
   * Uses a place that the user typed (see `readPosition`), chose or marked with a pin as the latest fix, with origin
   * `manual`. Everything that shows the fix of the receiver shows it, also after a refusal. Later fixes of the device
   * replace it.
   *
   * @throws {InputError} for an impossible position.
   * @throws {ClosedError} when the receiver is closed.
   */
  placeByHand(at: Position & { readonly accuracy?: number }): Fix {
    this.#refuseIfClosed();
    const { accuracy } = at;
    return this.#ready(fixFrom({ ...positionOf(at), time: this.#clock.now(), accuracy, origin: 'manual' }));
  }

  /**
   * Follows the position. Returns at once; permission is requested, if needed, before the first fix. A temporary
   * `no-signal` is passed over; any other failure ends the follow.
   *
   * @throws {InputError} for an invalid option.
   * @throws {ClosedError} when the receiver is closed.
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
      failureSeen: () => this.#status.observed,
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
      run.follow.stop(); // before it has begun: nobody is asked, and the device is not used
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

  /** The newer one of the last fix of this receiver and that of the platform. */
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
    if (this.#fix.get() === newest) return; // another follow has delivered it already
    this.#show(newest, true);
  }

  #seeAccess(access: Access): void {
    if (this.closed) return; // a source that answers late
    const before = this.#access.get();
    const lost =
      before.permission === 'granted' && access.permission !== 'granted' && access.permission !== 'unknown';
    inTurn(() => {
      this.#access.set(access);
      for (const run of [...this.#runs]) run.seeAccess(access);
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
    if (time < this.#clock.now() && kind === 'killed') return; // an earlier run, found now
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

  /** After a stop: idle, unless other follows are running. */
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
