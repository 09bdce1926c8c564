import { liveValue, type LiveValue } from '../live/live-value.js';
import type { Fix } from '../core/fix/fix.js';
import type { Clock } from '../receiver/clock.js';
import type { TrailWriter } from './trail-store.js';

/** Pending writes, in the order of events. */
type Piece =
  | { readonly kind: 'fixes'; readonly fixes: Fix[] }
  | { readonly kind: 'break' }
  | { readonly kind: 'note'; readonly note: unknown }
  | { readonly kind: 'finish' };

/** Seconds until a failed store is tried again; each pause is twice as long as the one before, up to the maximum. */
const FIRST_PAUSE = 2;
const MAX_PAUSE = 60;
/** Maximum number of fixes in one write, when the store is slower than the fixes. */
const MAX_FIXES = 4096;

/** Writes the recording to a store, one write after the other. After a failure it reports, waits, and tries again. */
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

  /** @param begin opens the writer; without one, a fix counts as stored at once. */
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
    // The first may be in progress, and is not changed.
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

  /** Waits until everything is stored. @throws the error of the store. */
  async settle(): Promise<void> {
    if (this.#writing === undefined && this.#waiting.length > 0) this.#write(true);
    // Everything that arrived during the last write is written next.
    while (this.#writing !== undefined) await this.#writing;
    const error = this.#error.get();
    if (error === undefined) return;
    this.#cancelRetry();
    throw error;
  }

  /** Writes everything pending, with one more try after a failure, and releases the trail unfinished. Never rejects. */
  async close(): Promise<void> {
    await this.settle().catch(() => undefined); // reported by $error
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
    if (this.#error.get() !== undefined && !now) return; // tried again later
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
