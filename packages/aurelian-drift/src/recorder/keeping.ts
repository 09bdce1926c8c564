import { liveValue, type LiveValue } from '../live/live-value.js';
import type { Fix } from '../core/fix/fix.js';
import type { Clock } from '../receiver/clock.js';
import type { TrailWriter } from './trail-store.js';

/** What waits to be written, in the order of events. */
type Piece =
  | { readonly kind: 'fixes'; readonly fixes: Fix[] }
  | { readonly kind: 'break' }
  | { readonly kind: 'note'; readonly note: unknown }
  | { readonly kind: 'finish' };

/** Seconds until a store that failed is tried again; each next waits twice as long, up to the most. */
const FIRST_PAUSE = 2;
const MAX_PAUSE = 60;
/** Fixes that go to the store in one piece, when it is slower than they come. */
const MAX_FIXES = 4096;

/**
 * Brings what is recorded to a store, one piece after the other. When that fails it says so, holds back, and tries
 * again.
 */
export class Keeping {
  readonly #clock: Clock;
  readonly #begin: (() => Promise<TrailWriter>) | undefined;
  readonly #error = liveValue<Error | undefined>(undefined);
  readonly #waiting: Piece[] = [];
  #writer: TrailWriter | undefined;
  #kept = 0;
  #begun = false;
  #finished = false;
  #writing: Promise<void> | undefined;
  #pause = FIRST_PAUSE;
  #cancelRetry = () => {};

  /** @param begin where it is written to; without, nothing need be done for a fix to be kept. */
  constructor(clock: Clock, begin: (() => Promise<TrailWriter>) | undefined, kept = 0) {
    this.#clock = clock;
    this.#begin = begin;
    this.#kept = kept;
  }

  get $error(): LiveValue<Error | undefined> {
    return this.#error;
  }

  get kept(): number {
    return this.#kept;
  }

  begin(): void {
    this.#begun = true;
    this.#write();
  }

  keep(fix: Fix): void {
    if (this.#begin === undefined) {
      this.#kept++;
      return;
    }
    const last = this.#waiting.at(-1);
    // The first may be under way, and is left as it is.
    if (last?.kind === 'fixes' && this.#waiting.length > 1 && last.fixes.length < MAX_FIXES)
      last.fixes.push(fix);
    else this.#waiting.push({ kind: 'fixes', fixes: [fix] });
    this.#write();
  }

  breakSegment(): void {
    this.#put({ kind: 'break' });
  }

  note(note: unknown): void {
    this.#put({ kind: 'note', note });
  }

  end(): void {
    this.#put({ kind: 'finish' });
  }

  /** Waits until all is kept. @throws what the store threw. */
  async settle(): Promise<void> {
    if (this.#writing === undefined && this.#waiting.length > 0) this.#write(true);
    // What came in while the last piece was written is written next.
    while (this.#writing !== undefined) await this.#writing;
    const error = this.#error.get();
    if (error === undefined) return;
    this.#cancelRetry();
    throw error;
  }

  /**
   * Writes what waits, once more if the store has failed, and lets others write the trail: it is left unfinished. Never
   * rejects.
   */
  async close(): Promise<void> {
    await this.settle().catch(() => undefined); // told through $error
    this.#cancelRetry();
    if (!this.#finished) this.#writer?.release();
    this.#writer = undefined;
  }

  #put(piece: Piece): void {
    if (this.#begin === undefined) return;
    this.#waiting.push(piece);
    this.#write();
  }

  #write(now = false): void {
    if (this.#begin === undefined || !this.#begun || this.#writing !== undefined) return;
    if (this.#error.get() !== undefined && !now) return; // it is tried again in time
    this.#writing = this.#writeAll().finally(() => {
      this.#writing = undefined;
      if (this.#waiting.length > 0) this.#write();
    });
  }

  async #writeAll(): Promise<void> {
    try {
      this.#writer ??= await (this.#begin as () => Promise<TrailWriter>)();
      for (let piece = this.#waiting[0]; piece !== undefined; piece = this.#waiting[0]) {
        await this.#writePiece(this.#writer, piece);
        this.#waiting.shift();
        if (piece.kind === 'fixes') this.#kept += piece.fixes.length;
        if (piece.kind === 'finish') this.#finished = true;
      }
      this.#pause = FIRST_PAUSE;
      if (this.#error.get() !== undefined) this.#error.set(undefined);
    } catch (error) {
      this.#error.set(error instanceof Error ? error : new Error(String(error)));
      this.#cancelRetry();
      this.#cancelRetry = this.#clock.after(this.#pause, () => this.#write(true));
      this.#pause = Math.min(MAX_PAUSE, this.#pause * 2);
    }
  }

  #writePiece(writer: TrailWriter, piece: Piece): Promise<void> {
    if (piece.kind === 'fixes') return writer.append(piece.fixes);
    if (piece.kind === 'note') return writer.note(piece.note);
    return piece.kind === 'break' ? writer.breakSegment() : writer.finish();
  }
}
