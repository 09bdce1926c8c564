import { InputError } from '../check/input-error.js';
import { numberProblem, formatValue } from '../check/number.js';
import { suggestion } from '../check/suggest.js';
import { positionProblem, type Position } from '../geodesy/position.js';

/** Origins of fixes. `unknown` when the platform does not report one; it is never guessed. */
export const ORIGINS = ['unknown', 'satellite', 'network', 'manual', 'simulated', 'replayed'] as const;
/** Where a fix comes from. */
export type Origin = (typeof ORIGINS)[number];

/** Surfaces that an altitude is measured from: the WGS 84 ellipsoid, the mean sea level, or not known. */
export const DATUMS = ['unknown', 'ellipsoid', 'sea'] as const;
/** Surface that an altitude is measured from: the WGS 84 ellipsoid, the mean sea level, or not known. */
export type AltitudeDatum = (typeof DATUMS)[number];

/**
 * Marks on a fix; no others occur.
 *
 * `cached`: older than the request. `coarse`: less accurate than requested. `late`: delivered in a bundle after its
 * time. `duplicate`: same time and place as the fix before. `backwards`: older than the fix before. `outlier`: implies
 * an impossible speed. `planned-gap`: the receiver was off by plan before it, so its delay is not a silence. `stale`:
 * stored by the platform before it was asked for, or dated in the future. `clock-set`: the clock was put forward or
 * back since the fix before, so the time between them is unknown.
 */
export const MARKS = [
  'cached',
  'coarse',
  'late',
  'duplicate',
  'backwards',
  'outlier',
  'planned-gap',
  'stale',
  'clock-set',
] as const;
/** Mark on a fix that needs care: a value in `MARKS`, which explains each. */
export type Mark = (typeof MARKS)[number];

/** One position of the device at one time. Unknown values are absent; no number stands for them. */
export interface Fix extends Position {
  /** Milliseconds since 1970-01-01T00:00:00Z. */
  readonly time: number;
  /** Radius in metres of the circle that holds the true position with 95 % confidence. */
  readonly accuracy?: number;
  /** Metres above `altitudeDatum`. */
  readonly altitude?: number;
  readonly altitudeDatum?: AltitudeDatum;
  /** Metres, 95 % confidence. */
  readonly altitudeAccuracy?: number;
  /** Direction of travel, degrees clockwise from true north, 0…360 (360 excluded). */
  readonly course?: number;
  /** Metres per second over ground. */
  readonly speed?: number;
  readonly origin: Origin;
  readonly marks?: readonly Mark[];
}

/** A fix as it arrives: origin may be absent, and unknown numbers may be null. */
export type RawFix = {
  readonly [Key in keyof Omit<Fix, 'origin' | 'time' | 'lat' | 'lon'>]?: Fix[Key] | null | undefined;
} & Position & { readonly time: number; readonly origin?: Origin | undefined };

const FIELDS = [
  'time',
  'lat',
  'lon',
  'accuracy',
  'altitude',
  'altitudeDatum',
  'altitudeAccuracy',
  'course',
  'speed',
  'origin',
  'marks',
] as const;

/** Times beyond these are in the wrong unit: a time in seconds would be in January 1970. */
const EARLIEST = Date.UTC(1975, 0, 1);
const LATEST = Date.UTC(2200, 0, 1);

