import type { Fix } from '../core/fix/fix.js';
import type { Trail, TrailLabels } from '../core/trail/trail.js';

/** Entry of a trail in the list of a store. */
export interface TrailEntry {
  readonly id: string;
  readonly name?: string;
  readonly fixes: number;
  /** Times of the first and last fix, milliseconds since 1970 UTC; absent for an empty trail. */
  readonly start?: number;
  readonly end?: number;
  /** Distance in metres, as in the summary of the trail. */
  readonly distance: number;
  /** Whether the recording was finished; otherwise it is in progress or was interrupted. */
  readonly finished: boolean;
}

/** Writer of a trail. A call resolves when its data is stored: it survives the end of the process. */
export interface TrailWriter {
  readonly id: string;
  /** After a failure the same list may be given again. */
  append(fixes: readonly Fix[]): Promise<void>;
  breakSegment(): Promise<void>;
  /** Stores data of the app at this point of the trail: anything that JSON can hold. */
  note(note: unknown): Promise<void>;
  finish(): Promise<void>;
  /** Releases the trail for other writers, without finishing it. */
  release(): void;
}

/** Store of trails. */
export interface TrailStore {
  begin(labels: TrailLabels): Promise<TrailWriter>;
  /**
   * Opens an interrupted trail: its stored part, and a writer whose next fix starts a segment.
   *
   * @throws {TrailInUseError} when it is being written, here or by another tab or process.
   * @throws {InputError} when there is no trail with this id, or it is finished.
   */
  resume(id: string): Promise<{ readonly writer: TrailWriter; readonly trail: Trail }>;
  /** Newest first. */
  list(): Promise<TrailEntry[]>;
  /** `undefined` when there is no trail with this id. */
  read(id: string): Promise<Trail | undefined>;
  /** Stored data of the app with a trail, in order; empty when there is no trail with this id. */
  notes(id: string): Promise<unknown[]>;
  /** @throws {TrailInUseError} or {InputError} as `resume`. */
  rename(id: string, name: string): Promise<void>;
  /** Removes a trail; an unknown id is harmless. @throws {TrailInUseError} while it is being written. */
  remove(id: string): Promise<void>;
  /** Removes everything, including data that was set aside: no position remains. */
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
