import { atom, type ReadableAtom } from 'nanostores';
import { checkOptions, anything, someText } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { RunningSummary, runningSummaryOf, type Summary } from '../core/trail/summary.js';
import { takeFix } from '../core/trail/take-fix.js';
import { Trail } from '../core/trail/trail.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import { Keeping } from './keeping.js';
import type { TrailStore } from './trail-store.js';

export interface RecorderOptions {
  /** Where the trail is kept while it is recorded. Without one it is in memory only. */
  readonly store?: TrailStore;
  /** What the trail is called. */
  readonly name?: string;
  /** For the pauses between tries when the store fails. */
  readonly clock?: Clock;
}

export type RecorderState = 'idle' | 'recording' | 'paused' | 'finished';

/**
 * Fixes in, trail out. Belongs to the app rather than to a screen: a screen that comes and goes only looks at it.
 *
 * Each fix goes into `trail` at once and to the store in order; it is kept once the store says so. When the store fails, as
 * when the disk is full, that is said at once; recording goes on in memory, and the store catches up when it can.
 */
export class Recorder {
  readonly #state = atom<RecorderState>('idle');
  readonly #summary;
  #trail: Trail;
  #running = new RunningSummary();
  #keeping: Keeping;
  #untap: (() => void)[] = [];
  /** Fixes were put in by their times, and the summary has to be counted anew. */
  #stale = false;

  /** @throws {InputError} for a misspelt option. */
  constructor(options: RecorderOptions = {}) {
    checkOptions('Recorder', options, { store: anything, name: someText, clock: anything });
    const { store, name, clock = systemClock } = options;
    const labels = name === undefined ? {} : { name };
    this.#trail = new Trail(labels);
    this.#summary = atom<Summary>(this.#running.summary());
    this.#keeping = new Keeping(clock, store && (() => store.begin(labels)));
  }

  /**
   * A recorder that goes on with a trail that broke off, found in the store's list as not finished: paused, with what was
   * kept of it. `resume` goes on, with a follow if one is given; `finish` leaves it as it is.
   *
   * @throws {TrailInUse} when it is being written elsewhere; {InputError} when there is none, or it is finished.
   */
  static async takeUp(id: string, store: TrailStore, clock: Clock = systemClock): Promise<Recorder> {
    const { writer, trail } = await store.resume(id);
    const recorder = new Recorder({ clock });
    recorder.#trail = trail;
    recorder.#running = runningSummaryOf(trail);
    recorder.#summary.set(recorder.#running.summary());
    recorder.#keeping = new Keeping(clock, () => Promise.resolve(writer), trail.length);
    recorder.#keeping.begin();
    recorder.#state.set('paused');
    return recorder;
  }

  /** All that was recorded, kept or not. */
  get trail(): Trail {
    return this.#trail;
  }

  /** Live. Only `start` acts on an idle recorder, `pause` and `finish` on a recording one, `resume` on a paused one. */
  get $state(): ReadableAtom<RecorderState> {
    return this.#state;
  }

  /**
   * Distance, times, speeds and climb so far, live; equal to `trail.summary()`, at a flat cost. After a late bundle, whose fixes go in by their
   * own times, it is counted anew, once for the bundle.
   */
  get $summary(): ReadableAtom<Summary> {
    return this.#summary;
  }

  /** What is wrong with the store, live; `undefined` again once it has caught up. Recording goes on in memory. */
  get $trouble(): ReadableAtom<Error | undefined> {
    return this.#keeping.$trouble;
  }

  /** How many fixes the store has said it keeps; all of them where there is none. */
  get kept(): number {
    return this.#keeping.kept;
  }

  /**
   * Starts recording, and takes the fixes of a follow when one is given; otherwise `take` is called by hand.
   * Returns whether it did: a second start is harmless.
   */
  start(follow?: Follow): boolean {
    if (this.#state.get() !== 'idle') return false;
    this.#keeping.begin();
    this.#state.set('recording');
    this.#tap(follow);
    return true;
  }

  /** Takes a fix; returns whether it was recorded. */
  take(fix: Fix): boolean {
    if (this.#state.get() !== 'recording') return false;
    if (takeFix(this.trail, fix)) this.#recount();
    else if (!this.#stale) {
      this.#running.add(fix);
      this.#summary.set(this.#running.summary());
    }
    this.#keeping.keep(fix);
    return true;
  }

  /** Keeps something of the app's with the trail, after the fixes so far: anything that JSON can hold. `TrailStore.notes` gives it. */
  keepNote(note: unknown): void {
    this.#keeping.note(note);
  }

  /** What is walked during a pause is neither recorded nor counted. Returns whether it was recording. */
  pause(): boolean {
    if (this.#state.get() !== 'recording') return false;
    this.#break();
    this.#state.set('paused');
    return true;
  }

  /** Goes on after a pause, with the fixes of a follow when one is given. Returns whether it was paused. */
  resume(follow?: Follow): boolean {
    if (this.#state.get() !== 'paused') return false;
    this.#state.set('recording');
    this.#tap(follow);
    return true;
  }

  /**
   * Ends the recording and waits until all of it is kept. Finishing twice is harmless; after a failure it tries again.
   *
   * @throws what the store threw; the trail is in `trail` all the same.
   */
  async finish(): Promise<Trail> {
    if (this.#state.get() === 'recording' || this.#state.get() === 'paused') {
      this.#state.set('finished');
      for (const end of this.#untap) end();
      this.#freshen();
      this.#keeping.end();
    }
    await this.#keeping.settle();
    return this.trail;
  }

  #recount(): void {
    if (this.#stale) return;
    this.#stale = true;
    queueMicrotask(() => this.#freshen());
  }

  #freshen(): void {
    if (!this.#stale) return;
    this.#stale = false;
    this.#running = runningSummaryOf(this.trail);
    this.#summary.set(this.#running.summary());
  }

  #tap(follow: Follow | undefined): void {
    if (follow === undefined) return;
    this.#untap.push(follow.tap((fix) => this.take(fix), { all: true }));
    this.#untap.push(follow.onEvent(({ kind }) => kind === 'gap' && this.#break()));
  }

  #break(): void {
    if (this.trail.broken) return;
    this.#freshen();
    this.trail.breakSegment();
    this.#running.breakSegment();
    this.#keeping.breakSegment();
  }
}
