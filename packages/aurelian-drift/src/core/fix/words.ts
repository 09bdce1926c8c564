import type { Position } from '../geodesy/position.js';
import { decimalsFor, fixedDecimals } from './decimals.js';

/** How a position is written. */
export interface PositionStyle {
  /** Decimals of the degree, 0 to 9, or `auto` from the accuracy. Default 5. */
  readonly decimals?: number | 'auto';
  /** `sign`: −33.60000. `letters`: 33.60000° W. Default `letters`. */
  readonly hemispheres?: 'sign' | 'letters';
  /** Accuracy in metres, for `auto`. */
  readonly accuracy?: number;
}

/**
 * Text of an absent value: a dash, so that nobody reads a zero. All functions here return it, except `accuracyText`.
 */
export const ABSENT = '–';

/** A number that may be unknown. NaN counts as absent too. */
export type MaybeNumber = number | null | undefined;

function isAbsent(value: MaybeNumber): value is null | undefined {
  return value === undefined || value === null || Number.isNaN(value);
}

/** `44.20000° N, 33.60000° W`, or `44.20000, -33.60000` with signs. Always with dots, in every locale. */
export function positionText(at: Position | undefined, style: PositionStyle = {}): string {
  if (at === undefined) return ABSENT;
  const { decimals = 5, hemispheres = 'letters', accuracy } = style;
  const places = decimals === 'auto' ? decimalsFor(accuracy) : decimals;
  if (hemispheres === 'sign') return `${fixedDecimals(at.lat, places)}, ${fixedDecimals(at.lon, places)}`;
  return `${angleText(at.lat, places, 'N', 'S')}, ${angleText(at.lon, places, 'E', 'W')}`;
}

/** The form for machines and other maps: `lat,lon` with dots and without spaces. */
export function positionPair(at: Position | undefined, decimals = 6): string {
  if (at === undefined) return ABSENT;
  return `${fixedDecimals(at.lat, decimals)},${fixedDecimals(at.lon, decimals)}`;
}

function angleText(degrees: number, decimals: number, positive: string, negative: string): string {
  const text = fixedDecimals(Math.abs(degrees), decimals);
  return `${text}° ${degrees < 0 && Number(text) !== 0 ? negative : positive}`;
}

/** `±7 m`, `±1.5 km`; the empty text when it is absent. */
export function accuracyText(accuracy: MaybeNumber): string {
  if (isAbsent(accuracy)) return '';
  return `±${lengthText(accuracy, 0)}`;
}

/** `640 m`, `1.32 km`, `48 km`: metres below a kilometre, three digits above. */
export function lengthText(metres: MaybeNumber, metreDecimals = 0): string {
  if (isAbsent(metres)) return ABSENT;
  const whole = fixedDecimals(metres, metreDecimals);
  if (Math.abs(Number(whole)) < 1000) return `${whole} m`;
  const km = metres / 1000;
  return `${fixedDecimals(km, Math.abs(km) < 10 ? 2 : Math.abs(km) < 100 ? 1 : 0)} km`;
}

/** `4.9 km/h`; a dash when it is absent. */
export function speedText(metresPerSecond: MaybeNumber): string {
  if (isAbsent(metresPerSecond)) return ABSENT;
  return `${fixedDecimals(metresPerSecond * 3.6, 1)} km/h`;
}

/** `45 s`, `1 min 5 s`, `1 h 4 min`, `3 d 2 h`: the two largest parts, rounded to the second. */
export function durationText(seconds: MaybeNumber): string {
  if (isAbsent(seconds)) return ABSENT;
  const all = Math.round(seconds);
  const parts: readonly [number, string][] = [
    [Math.floor(all / 86_400), 'd'],
    [Math.floor(all / 3600) % 24, 'h'],
    [Math.floor(all / 60) % 60, 'min'],
    [all % 60, 's'],
  ];
  const first = parts.findIndex(([count]) => count > 0);
  if (first < 0) return '0 s';
  return parts
    .slice(first, first + 2)
    .filter(([count]) => count > 0)
    .map(([count, unit]) => `${count} ${unit}`)
    .join(' ');
}

/** Age: `now`, `12 s ago`, `1 min 5 s ago`. A future time gives `now`, because clocks differ a little. */
export function ageText(ageSeconds: MaybeNumber): string {
  if (isAbsent(ageSeconds)) return ABSENT;
  return ageSeconds < 1 ? 'now' : `${durationText(Math.floor(ageSeconds))} ago`;
}

const COMPASS = [
  'N', 'NNE', 'NE', 'ENE', 'E', 'ESE', 'SE', 'SSE', 'S', 'SSW', 'SW', 'WSW', 'W', 'WNW', 'NW', 'NNW',
] as const; // prettier-ignore

/** `236° SW`: whole degrees and the nearest of sixteen compass points. */
export function courseText(course: MaybeNumber): string {
  if (isAbsent(course)) return ABSENT;
  const whole = Math.round(course) % 360;
  return `${whole}° ${compassPoint(course)}`;
}

/** `SW`: nearest of sixteen compass points to a direction of 0 to 360 degrees. */
export function compassPoint(course: number): string {
  return COMPASS[Math.round(course / 22.5) % 16] ?? '';
}
