import type { Fix } from '../core/fix/fix.js';
import type { Trail, TrailLabels } from '../core/trail/trail.js';

/** A trail in a store. */
export interface TrailEntry {
  readonly id: string;
  readonly name?: string;
  readonly fixes: number;
  /** Milliseconds since 1970 UTC, of the first and last fix; absent for an empty trail. */
  readonly start?: number;
  readonly end?: number;
  /** Metres, as in the trail's summary. */
  readonly distance: number;
  /** Whether the recording was finished, or is still going on or broke off. */
  readonly finished: boolean;
}

/** A trail being written. A call resolves once what it was given is kept: it survives the end of the process. */
export interface TrailWriter {
  readonly id: string;
  /** After a failure the very same list may be given again. */
  append(fixes: readonly Fix[]): Promise<void>;
  breakSegment(): Promise<void>;
  /** Keeps something of the app's at this point of the trail: anything that JSON can hold. */
  note(note: unknown): Promise<void>;
  finish(): Promise<void>;
  /** Lets others write the trail, without finishing it. */
  release(): void;
}

/** Where trails are kept. */
export interface TrailStore {
  begin(labels: TrailLabels): Promise<TrailWriter>;
  /**
   * Goes on with a trail that broke off: what was kept of it, and a writer whose next fix starts a segment.
   *
   * @throws {TrailInUseError} when it is being written, here or by another tab or process.
   * @throws {InputError} when there is none of that id, or it is finished.
   */
  resume(id: string): Promise<{ readonly writer: TrailWriter; readonly trail: Trail }>;
  /** Newest first. */
  list(): Promise<TrailEntry[]>;
  /** `undefined` when there is none of that id. */
  read(id: string): Promise<Trail | undefined>;
  /** What the app has kept with a trail, in order; none when there is no trail of that id. */
  notes(id: string): Promise<unknown[]>;
  /** @throws {TrailInUseError} or {InputError} as `resume`. */
  rename(id: string, name: string): Promise<void>;
  /** Removing what is not there is no error. @throws {TrailInUseError} while it is being written. */
  remove(id: string): Promise<void>;
  /** Removes everything, what was set aside too: no position remains. */
  erase(): Promise<void>;
  /**
   * Lets go of where the trails are kept, and of those that are being written, which are left unfinished. What is asked
   * of it from then on is rejected with a `ClosedError`. Closing twice is harmless.
   */
  close(): Promise<void>;
}

/** Somebody else is writing the trail: another tab, another process, or another part of this app. */
export class TrailInUseError extends Error {
  override readonly name = 'TrailInUseError';

  readonly id: string;

  constructor(id: string) {
    super(`the trail "${id}" is being written elsewhere; close it there, or begin another`);
    this.id = id;
  }
}
