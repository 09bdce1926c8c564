import type { Fix } from '../core/fix/fix.js';
import type { NoFixError } from '../core/fix/no-fix-error.js';

/** What a listener is told beside a fix. */
export interface FollowNews {
  /** The first fix of this follow: the moment to reveal a map. */
  readonly first: boolean;
}

export interface TapOptions {
  /** Also fixes marked backwards, duplicate or wild, which no readout should show. For recording. */
  readonly all?: boolean;
}

interface Tap {
  readonly listener: (fix: Fix, news: FollowNews) => void;
  readonly all: boolean;
}

/** `running` until it is stopped by its handle, ended by its source, or has failed. */
export type FollowState = 'running' | 'stopped' | 'ended' | 'failed';

/** What the receiver holds of a follow, and the handle does not show. */
export interface FollowControls {
  push(fix: Fix, fit: boolean): void;
  gap(): void;
  end(error?: NoFixError): void;
}

/**
 * A handle on fixes that keep coming, until `stop` is called or the source ends.
 *
 * `for await (const fix of follow)` gives the newest fix each time; one that comes while the loop is busy replaces
 * the one that waits, and `missed` counts it. A `tap` misses none. Only this handle can stop this follow.
 */
export class Follow implements AsyncIterable<Fix> {
  readonly #taps = new Set<Tap>();
  readonly #failureListeners = new Set<(error: NoFixError) => void>();
  readonly #gapListeners = new Set<() => void>();
  readonly #release: () => void;
  readonly #waiting = new Set<() => void>();
  readonly #over: Promise<FollowState>;
  #settleOver: (state: FollowState) => void = () => {};
  #state: FollowState = 'running';
  #error: NoFixError | undefined;
  #latest: Fix | undefined;
  #passed = 0;
  #missed = 0;
  #read = 0;
  #iterated = false;
  #unhandled: ((error: NoFixError) => void) | undefined;

  /** Made by `Receiver.follow` only. */
  static make(
    release: () => void,
    unhandled: (error: NoFixError) => void,
  ): { follow: Follow; controls: FollowControls } {
    const follow = new Follow(release);
    follow.#unhandled = unhandled;
    const controls: FollowControls = {
      push: (fix, fit) => follow.#push(fix, fit),
      gap: () => follow.#gap(),
      end: (error) => follow.#end(error === undefined ? 'ended' : 'failed', error),
    };
    return { follow, controls };
  }

  private constructor(release: () => void) {
    this.#release = release;
    this.#over = new Promise((resolve) => (this.#settleOver = resolve));
  }

  get state(): FollowState {
    return this.#state;
  }

  /** Resolves with the last state once the follow is over, for whatever reason. Never rejects. */
  get over(): Promise<FollowState> {
    return this.#over;
  }

  /** Why it failed, if it did. */
  get error(): NoFixError | undefined {
    return this.#error;
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

  /** Calls back with each fix that passes; the returned function ends that. */
  tap(listener: (fix: Fix, news: FollowNews) => void, options: TapOptions = {}): () => void {
    const tap = { listener, all: options.all === true };
    this.#taps.add(tap);
    return () => void this.#taps.delete(tap);
  }

  /** Calls back once if the follow fails. */
  onFailure(listener: (error: NoFixError) => void): () => void {
    this.#failureListeners.add(listener);
    return () => void this.#failureListeners.delete(listener);
  }

  /** Calls back where the next fix does not join on to the one before: what lies between is not known. */
  onGap(listener: () => void): () => void {
    this.#gapListeners.add(listener);
    return () => void this.#gapListeners.delete(listener);
  }

  /** Stops; no callback follows. Returns whether it was running: stopping twice is harmless. */
  stop(): boolean {
    if (this.#state !== 'running') return false;
    this.#end('stopped');
    return true;
  }

  /** The fixes from now on. Ends with the follow; throws the `NoFixError` when it fails. */
  async *[Symbol.asyncIterator](): AsyncGenerator<Fix> {
    this.#iterated = true;
    let seen = this.#read;
    for (;;) {
      if (this.#state === 'stopped') {
        return;
      } else if (this.#passed > seen && this.#latest !== undefined) {
        this.#missed += this.#passed - seen - 1;
        seen = this.#read = this.#passed;
        yield this.#latest;
      } else if (this.#error !== undefined) {
        throw this.#error;
      } else if (this.#state !== 'running') {
        return;
      } else {
        await new Promise<void>((resolve) => this.#waiting.add(resolve));
      }
    }
  }

  #push(fix: Fix, fit: boolean): void {
    if (this.#state !== 'running') return;
    if (fit) {
      this.#passed++;
      this.#latest = fix;
    }
    const news = { first: fit && this.#passed === 1 };
    for (const tap of [...this.#taps]) if (fit || tap.all) tap.listener(fix, news);
    this.#wake();
  }

  #gap(): void {
    if (this.#state === 'running') for (const listener of [...this.#gapListeners]) listener();
  }

  #end(state: FollowState, error?: NoFixError): void {
    if (this.#state !== 'running') return;
    this.#state = state;
    this.#error = error;
    this.#release();
    if (error !== undefined) {
      const listeners = [...this.#failureListeners];
      for (const listener of listeners) listener(error);
      if (listeners.length === 0 && !this.#iterated) this.#unhandled?.(error);
    }
    this.#taps.clear();
    this.#settleOver(state);
    this.#wake();
  }

  #wake(): void {
    for (const resolve of this.#waiting) resolve();
    this.#waiting.clear();
  }
}