/** Problem with data as a fix, in words; `undefined` when there is none. */
export function fixProblem(raw: RawFix): string | undefined {
  if (typeof raw !== 'object' || (raw as unknown) === null)
    return `a fix must be an object, got ${formatValue(raw)}`;
  for (const name of Object.keys(raw)) {
    if (!(FIELDS as readonly string[]).includes(name))
      return `a fix has no "${name}", ${suggestion(name, FIELDS)}`;
  }
  const { time, accuracy, altitude, altitudeAccuracy, course, speed, altitudeDatum, origin, marks } = raw;
  const untimed = numberProblem('time', time);
  if (untimed !== undefined) return untimed;
  if (time < EARLIEST || time > LATEST) {
    const inSeconds = time * 1000 >= EARLIEST && time * 1000 <= LATEST;
    return `time ${time} is not milliseconds since 1970 of these days${inSeconds ? '; was it in seconds?' : ''}`;
  }
  const misplaced = positionProblem(raw.lat, raw.lon);
  if (misplaced !== undefined) return misplaced;
  return (
    rangeProblem('accuracy', accuracy, 0, 1e9) ??
    rangeProblem('altitude', altitude, -1e7, 1e9) ??
    rangeProblem('altitudeAccuracy', altitudeAccuracy, 0, 1e9) ??
    rangeProblem('course', course, 0, 360) ??
    rangeProblem('speed', speed, 0, 1e6) ??
    wordProblem('altitudeDatum', altitudeDatum, DATUMS) ??
    wordProblem('origin', origin, ORIGINS) ??
    marksProblem(marks)
  );
}

/**
 * Makes a checked, frozen `Fix` from the data of a source.
 *
 * Null, undefined and NaN become absent; a course of 360 becomes 0; a course at speed 0, which platforms report as NaN
 * or as an old value, becomes absent.
 *
 * @throws {InputError} of kind `impossible-fix` that names the field, the value and the range.
 */
export function fixFrom(raw: RawFix): Fix {
  const problem = fixProblem(raw);
  if (problem !== undefined) throw new InputError('impossible-fix', problem);
  const { altitude, course, speed } = raw;
  const datum = isKnown(altitude) ? (raw.altitudeDatum ?? 'unknown') : undefined;
  // Adding 0 turns −0 into 0, which every format can hold.
  return Object.freeze({
    time: raw.time + 0,
    lat: raw.lat + 0,
    lon: raw.lon + 0,
    ...(isKnown(raw.accuracy) && { accuracy: raw.accuracy + 0 }),
    ...(isKnown(altitude) && { altitude: altitude + 0 }),
    ...(datum !== undefined && datum !== 'unknown' && { altitudeDatum: datum }),
    ...(isKnown(raw.altitudeAccuracy) && isKnown(altitude) && { altitudeAccuracy: raw.altitudeAccuracy + 0 }),
    ...(isKnown(course) && speed !== 0 && { course: course === 360 ? 0 : course + 0 }),
    ...(isKnown(speed) && { speed: speed + 0 }),
    origin: raw.origin ?? 'unknown',
    ...(raw.marks && raw.marks.length > 0 && { marks: Object.freeze([...raw.marks]) }),
  });
}

/** The same fix with one more mark. */
export function marked(fix: Fix, mark: Mark): Fix {
  if (fix.marks?.includes(mark)) return fix;
  return Object.freeze({ ...fix, marks: Object.freeze([...(fix.marks ?? []), mark]) });
}

function isKnown(value: number | null | undefined): value is number {
  return value !== null && value !== undefined && !Number.isNaN(value);
}

function rangeProblem(
  name: string,
  value: number | null | undefined,
  min: number,
  max: number,
): string | undefined {
  if (value === null || value === undefined || Number.isNaN(value)) return undefined;
  return (
    numberProblem(name, value) ??
    (value >= min && value <= max ? undefined : `${name} must be ${min}…${max}, got ${value}`)
  );
}

function wordProblem(name: string, value: unknown, words: readonly string[]): string | undefined {
  if (value === null || value === undefined || words.some((word) => word === value)) return undefined;
  return `${name} ${formatValue(value)} is not known, ${suggestion(value, words)}`;
}

function marksProblem(marks: unknown): string | undefined {
  if (marks === undefined || marks === null) return undefined;
  if (!Array.isArray(marks)) return `marks must be a list, got ${formatValue(marks)}`;
  return marks
    .map((mark) => wordProblem('mark', mark ?? 'null', MARKS))
    .find((problem) => problem !== undefined);
}
