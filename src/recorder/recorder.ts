import { atom, type ReadableAtom } from 'nanostores';
import { checkOptions, anything, someText } from '../core/check/options.js';
import type { Fix } from '../core/fix/fix.js';
import { RunningSummary, type Summary } from '../core/trail/summary.js';
import { Trail } from '../core/trail/trail.js';
import type { Follow } from '../receiver/follow.js';
import { memoryStore } from './memory-store.js';
import type { TrailStore, TrailWriter } from './trail-store.js';

export interface RecorderOptions {
  /** Default a store in memory. */
  readonly store?: TrailStore;
  /** What the trail is called. */
  readonly name?: string;
}

export type RecorderState = 'idle' | 'recording' | 'paused' | 'finished';

/**
 * Fixes in, trail out. Belongs to the app rather than to a screen: a screen that comes and goes only looks at it.
 *
 * Each fix goes into `trail` at once and to the store in order; it is kept once the store says so.
 */
export class Recorder {
  readonly trail: Trail;
  readonly #store: TrailStore;
  readonly #running = new RunningSummary();
  readonly #state = atom<RecorderState>('idle');
  readonly #summary;
  readonly #trouble = atom<Error | undefined>(undefined);
  #writer: Promise<TrailWriter> | undefined;
  #queue: Promise<void> = Promise.resolve();
  #kept = 0;
  #untap: (() => void)[] = [];

  constructor(options: RecorderOptions = {}) {
    checkOptions('Recorder', options, { store: anything, name: someText });
    this.#store = options.store ?? memoryStore();
    this.trail = new Trail(options.name === undefined ? {} : { name: options.name });
    this.#summary = atom<Summary>(this.#running.summary());
  }

  /** Live. Only `start` acts on an idle recorder, `pause` and `finish` on a recording one, `resume` on a paused one. */
  get $state(): ReadableAtom<RecorderState> {
    return this.#state;
  }

  /** Distance, times, speeds and climb so far, live; equal to `trail.summary()`, at a flat cost. */
  get $summary(): ReadableAtom<Summary> {
    return this.#summary;
  }

  /** What went wrong with the store, live; recording goes on in memory. */
  get $trouble(): ReadableAtom<Error | undefined> {
    return this.#trouble;
  }

  /** How many fixes the store has said it keeps. */
  get kept(): number {
    return this.#kept;
  }

  /**
   * Starts recording, and takes the fixes of a follow when one is given; otherwise `take` is called by hand.
   * Returns whether it did: a second start is harmless.
   */
  start(follow?: Follow): boolean {
    if (this.#state.get() !== 'idle') return false;
    const labels = this.trail.name === undefined ? {} : { name: this.trail.name };
    this.#writer = this.#store.begin(labels);
    this.#write(() => Promise.resolve());
    this.#state.set('recording');
    if (follow !== undefined) {
      this.#untap.push(follow.tap((fix) => this.take(fix), { all: true }));
      this.#untap.push(follow.onEvent(({ kind }) => kind === 'gap' && this.#break()));
    }
    return true;
  }

  /** Takes a fix; returns whether it was recorded. */
  take(fix: Fix): boolean {
    if (this.#state.get() !== 'recording') return false;
    this.trail.append(fix);
    this.#running.add(fix);
    this.#summary.set(this.#running.summary());
    this.#write(async (writer) => {
      await writer.append([fix]);
      this.#kept++;
    });
    return true;
  }

  /** What is walked during a pause is neither recorded nor counted. Returns whether it was recording. */
  pause(): boolean {
    if (this.#state.get() !== 'recording') return false;
    this.#break();
    this.#state.set('paused');
    return true;
  }

  resume(): boolean {
    if (this.#state.get() !== 'paused') return false;
    this.#state.set('recording');
    return true;
  }

  /**
   * Ends the recording and waits until all of it is kept. Finishing twice is harmless.
   *
   * @throws what the store threw; the trail is in `trail` all the same.
   */
  async finish(): Promise<Trail> {
    if (this.#state.get() === 'recording' || this.#state.get() === 'paused') {
      this.#state.set('finished');
      for (const end of this.#untap) end();
      this.#write((writer) => writer.finish());
    }
    await this.#queue;
    const trouble = this.#trouble.get();
    if (trouble !== undefined) throw trouble;
    return this.trail;
  }

  #break(): void {
    if (this.trail.broken) return;
    this.trail.breakSegment();
    this.#running.breakSegment();
    this.#write((writer) => writer.breakSegment());
  }

  /** One after the other, in the order of events. */
  #write(action: (writer: TrailWriter) => Promise<void>): void {
    this.#queue = this.#queue.then(async () => {
      if (this.#trouble.get() !== undefined) return;
      try {
        await action(await (this.#writer as Promise<TrailWriter>));
      } catch (error) {
        this.#trouble.set(error instanceof Error ? error : new Error(String(error)));
      }
    });
  }
}
