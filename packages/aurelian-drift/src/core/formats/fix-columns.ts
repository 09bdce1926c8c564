import { DATUMS, MARKS, ORIGINS, type Fix, type Mark, type RawFix } from '../fix/fix.js';

/** Fields of a fix with a column of their own beside time and coordinates, in formats that hold a trail by columns. */
export const FIX_COLUMNS = [
  'accuracy',
  'altitude',
  'altitudeDatum',
  'altitudeAccuracy',
  'course',
  'speed',
  'origin',
  'marks',
] as const;
export type FixColumn = (typeof FIX_COLUMNS)[number];
export const WORD_COLUMNS: ReadonlySet<FixColumn> = new Set(['altitudeDatum', 'origin', 'marks']);

/** Value of a fix for a column; `undefined` where it has none, such as an unknown origin. */
export function columnValue(fix: Fix, column: FixColumn): number | string | undefined {
  if (column === 'origin') return fix.origin === 'unknown' ? undefined : fix.origin;
  if (column === 'marks') return fix.marks?.join(' ');
  return fix[column];
}

/** Converts columns of any format to the numbers and words of a fix. NaN and `undefined` are absent numbers. */
export function rawColumns(
  numberOf: (column: NumberColumn) => number | undefined,
  wordOf: (column: WordColumn) => unknown,
): Omit<RawFix, 'time' | 'lat' | 'lon'> {
  return {
    ...knownWords({
      altitudeDatum: wordOf('altitudeDatum'),
      origin: wordOf('origin'),
      marks: wordOf('marks'),
    }),
    accuracy: numberOf('accuracy'),
    altitude: numberOf('altitude'),
    altitudeAccuracy: numberOf('altitudeAccuracy'),
    course: numberOf('course'),
    speed: numberOf('speed'),
  };
}
type WordColumn = 'altitudeDatum' | 'origin' | 'marks';
type NumberColumn = Exclude<FixColumn, WordColumn>;

/** The words of a fix, where they are known. */
export function knownWords(words: {
  readonly altitudeDatum?: unknown;
  readonly origin?: unknown;
  readonly marks?: unknown;
}): Pick<RawFix, 'altitudeDatum' | 'origin' | 'marks'> {
  const { altitudeDatum, origin, marks } = words;
  return {
    altitudeDatum: DATUMS.find((datum) => datum === altitudeDatum),
    origin: ORIGINS.find((known) => known === origin),
    marks:
      typeof marks === 'string' && marks !== ''
        ? marks.split(' ').filter((mark): mark is Mark => (MARKS as readonly string[]).includes(mark))
        : undefined,
  };
}
