import { formatValue } from '../check/number.js';
import { checkOptions, type Rule } from '../check/options.js';

/** Times at which a fence is watched. An absent condition is no restriction. */
export interface TimetableOptions {
  /**
   * Times of day, ISO 8601: `'08:00/18:00'`, the second excluded; `'22:00/06:00'` belongs to the day on which it
   * begins.
   */
  readonly hours?: string;
  /** Days of the week, ISO 8601: 1 Monday … 7 Sunday. */
  readonly weekdays?: readonly number[];
  /** First and last day, ISO 8601: `'2026-05-01/2026-09-30'`. */
  readonly dates?: string;
  /** IANA time zone, such as `'UTC'`. Default: that of the device. */
  readonly timeZone?: string;
}

/** Times at which a fence is watched. */
export interface Timetable extends TimetableOptions {
  /** Whether the fence is watched in the minute of a time, in milliseconds since 1970 UTC. */
  isOn(time: number): boolean;
  /** First minute after a time in which the fence is not watched, within a day and not later than `by`. */
  offAfter(time: number, by: number): number;
}

const CLOCK = /^(([01]\d|2[0-3]):[0-5]\d)\/(([01]\d|2[0-3]):[0-5]\d|24:00)$/;
const DATES = /^\d{4}-\d{2}-\d{2}\/\d{4}-\d{2}-\d{2}$/;
const MINUTE = 60_000;
const DAY = 1440 * MINUTE;

const RULES: Readonly<Record<keyof TimetableOptions, Rule>> = {
  hours: (value) =>
    typeof value === 'string' && CLOCK.test(value)
      ? undefined
      : `must be two times of day, "08:00/18:00", got ${formatValue(value)}`,
  weekdays: (value) =>
    Array.isArray(value) &&
    value.length > 0 &&
    value.every((day) => Number.isInteger(day) && day >= 1 && day <= 7)
      ? undefined
      : `must be days of the week, [1, 2] for Monday and Tuesday, got ${formatValue(value)}`,
  dates: datesProblem,
  timeZone: zoneProblem,
};

/**
 * Switches a fence on by time of day, day of the week, or date, in local time: `when: timetable({ hours: '08:00/18:00'
 * })`. While it is off, nothing is reported; a user who is inside when it is switched off gets `closed`.
 *
 * @throws {InputError} for a misspelt or impossible condition.
 */
export function timetable(options: TimetableOptions): Timetable {
  checkOptions('timetable', options, RULES);
  const { hours = '00:00/24:00', weekdays, dates = '0000-01-01/9999-12-31', timeZone } = options;
  const [from, until] = hours.split('/') as [string, string];
  const [first, last] = dates.split('/') as [string, string];
  // Swedish dates and times have the format of ISO 8601.
  const local = new Intl.DateTimeFormat('sv-SE', { dateStyle: 'short', timeStyle: 'short', timeZone });
  let minute = NaN;
  let on = false;
  const isOnNow = (time: number): boolean => {
    const [today = '', clock = ''] = local.format(time).split(' ');
    const overnight = from >= until;
    if (!(overnight ? clock >= from || clock < until : clock >= from && clock < until)) return false;
    const noon = Date.parse(`${today}T12:00Z`) - (overnight && clock < until ? DAY : 0);
    const day = new Date(noon).toISOString().slice(0, 10);
    if (day < first || day > last) return false;
    return weekdays?.includes(new Date(noon).getUTCDay() || 7) !== false;
  };
  const isOn = (time: number): boolean => {
    const now = Math.floor(time / MINUTE);
    if (now !== minute) on = isOnNow(time);
    minute = now;
    return on;
  };
  return {
    ...options,
    isOn,
    offAfter(after, by) {
      const first = (Math.floor(after / MINUTE) + 1) * MINUTE;
      for (let time = first; time < Math.min(by, first + DAY); time += MINUTE) if (!isOn(time)) return time;
      return by;
    },
  };
}

function datesProblem(value: unknown): string | undefined {
  const text = typeof value === 'string' ? value : '';
  const [first = '', last = ''] = text.split('/');
  const isDay = (day: string) =>
    !Number.isNaN(Date.parse(day)) && new Date(day).toISOString().startsWith(day);
  return DATES.test(text) && isDay(first) && isDay(last) && first <= last
    ? undefined
    : `must be two days, "2026-05-01/2026-09-30", the first not after the second, got ${formatValue(value)}`;
}

function zoneProblem(value: unknown): string | undefined {
  try {
    if (typeof value !== 'string') throw new TypeError('not a text');
    new Intl.DateTimeFormat('en', { timeZone: value });
    return undefined;
  } catch {
    return `must be an IANA time zone, "UTC" for example, got ${formatValue(value)}`;
  }
}
