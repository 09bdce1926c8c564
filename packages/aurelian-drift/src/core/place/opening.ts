import { InputError } from '../check/input-error.js';
import { timetable, type Timetable } from '../fence/timetable.js';

/** Whether a place is open, and until when. */
export interface Opening {
  readonly open: boolean;
  /** Time of the next change, milliseconds since 1970 UTC; absent when it is more than a week away. */
  readonly until?: number;
}

const DAY = 86_400_000;
/** Milliseconds ahead within which the next change is looked for. */
const AHEAD = 7 * DAY;

/**
 * Whether a place is open at a time, from the hours in its details: `opening`, one set of conditions of `timetable` or
 * a list of them, of which one must hold: `{ hours: '09:00/17:00', weekdays: [1, 2, 3, 4, 5] }`. `undefined` for a place
 * without hours.
 *
 * @param time milliseconds since 1970 UTC.
 * @throws {InputError} for a misspelt or impossible condition.
 */
export function openingOf(
  place: { readonly details?: Readonly<Record<string, unknown>> },
  time: number,
): Opening | undefined {
  const given = place.details?.['opening'];
  if (given === undefined || given === null) return undefined;
  const tables = (Array.isArray(given) ? (given as unknown[]) : [given]).map(tableOf);
  const open = tables.some((table) => table.isOn(time));
  const until = nextChange(tables, open, time);
  return { open, ...(until !== undefined && { until }) };
}

function tableOf(given: unknown): Timetable {
  if (typeof given === 'object' && given !== null) return timetable(given);
  throw new InputError(
    'bad-value',
    'opening must be conditions of a timetable, like { hours: "09:00/17:00" }',
  );
}

/** Minute by minute where it may be near, from quarter to quarter of an hour before that. */
function nextChange(tables: readonly Timetable[], open: boolean, time: number): number | undefined {
  const isOpen = (at: number) => tables.some((table) => table.isOn(at));
  const quarter = 15 * 60_000;
  for (let from = time; from < time + AHEAD; from += quarter) {
    if (isOpen(from + quarter) === open) continue;
    let minute = Math.floor(from / 60_000) * 60_000;
    while (isOpen(minute) === open) minute += 60_000;
    return minute;
  }
  return undefined;
}
