import { csvFormatRows, dsvFormat } from 'd3-dsv';
import { InputError } from '../check/input-error.js';
import { DATUMS, MARKS, ORIGINS, fixFault, fixOf, type Fix, type Mark, type RawFix } from '../fix/fix.js';
import { positionFault } from '../geodesy/position.js';
import type { Line, LinePoint } from '../trail/line.js';
import { Trail } from '../trail/trail.js';
import { csvColumns, type CsvColumn, type CsvField } from './csv-columns.js';
import type { Note } from './gpx.js';
import { parseTime, timeText } from './time.js';
import { xmlDecimal } from './xml.js';

/** What a CSV file held. */
export interface CsvDocument {
  readonly trails: readonly Trail[];
  /** Its points, when they have no times. */
  readonly lines: readonly Line[];
  /** Titles of columns that it does not know. */
  readonly unknown: readonly string[];
  readonly notes: readonly Note[];
}

/** The columns that are written, each only when some fix has it, with their units. */
const WRITTEN: readonly (readonly [title: string, valueOf: (fix: Fix) => number | string | undefined])[] = [
  ['accuracy (m)', (fix) => fix.accuracy],
  ['altitude (m)', (fix) => fix.altitude],
  ['altitude datum', (fix) => fix.altitudeDatum],
  ['altitude accuracy (m)', (fix) => fix.altitudeAccuracy],
  ['course (deg)', (fix) => fix.course],
  ['speed (m/s)', (fix) => fix.speed],
  ['origin', (fix) => (fix.origin === 'unknown' ? undefined : fix.origin)],
  ['marks', (fix) => fix.marks?.join(' ')],
];
/** Numbers below this, taken for times without a unit, are seconds: as milliseconds they would be in 1973. */
const SECONDS = 1e11;

/**
 * Trails as CSV (RFC 4180) with a header: time in RFC 3339, degrees, SI units, every digit. The name of a trail and the
 * number of a segment are columns when there are several.
 */
export function writeCsv(trails: readonly Trail[]): string {
  const fixes = trails.flatMap((trail, t) =>
    trail.segments.flatMap((segment, s) =>
      Array.from(trail.fixesOf(segment), (fix) => ({ fix, trail, t, s })),
    ),
  );
  const own = WRITTEN.filter(([, valueOf]) => fixes.some(({ fix }) => valueOf(fix) !== undefined));
  const named = trails.length > 1 || trails.some(({ name }) => name !== undefined);
  const segmented = trails.some(({ segments }) => segments.length > 1);
  const rows = fixes.map(({ fix, trail, t, s }) => [
    ...(named ? [trail.name ?? `Trail ${t + 1}`] : []),
    ...(segmented ? [String(s + 1)] : []),
    timeText(fix.time),
    xmlDecimal(fix.lat),
    xmlDecimal(fix.lon),
    ...own.map(([, valueOf]) => {
      const value = valueOf(fix);
      return typeof value === 'number' ? xmlDecimal(value) : (value ?? '');
    }),
  ]);
  const header = [
    ...(named ? ['trail'] : []),
    ...(segmented ? ['segment'] : []),
    'time',
    'lat',
    'lon',
    ...own.map(([title]) => title),
  ];
  return `${csvFormatRows([header, ...rows])}\n`.replaceAll(/\r?\n/g, '\r\n');
}

/**
 * Reads CSV with a header: any sensible names of columns, units in brackets or as their last word, divided by commas,
 * semicolons or tabs. A row that cannot be a fix is left out and noted. Without a column of times its points are a line.
 *
 * @throws {InputError} for a header without latitude or longitude, or with an unknown unit.
 */
export function readCsv(text: string): CsvDocument {
  const divider = dividerOf(text);
  const [header, ...rows] = dsvFormat(divider).parseRows(text) as [string[] | undefined, ...string[][]];
  if (header === undefined) throw new InputError('cut-short', 'the file is empty', { line: 1 });
  const { columns, unknown } = csvColumns(header);
  const notes: Note[] = [];
  const gatherer = columns.has('time') || columns.has('date') ? new TrailGatherer() : new LineGatherer();
  let line = 1 + lineEnds(header);
  for (const row of rows) {
    line++;
    const at = line;
    line += lineEnds(row);
    if (row.every((cell) => cell.trim() === '')) continue;
    const short = row.length < header.length ? ` (the row has ${row.length} of ${header.length} cells)` : '';
    for (const fault of gatherer.add(new Row(row, columns, divider !== ',')))
      notes.push({ line: at, text: `${fault}${short}; left out` });
  }
  return { ...gatherer.result, unknown, notes };
}

