/** Milliseconds since 1970 UTC as RFC 3339 in UTC, with milliseconds only when there are some. */
export function timeText(time: number): string {
  const text = new Date(Math.round(time)).toISOString();
  return text.endsWith('.000Z') ? `${text.slice(0, 19)}Z` : text;
}

/**
 * Milliseconds since 1970 UTC of an RFC 3339 or ISO 8601 date and time; NaN for another text. A time without a zone is
 * UTC, as GPX 1.1 requires.
 */
export function parseTime(text: string): number {
  // The usual form, 2026-05-14T09:00:00Z, by its digits: ten times as fast as the general parser.
  if (text.length === 20 && text.charCodeAt(19) === 90 && text.charCodeAt(10) === 84) {
    const day = dayNumber(digits(text, 0, 4), digits(text, 5, 7), digits(text, 8, 10));
    const time = digits(text, 11, 13) * 3600 + digits(text, 14, 16) * 60 + digits(text, 17, 19);
    const whole = (day * 86_400 + time) * 1000;
    if (!Number.isNaN(whole) && text.charCodeAt(13) === 58 && text.charCodeAt(4) === 45) return whole;
  }
  const match = /^\d{4}-\d\d-\d\dT\d\d:\d\d(:\d\d(\.\d+)?)?(Z|[+-]\d\d:?\d\d)?$/.exec(text);
  if (match === null) return NaN;
  // The general parser takes the 30th of February for the 2nd of March.
  if (Number.isNaN(dayNumber(digits(text, 0, 4), digits(text, 5, 7), digits(text, 8, 10)))) return NaN;
  return Date.parse(match[3] === undefined ? `${text}Z` : text);
}

function digits(text: string, from: number, to: number): number {
  let value = 0;
  for (let i = from; i < to; i++) {
    const digit = text.charCodeAt(i) - 48;
    if (digit < 0 || digit > 9) return NaN;
    value = value * 10 + digit;
  }
  return value;
}

/** Days since 1970-01-01 in the Gregorian calendar; NaN for an impossible date. */
export function dayNumber(year: number, month: number, day: number): number {
  if (!(month >= 1 && month <= 12 && day >= 1 && day <= 28)) {
    // Only here can the date be impossible; the platform knows the lengths of months.
    const midnight = new Date(Date.UTC(year, month - 1, day));
    if (midnight.getUTCMonth() !== month - 1 || midnight.getUTCDate() !== day) return NaN;
  }
  // Years counted from March, so that the leap day comes last (E. G. Richards, Mapping Time, 1998, chapter 25).
  const y = month > 2 ? year : year - 1;
  const m = month > 2 ? month - 3 : month + 9;
  const days = 365 * y + Math.floor(y / 4) - Math.floor(y / 100) + Math.floor(y / 400);
  return days + Math.floor((153 * m + 2) / 5) + day - 1 - 719_468;
}
