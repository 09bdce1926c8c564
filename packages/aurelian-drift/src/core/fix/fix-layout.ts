import { fixProblem, fixFrom, type Fix, type RawFix } from './fix.js';

/** A fix as it is kept: its fields by names that stay. */
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

/** The fix of a layout that was checked. */
export function fixOfLayout(value: unknown): Fix {
  return fixFrom(value as RawFix);
}
