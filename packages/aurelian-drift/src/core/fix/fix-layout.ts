import { fixProblem, fixFrom, type Fix, type RawFix } from './fix.js';

/** A fix in its stored layout, with field names that do not change. */
export function fixLayout(fix: Fix): object {
  const {
    time,
    lat,
    lon,
    accuracy,
    altitude,
    altitudeAccuracy,
    altitudeDatum,
    course,
    speed,
    origin,
    marks,
  } = fix;
  return {
    time,
    lat,
    lon,
    accuracy,
    altitude,
    altitudeAccuracy,
    altitudeDatum,
    course,
    speed,
    origin,
    marks,
  };
}

export function isFixLayout(value: unknown): boolean {
  return fixProblem(value as RawFix) === undefined;
}

/** The fix of a checked layout. */
export function fixOfLayout(value: unknown): Fix {
  return fixFrom(value as RawFix);
}
