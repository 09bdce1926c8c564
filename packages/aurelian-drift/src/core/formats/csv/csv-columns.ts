import { InputError } from '../../check/input-error.js';
import { isExtraKey } from '../../trail/extras.js';
import { closest } from '../../check/suggest.js';

/** Content of a column. */
export type CsvField =
  | 'time'
  | 'date'
  | 'lat'
  | 'lon'
  | 'accuracy'
  | 'altitude'
  | 'altitudeDatum'
  | 'altitudeAccuracy'
  | 'course'
  | 'speed'
  | 'origin'
  | 'marks'
  | 'trail'
  | 'segment';

/** Names of columns, in lower case with single spaces. */
const NAMES: Readonly<Record<CsvField, readonly string[]>> = {
  time: ['time', 'timestamp', 'date time', 'datetime', 'utc', 'when', 'epoch', 'unix time'],
  date: ['date', 'day'],
  lat: ['lat', 'latitude'],
  lon: ['lon', 'longitude', 'lng', 'long'],
  accuracy: ['accuracy', 'horizontal accuracy', 'acc', 'h acc', 'hacc'],
  altitude: ['altitude', 'alt', 'elevation', 'ele', 'height'],
  altitudeDatum: ['altitude datum', 'datum'],
  altitudeAccuracy: ['altitude accuracy', 'vertical accuracy', 'v acc', 'vacc'],
  course: ['course', 'heading', 'bearing', 'direction', 'cog'],
  speed: ['speed', 'velocity', 'sog'],
  origin: ['origin', 'source'],
  marks: ['marks'],
  trail: ['trail', 'track', 'name', 'trail name', 'track name'],
  segment: ['segment', 'seg', 'part'],
};

/** Factors to the units of the library, by kind of quantity. */
const LENGTHS = {
  m: 1,
  metre: 1,
  metres: 1,
  meter: 1,
  meters: 1,
  km: 1000,
  ft: 0.3048,
  feet: 0.3048,
  mi: 1609.344,
};
const SPEEDS = {
  'm/s': 1,
  mps: 1,
  ms: 1,
  'km/h': 1 / 3.6,
  kmh: 1 / 3.6,
  kph: 1 / 3.6,
  mph: 0.44704,
  kn: 1852 / 3600,
  kt: 1852 / 3600,
  knots: 1852 / 3600,
};
const ANGLES = { deg: 1, degrees: 1, '°': 1 };
/** Factors to milliseconds. A time in text form has no unit. */
const TIMES = { ms: 1, s: 1000, utc: 1, z: 1 };
const UNITS: Readonly<Partial<Record<CsvField, Readonly<Record<string, number>>>>> = {
  time: TIMES,
  lat: ANGLES,
  lon: ANGLES,
  course: ANGLES,
  accuracy: LENGTHS,
  altitude: LENGTHS,
  altitudeAccuracy: LENGTHS,
  speed: SPEEDS,
};

/** A column of a file. */
export interface CsvColumn {
  readonly index: number;
  /** Factor to the unit of the library; absent when the header states no unit. */
  readonly factor: number | undefined;
}

/**
 * Columns of a header by their content, with their units: `speed (km/h)`, `altitude [ft]`, `accuracy_m`. A number
 * without a unit is in the unit of the library.
 *
 * @throws {InputError} when latitude or longitude is missing, when two columns have the same content, or for an unknown
 *   unit.
 */
export function csvColumns(header: readonly string[]): {
  readonly columns: ReadonlyMap<CsvField, CsvColumn>;
  /** Columns of additional data, by key. */
  readonly extras: ReadonlyMap<string, number>;
  readonly unknown: readonly string[];
} {
  const columns = new Map<CsvField, CsvColumn>();
  const extras = new Map<string, number>();
  const unknown: string[] = [];
  header.forEach((title, index) => {
    if (isExtraKey(title)) {
      extras.set(title, index);
      return;
    }
    const { name, unit } = nameAndUnit(title);
    const field = fieldOf(name);
    if (field === undefined) {
      if (title.trim() !== '') unknown.push(title.trim());
      return;
    }
    if (columns.has(field))
      throw new InputError(
        'bad-value',
        `two columns hold the ${field}: "${header[columns.get(field)?.index ?? 0] ?? ''}" and "${title}"`,
        { line: 1 },
      );
    columns.set(field, { index, factor: factorOf(field, unit, title) });
  });
  for (const field of ['lat', 'lon'] as const) {
    if (columns.has(field)) continue;
    const near = header
      .map((title) => title.trim())
      .find((title) => closest(title, NAMES[field]) !== undefined);
    const hint =
      near === undefined
        ? `the columns are ${header
            .map((title) => `"${title.trim()}"`)
            .join(', ')
            .slice(0, 200)}`
        : `is it "${near}"?`;
    throw new InputError(
      'nothing-inside',
      `there is no column for the ${field === 'lat' ? 'latitude' : 'longitude'}; ${hint}`,
      { line: 1 },
      `Name it ${NAMES[field].slice(0, 2).join(' or ')}.`,
    );
  }
  return { columns, extras, unknown };
}

/** Maximum length of a title: a longer one is not a known name. */
const LONGEST_TITLE = 100;

function nameAndUnit(title: string): { name: string; unit: string | undefined } {
  if (title.length > LONGEST_TITLE) return { name: '', unit: undefined };
  const bracketed = /^(.*?)\s*[([]\s*([^)\]]+?)\s*[)\]]\s*$/.exec(title);
  const words = (bracketed?.[1] ?? title)
    .replaceAll(/([a-z])([A-Z])/g, '$1 $2')
    .toLowerCase()
    .split(/[\s_.\-:]+/)
    .filter((word) => word !== '');
  if (bracketed !== null) return { name: words.join(' '), unit: bracketed[2]?.toLowerCase() };
  // The unit as the last word, where the other words are a name.
  const last = words.at(-1);
  const rest = words.slice(0, -1).join(' ');
  const field = fieldOf(rest);
  const isUnit = last !== undefined && field !== undefined && Object.hasOwn(UNITS[field] ?? {}, last);
  return isUnit ? { name: rest, unit: last } : { name: words.join(' '), unit: undefined };
}

function fieldOf(name: string): CsvField | undefined {
  return (Object.keys(NAMES) as CsvField[]).find((field) => NAMES[field].includes(name));
}

function factorOf(field: CsvField, unit: string | undefined, title: string): number | undefined {
  if (unit === undefined) return undefined;
  const units = UNITS[field] ?? {};
  if (Object.hasOwn(units, unit)) return units[unit];
  throw new InputError(
    'bad-value',
    `the unit of the column "${title.trim()}" is not known; known: ${Object.keys(units).join(', ') || 'none for it'}`,
    { line: 1 },
  );
}
