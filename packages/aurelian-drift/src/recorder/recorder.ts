import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import { jsonText } from '../core/check/json.js';
import { abortSignal, anything, callable, checkOptions, someText } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { RunningSummary, runningSummaryOf, type Summary } from '../core/trail/summary.js';
import { takeFix } from '../core/trail/take-fix.js';
import { Trail } from '../core/trail/trail.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { ASYNC_DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { Keeping } from './keeping.js';
import type { TrailStore } from './trail-store.js';

/** Options of `Recorder`. */
export interface RecorderOptions {
  /** Store for the trail. Without one the trail is in memory only. */
  readonly store?: TrailStore;
  /** Name of the trail. */
  readonly name?: string;
  /** Clock of the pauses between tries when the store fails. Default: the clock of the platform. */
  readonly clock?: Clock;
  /**
   * Receives messages for the developer, such as that the follow has ended while the recording goes on. Default: the
   * console.
   */
  readonly warn?: Warn;
  /** Closes the recorder when it aborts. */
  readonly signal?: AbortSignalLike;
}

/**
 * The state of a recorder.
 *
 * - `cut-off`: recording, but the attached follow has ended. No fixes arrive until `follow`, `start` or `resume` is
 *   given another follow, or the app calls `take`.
 * - `closed`: the recorder was closed before the trail was finished.
 */
export interface RecorderStatus {
  readonly state: 'idle' | 'recording' | 'cut-off' | 'paused' | 'finished' | 'closed';
}

/**
 * Seconds without a running follow after which that is reported: the app may finish the recording right after it stops
 * a follow.
 */
const REPORTED_AFTER = 1;

/** Recorders of this app that are letting go of their trails. */
const closing = new Set<Promise<void>>();

/**
 * Records fixes as a trail. It belongs to the app rather than to a screen, which comes and goes and only shows it.
 *
 * Each fix is added to `trail` at once and passed to the store in order; it counts as stored when the store confirms
 * it. When the store fails, as when the disk is full, that is reported at once; recording continues in memory, and the
 * store catches up when it can.
 */
export class Recorder {
  readonly #lifetime: Lifetime;
  readonly #status;
  readonly #summary;
  readonly #clock: Clock;
  readonly #warn: Warn;
  #trail: Trail;
  #running = new RunningSummary();
  #keeping: Keeping;
  /** The attached follow; it stays attached during a pause. */
  #follow: Follow | undefined;
  #detach = () => {};
  #cancelNotice = () => {};
  /** Late fixes were inserted by their times, and the summary must be computed again. */
  #stale = false;

