import type { TrailEntry } from './trail-store.js';

/** The trails that began on one day. */
export interface TrailDay {
  /** The day, ISO 8601, like `2026-05-14`; absent for trails without a fix. */
  readonly day?: string;
  /** In the order of the list that was given. */
  readonly trails: readonly TrailEntry[];
  /** Metres of all. */
  readonly distance: number;
}

/**
 * A list of stored trails by the days on which they began: the latest day first, trails without a fix last.
 *
 * @param timeZone IANA name, like `UTC`. Default: that of the platform.
 * @throws {RangeError} for an unknown time zone.
 */
export function trailsByDay(entries: Iterable<TrailEntry>, timeZone?: string): TrailDay[] {
  // Swedish dates have the format of ISO 8601.
  const dates = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeZone });
  const days = new Map<string, TrailEntry[]>();
  for (const entry of entries) {
    const day = entry.start === undefined ? '' : dates.format(entry.start);
    const trails = days.get(day);
    if (trails === undefined) days.set(day, [entry]);
    else trails.push(entry);
  }
  return [...days]
    .sort(([a], [b]) => (a < b ? 1 : -1))
    .map(([day, trails]) => ({
      ...(day !== '' && { day }),
      trails,
      distance: trails.reduce((sum, { distance }) => sum + distance, 0),
    }));
}