/** A row, by what its columns hold. */
class Row {
  readonly #cells: readonly string[];
  readonly #columns: ReadonlyMap<CsvField, CsvColumn>;
  readonly #commas: boolean;

  constructor(cells: readonly string[], columns: ReadonlyMap<CsvField, CsvColumn>, commas: boolean) {
    this.#cells = cells;
    this.#columns = columns;
    this.#commas = commas;
  }

  text(field: CsvField): string {
    const column = this.#columns.get(field);
    return column === undefined ? '' : (this.#cells[column.index]?.trim() ?? '');
  }

  /** In the library's own unit; `undefined` for an empty cell, NaN for one that is no number. */
  number(field: CsvField): number | undefined {
    const text = this.text(field);
    if (text === '') return undefined;
    const plain = this.#commas ? text.replace(',', '.') : text;
    const value = /^[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?$/i.test(plain) ? Number(plain) : NaN;
    return value * (this.#columns.get(field)?.factor ?? 1);
  }

  /** Milliseconds since 1970 UTC; NaN when there is none. */
  time(): number {
    const [date, time] = [this.text('date'), this.text('time')];
    const joined = date !== '' && time !== '' ? `${date}T${time}` : date + time;
    if (/^\d+(?:\.\d+)?$/.test(joined)) {
      const value = Number(joined);
      return value * (this.#columns.get('time')?.factor ?? (value < SECONDS ? 1000 : 1));
    }
    return parseTime(joined.replace(/^(\d{4}-\d\d-\d\d) +/, '$1T').replaceAll('/', '-'));
  }
}

class LineGatherer {
  readonly #points: LinePoint[] = [];

  /** Takes a point; what is left out of it, or all of it, is told. */
  add(row: Row): string[] {
    const [lat, lon, altitude] = [row.number('lat'), row.number('lon'), row.number('altitude')];
    const fault = positionFault(lat, lon);
    if (fault !== undefined) return [fault];
    const high = altitude !== undefined && Number.isFinite(altitude) ? { altitude } : {};
    this.#points.push({ lat: lat as number, lon: lon as number, ...high });
    return [];
  }

  get result() {
    return { trails: [], lines: this.#points.length === 0 ? [] : [{ parts: [this.#points] }] };
  }
}

class TrailGatherer {
  readonly #trails = new Map<string, { trail: Trail; segment: string }>();

  /** Takes a fix; what is left out of it, or all of it, is told. */
  add(row: Row): string[] {
    const raw = rawFix(row);
    const { time, lat, lon } = raw;
    const bare = { time, lat, lon };
    const fault = Number.isNaN(time) ? 'it has no time' : fixFault(bare);
    if (fault !== undefined) return [fault];
    const faults: string[] = [];
    const kept = Object.entries(raw).filter(([name, value]) => {
      const wrong = Number.isNaN(value)
        ? `the ${name} is no number`
        : fixFault({ ...bare, [name]: value as unknown });
      if (wrong !== undefined) faults.push(wrong);
      return wrong === undefined;
    });
    const [name, segment] = [row.text('trail'), row.text('segment')];
    const known = this.#trails.get(name) ?? { trail: new Trail(name === '' ? {} : { name }), segment };
    this.#trails.set(name, known);
    if (known.segment !== segment) known.trail.breakSegment();
    known.segment = segment;
    known.trail.append(fixOf({ ...bare, ...Object.fromEntries(kept) }));
    return faults;
  }

  get result() {
    return { trails: [...this.#trails.values()].map(({ trail }) => trail), lines: [] };
  }
}

function rawFix(row: Row): RawFix {
  const marks = row.text('marks').split(' ');
  return {
    time: row.time(),
    lat: row.number('lat') as number,
    lon: row.number('lon') as number,
    accuracy: row.number('accuracy'),
    altitude: row.number('altitude'),
    altitudeAccuracy: row.number('altitudeAccuracy'),
    altitudeDatum: DATUMS.find((datum) => datum === row.text('altitudeDatum')),
    course: row.number('course'),
    speed: row.number('speed'),
    origin: ORIGINS.find((origin) => origin === row.text('origin')),
    marks: marks.filter((mark): mark is Mark => (MARKS as readonly string[]).includes(mark)),
  };
}

/** What divides the cells: what the header has most of. */
function dividerOf(text: string): string {
  const header = text.slice(0, /\r?\n/.exec(text)?.index ?? text.length);
  const count = (divider: string) => header.split(divider).length;
  return [',', ';', '\t'].reduce((best, divider) => (count(divider) > count(best) ? divider : best));
}

function lineEnds(cells: readonly string[]): number {
  return cells.reduce((sum, cell) => sum + cell.split('\n').length - 1, 0);
}
