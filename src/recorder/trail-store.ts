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

/** A trail being written. A call resolves once what it was given is kept. */
export interface TrailWriter {
  readonly id: string;
  append(fixes: readonly Fix[]): Promise<void>;
  breakSegment(): Promise<void>;
  finish(): Promise<void>;
}

/** Where trails are kept. */
export interface TrailStore {
  begin(labels: TrailLabels): Promise<TrailWriter>;
  /** Newest first. */
  list(): Promise<TrailEntry[]>;
  /** `undefined` when there is none of that id. */
  read(id: string): Promise<Trail | undefined>;
  /** Removing what is not there is no error. */
  remove(id: string): Promise<void>;
}

/** The entry of a trail. */
export function trailEntry(id: string, trail: Trail, finished: boolean): TrailEntry {
  const { start, end, distance } = trail.summary();
  return {
    id,
    fixes: trail.length,
    distance,
    finished,
    ...(trail.name !== undefined && { name: trail.name }),
    ...(start !== undefined && { start }),
    ...(end !== undefined && { end }),
  };
}
