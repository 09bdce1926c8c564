import { ClosedError } from '../core/check/closed-error.js';
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
  /** Where the trail is kept while it is recorded. Without one it is in memory only. */
  readonly store?: TrailStore;
  /** What the trail is called. */
  readonly name?: string;
  /** For the pauses between tries when the store fails. */
  readonly clock?: Clock;
  /** Gets what a developer should know: that the follow is over and recording is not. Default: the console. */
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

/** Seconds without a running follow after which that is told: whoever stops a follow may finish the recording next. */
const REPORTED_AFTER = 1;

/**
 * Fixes in, trail out. Belongs to the app rather than to a screen: a screen that comes and goes only looks at it.
 *
 * Each fix goes into `trail` at once and to the store in order; it is kept once the store says so. When the store
 * fails, as when the disk is full, that is said at once; recording goes on in memory, and the store catches up when it
 * can.
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
  /** The follow whose fixes are taken; it stays attached during a pause. */
  #follow: Follow | undefined;
  #detach = () => {};
  #cancelNotice = () => {};
  /** Fixes were put in by their times, and the summary has to be counted anew. */
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
   * A recorder that goes on with a trail that broke off, found in the store's list as not finished: paused, with what
   * was kept of it. `resume` goes on, with a follow if one is given; `finish` leaves it as it is.
   *
   * @throws {TrailInUseError} when it is being written elsewhere; {InputError} when there is none, or it is finished.
   */
  static async reopen(id: string, store: TrailStore, clock: Clock = systemClock): Promise<Recorder> {
    const { writer, trail } = await store.resume(id);
    const recorder = new Recorder({ clock });
    recorder.#trail = trail;
    recorder.#running = runningSummaryOf(trail);
    recorder.#summary.set(recorder.#running.summary());
    recorder.#keeping = new Keeping(clock, () => Promise.resolve(writer), trail.length);
    recorder.#keeping.begin();
    recorder.#status.set({ state: 'paused' });
    return recorder;
  }

  /** All that was recorded, kept or not. */
  get trail(): Trail {
    return this.#trail;
  }

  /**
   * Live. `start` acts on an idle recorder, `resume` on a paused one, both on one that is cut off; `pause` and `finish`
   * act on one that records or is cut off.
   */
  get $status(): LiveValue<RecorderStatus> {
    return this.#status;
  }

  /** The current state. */
  get state(): RecorderStatus['state'] {
    return this.#status.get().state;
  }

  /**
   * Distance, times, speeds and climb so far, live; equal to `trail.summary()`, at a flat cost. After a late bundle,
   * whose fixes go in by their own times, it is counted anew, once for the bundle.
   */
  get $summary(): LiveValue<Summary> {
    return this.#summary;
  }

  /** What is wrong with the store, live; `undefined` again once it has caught up. Recording goes on in memory. */
  get $error(): LiveValue<Error | undefined> {
    return this.#keeping.$error;
  }

  /** How many fixes the store has said it keeps; all of them where there is none. */
  get kept(): number {
    return this.#keeping.kept;
  }

  /**
   * Starts recording, and takes the fixes of a follow when one is given; otherwise `take` is called by hand. While it
   * records, a follow takes the place of the one that it has: of one that is over, for instance.
   *
   * Returns whether it did anything: a second start with the same follow is harmless.
   */
  start(follow?: Follow): boolean {
    const state = this.state;
    if (state === 'paused' || state === 'finished' || state === 'closed') return this.#passOver(follow);
    if (state === 'idle') {
      this.#keeping.begin();
      this.#status.set({ state: 'recording' });
      // A listener of the state may have paused or finished it.
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
    // Before anybody is told: a listener of the summary may finish the recording.
    this.#keeping.keep(fix);
    if (putInPlace) this.#recount();
    else if (!this.#stale) {
      this.#running.take(fix);
      this.#summary.set(this.#running.summary());
    }
    return true;
  }

  /**
   * Keeps something of the app's with the trail, after the fixes so far, as it is now: anything that JSON can hold.
   * `TrailStore.notes` gives it. Returns whether it is kept: a finished recording takes no more.
   *
   * @throws {InputError} of kind `bad-value` for what JSON cannot hold, with its path.
   */
  keepNote(note: unknown): boolean {
    const text = jsonText('note', note);
    if (this.#isOver) return false;
    this.#keeping.note(JSON.parse(text));
    return true;
  }

  /** What is walked during a pause is neither recorded nor counted. Returns whether it was recording. */
  pause(): boolean {
    if (!this.#records) return false;
    this.#cancelNotice();
    this.#break();
    this.#status.set({ state: 'paused' });
    return true;
  }

  /**
   * Goes on after a pause, with the fixes of the follow that it had, or of another one that is given. A recorder that
   * is cut off goes on with the follow that is given. Returns whether it did anything.
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
   * Ends the recording and waits until all of it is kept. Finishing twice is harmless; after a failure it tries again.
   *
   * @throws what the store threw; the trail is in `trail` all the same. {ClosedError} of a recorder that was closed.
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
   * Ends the recorder without finishing the trail: it takes nothing more, lets its follow go, and keeps what it took as
   * far as the store can. In a store the trail stays unfinished, and `reopen` goes on with it. Resolves once that is
   * done, and never rejects: trouble is in `$error`. Closing twice is harmless; a finished recorder stays finished.
   */
  close(): Promise<void> {
    this.#lifetime.end(new ClosedError('the recorder'));
    return this.#lifetime.released;
  }

  /** As `close`, for `await using`. */
  [ASYNC_DISPOSE](): Promise<void> {
    return this.close();
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

  /** Says that nothing will come when the follow is over and recording is not. */
  #checkFollow(): void {
    this.#cancelNotice();
    const follow = this.#follow;
    if (follow === undefined || follow.running || this.state !== 'recording') return;
    this.#break();
    this.#status.set({ state: 'cut-off' });
    const reason = follow.error === undefined ? follow.state : `failed: ${follow.error.kind}`;
    this.#cancelNotice = this.#clock.after(REPORTED_AFTER, () =>
      this.#warn(
        `a Recorder records, and its follow is over (${reason}): nothing comes; give start or resume another follow, or finish it`,
      ),
    );
  }

  /** Nothing is done, which the call returns. That a finished recorder takes no follow is told as well. */
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