  /** @throws {InputError} for a misspelt option. */
  constructor(options: RecorderOptions = {}) {
    checkOptions('Recorder', options, {
      store: anything,
      name: someText,
      clock: anything,
      warn: callable,
      signal: abortSignal,
    });
    const { store, name, clock = systemClock, warn = consoleWarn, signal } = options;
    this.#clock = clock;
    this.#warn = isolatedWarn(warn);
    const report = warnOfListener('a Recorder', this.#warn);
    this.#status = liveValue<RecorderStatus>({ state: 'idle' }, report);
    const labels = name === undefined ? {} : { name };
    this.#trail = new Trail(labels);
    this.#summary = liveValue<Summary>(this.#running.summary(), report);
    this.#keeping = new Keeping(clock, store && (() => store.begin(labels)));
    this.#lifetime = new Lifetime(report);
    this.#lifetime.add(() => this.#letGo());
    this.#lifetime.endWith(signal);
  }

  /**
   * Opens an unfinished trail of a store again, which may have ended with the app: paused, with everything that was
   * stored. `resume` continues it, with a follow if one is given; `finish` ends it as it is.
   *
   * @throws {TrailInUseError} when another writer has it.
   * @throws {InputError} when there is none, or it is finished.
   */
  static async reopen(id: string, store: TrailStore, clock: Clock = systemClock): Promise<Recorder> {
    const recorder = new Recorder({ clock });
    await recorder.#takeUp(id, store);
    return recorder;
  }

  /**
   * Goes on where a recording of this name broke off, such as that of a screen that was left, or of an app that was
   * killed: opens the newest unfinished trail of the name in the store again, paused. Without one, a new recorder.
   *
   * @throws {InputError} for a misspelt option, or without a store and a name.
   * @throws {TrailInUseError} when another tab or process is writing the trail.
   */
  static async resumeOrBegin(
    options: RecorderOptions & { store: TrailStore; name: string },
  ): Promise<Recorder> {
    const { store, name } = options as Partial<typeof options>;
    if (store === undefined || name === undefined)
      throw new InputError('bad-value', 'Recorder.resumeOrBegin needs a store and a name');
    const recorder = new Recorder(options);
    await Promise.all(closing);
    const entry = (await store.list()).find((each) => !each.finished && each.name === name);
    if (entry !== undefined) await recorder.#takeUp(entry.id, store);
    return recorder;
  }

  /** The recorded trail, stored or not. */
  get trail(): Trail {
    return this.#trail;
  }

  /**
   * Status, live. `start` works on an idle recorder, `resume` on a paused one, both on one that is cut off; `pause` and
   * `finish` work on one that is recording or cut off.
   */
  get $status(): LiveValue<RecorderStatus> {
    return this.#status;
  }

  /** The current state. */
  get state(): RecorderStatus['state'] {
    return this.#status.get().state;
  }

  /**
   * Distance, times, speeds and climb so far, live; equal to `trail.summary()`, at a constant cost per fix. After a
   * late bundle, whose fixes are inserted by their times, it is computed again, once per bundle.
   */
  get $summary(): LiveValue<Summary> {
    return this.#summary;
  }

  /**
   * Current error of the store, live; `undefined` again when the store has caught up. Recording continues in memory.
   */
  get $error(): LiveValue<Error | undefined> {
    return this.#keeping.$error;
  }

  /** Number of fixes that the store has confirmed; all fixes where there is no store. */
  get kept(): number {
    return this.#keeping.kept;
  }

  /**
   * Starts recording, and attaches a follow when one is given; otherwise the app calls `follow` or `take`. During
   * recording, another follow replaces the attached one, which may have ended.
   *
   * Returns whether it did anything: a second start with the same follow is harmless.
   */
  start(follow?: Follow): boolean {
    const state = this.state;
    if (state === 'paused' || state === 'finished' || state === 'closed') return this.#passOver(follow);
    if (state === 'idle') {
      this.#keeping.begin();
      this.#status.set({ state: 'recording' });
      // A listener of the status may have paused or finished it.
      if (follow !== undefined && !this.#isOver) this.#attach(follow);
      return true;
    }
    return this.#attachOther(follow);
  }

  /**
   * Attaches a follow: its fixes are recorded whenever the recorder records, and it stays attached across `pause` and
   * `resume`. It replaces the follow that was attached before; a different follow begins a new segment. Does nothing on
   * a recorder that is finished or closed.
   *
   * Returns the function that detaches it; calling that twice is harmless.
   */
  follow(follow: Follow): () => void {
    if (this.#isOver) this.#passOver(follow);
    else if (follow !== this.#follow) {
      if (this.#records) this.#break();
      this.#attach(follow);
    }
    return () => {
      if (this.#follow !== follow) return;
      this.#cancelNotice();
      this.#detach();
      this.#follow = undefined;
    };
  }

  /** Takes a fix; returns whether it was recorded. */
  take(fix: Fix): boolean {
    if (!this.#records) return false;
    const putInPlace = takeFix(this.trail, fix);
    // Before the listeners are called: a listener of the summary may finish the recording.
    this.#keeping.keep(fix);
    if (putInPlace) this.#recount();
    else if (!this.#stale) {
      this.#running.take(fix);
      this.#summary.set(this.#running.summary());
    }
    return true;
  }

  /**
   * Stores data of the app with the trail, after the fixes so far: anything that JSON can hold, as it is now.
   * `TrailStore.notes` returns it. Returns whether it was taken: a finished recording takes nothing.
   *
   * @throws {InputError} of kind `bad-value`, with the path, for data that JSON cannot hold.
   */
  keepNote(note: unknown): boolean {
    const text = jsonText('note', note);
    if (this.#isOver) return false;
    this.#keeping.note(JSON.parse(text));
    return true;
  }

  /** Pauses: fixes during a pause are neither recorded nor counted. Returns whether it was recording. */
  pause(): boolean {
    if (!this.#records) return false;
    this.#cancelNotice();
    this.#break();
    this.#status.set({ state: 'paused' });
    return true;
  }

  /**
   * Continues after a pause, with the attached follow or with the given one. A recorder that is cut off continues with
   * the given follow. Returns whether it did anything.
   */
  resume(follow?: Follow): boolean {
    const state = this.state;
    if (state === 'idle' || state === 'finished' || state === 'closed') return this.#passOver(follow);
    if (state !== 'paused') return this.#attachOther(follow);
    this.#status.set({ state: 'recording' });
    if (this.#isOver) return true; // a listener has finished it
    if (follow !== undefined && follow !== this.#follow) this.#attach(follow);
    else this.#checkFollow();
    return true;
  }

  /**
   * Ends the recording and waits until it is stored. Finishing twice is harmless; after a failure it tries again.
   *
   * @throws the error of the store; the trail is in `trail` all the same.
   * @throws {ClosedError} when the recorder was closed.
   */
  async finish(): Promise<Trail> {
    if (this.state === 'closed') throw new ClosedError('the recorder');
    if (this.#records || this.state === 'paused') {
      this.#cancelNotice();
      this.#detach();
      this.#freshen();
      this.#keeping.end();
      this.#status.set({ state: 'finished' });
    }
    await this.#keeping.settle();
    return this.trail;
  }

  /**
   * Ends the recorder without finishing the trail: it takes nothing more, detaches its follow, and stores what it has
   * taken as far as the store can. In a store the trail stays unfinished, and `reopen` continues it. Resolves when that
   * is done, and never rejects: errors are in `$error`. Closing twice is harmless; a finished recorder stays finished.
   */
  close(): Promise<void> {
    this.#lifetime.end(new ClosedError('the recorder'));
    const closed = this.#lifetime.released;
    closing.add(closed);
    void closed.then(() => closing.delete(closed));
    return closed;
  }

  /** As `close`, for `await using`. */
  [ASYNC_DISPOSE](): Promise<void> {
    return this.close();
  }

  /** Has everything that is stored of an unfinished trail, paused. */
  async #takeUp(id: string, store: TrailStore): Promise<void> {
    const { writer, trail } = await store.resume(id);
    if (this.#isOver) {
      writer.release(); // its signal has aborted meanwhile
      return;
    }
    this.#trail = trail;
    this.#running = runningSummaryOf(trail);
    this.#summary.set(this.#running.summary());
    this.#keeping = new Keeping(this.#clock, () => Promise.resolve(writer), trail.length);
    this.#keeping.begin();
    this.#status.set({ state: 'paused' });
  }

  #letGo(): Promise<void> {
    this.#cancelNotice();
    this.#detach();
    this.#freshen();
    const kept = this.#keeping.close();
    if (this.state !== 'finished') this.#status.set({ state: 'closed' });
    return kept;
  }

  #recount(): void {
    if (this.#stale) return;
    this.#stale = true;
    void Promise.resolve().then(() => this.#freshen());
  }

  #freshen(): void {
    if (!this.#stale) return;
    this.#stale = false;
    this.#running = runningSummaryOf(this.trail);
    this.#summary.set(this.#running.summary());
  }

  get #isOver(): boolean {
    const state = this.state;
    return state === 'finished' || state === 'closed';
  }

  get #records(): boolean {
    const state = this.state;
    return state === 'recording' || state === 'cut-off';
  }

  #attachOther(follow: Follow | undefined): boolean {
    if (follow === undefined || follow === this.#follow) return false;
    this.#break();
    this.#attach(follow);
    return true;
  }

  #attach(follow: Follow): void {
    this.#detach();
    this.#follow = follow;
    const ends = [
      follow.onFix((fix) => this.take(fix), { all: true }),
      follow.onEvent(({ kind }) => kind === 'gap' && this.#records && this.#break()),
      follow.$status.listen(() => this.#checkFollow()),
    ];
    this.#detach = () => {
      for (const end of ends) end();
    };
    if (this.state === 'cut-off') this.#status.set({ state: 'recording' });
    this.#checkFollow();
  }

  /** Reports that no fixes will arrive, when the follow has ended and the recording has not. */
  #checkFollow(): void {
    this.#cancelNotice();
    const follow = this.#follow;
    if (follow === undefined || follow.running || this.state !== 'recording') return;
    this.#break();
    this.#status.set({ state: 'cut-off' });
    const reason = follow.error === undefined ? follow.state : `failed: ${follow.error.kind}`;
    this.#cancelNotice = this.#clock.after(REPORTED_AFTER, () =>
      this.#warn(
        `a Recorder records, and its follow is over (${reason}): nothing comes; give start or resume ` +
          `another follow, or finish it`,
      ),
    );
  }

  /** Returns false for a call without effect. A follow that is given to a finished recorder is reported too. */
  #passOver(follow: Follow | undefined): false {
    if (follow !== undefined && this.#isOver)
      this.#warn(
        `a Recorder that is ${this.state} was given a follow and takes nothing of it; make another Recorder`,
      );
    return false;
  }

  #break(): void {
    if (this.trail.broken) return;
    this.#freshen();
    this.trail.breakSegment();
    this.#running.breakSegment();
    this.#keeping.breakSegment();
  }
}
