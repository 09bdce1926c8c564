import { dsvFormat } from 'd3-dsv';
import { InputError } from '../../check/input-error.js';
import type { RawFix } from '../../fix/fix.js';
import { salvage } from '../../fix/salvage.js';
import { positionProblem } from '../../geodesy/position.js';
import type { LinePoint } from '../../trail/line.js';
import { csvColumns, type CsvColumn, type CsvField } from './csv-columns.js';
import { decimalOf } from '../decimal.js';
import { rawColumns } from '../fix-columns.js';
import { parseTime } from '../time.js';
import { emptyText, gather, type ReadOptions, type TrackDocument } from '../track-document.js';
import { TrailPieces, type ReaderOptions, type TrackReader, type TrackSink } from '../track-sink.js';

/** Smaller numbers in a time column without a unit are seconds: as milliseconds they would be in 1973. */
const SECONDS = 1e11;

/** Maximum characters of a row: a longer one has an unclosed quote. */
const LONGEST_ROW = 1_000_000;

/**
 * Reads CSV with a header: usual names of columns, units in brackets or as their last word, separated by commas,
 * semicolons or tabs. A row that cannot be a fix is left out with a note. Without a time column the points are a line.
 *
 * @throws {InputError} for a header without latitude or longitude, or with an unknown unit.
 */
export function readCsv(text: string, options: ReadOptions = {}): TrackDocument {
  return gather('readCsv', text, options, (sink, source) => new CsvReader(sink, { source }));
}

/**
 * Reads CSV from pieces of text. Rows of several trails may be in any order; with a `pieceSize`, where trails cannot
 * stay open, a trail that continues after another is noted and read as a new one.
 */
export class CsvReader implements TrackReader {
  readonly #sink: TrackSink;
  readonly #source: string | undefined;
  readonly #pieceSize: number;
  /** Text since the last complete row, in pieces: joining them each time would be quadratic. */
  #pending: string[] = [];
  #pendingLength = 0;
  readonly #rows = new RowEnds();
  /** Line of the first pending character. */
  #line = 1;
  #table: Table | undefined;

  constructor(sink: TrackSink, { source, pieceSize = Infinity }: ReaderOptions = {}) {
    this.#sink = sink;
    this.#source = source;
    this.#pieceSize = pieceSize;
  }

  write(text: string): void {
    const end = this.#rows.lastIn(text);
    if (end > 0) {
      this.#take(this.#flush(text.slice(0, end)));
      text = text.slice(end);
    }
    this.#pending.push(text);
    this.#pendingLength += text.length;
    if (this.#pendingLength > LONGEST_ROW)
      throw this.#located(
        new InputError('not-this-format', 'a row has over a million characters; is a quote not closed?', {
          line: this.#line,
        }),
      );
  }

  end(): void {
    this.#take(this.#flush(''));
    if (this.#table === undefined) throw emptyText(this.#source);
    this.#table.end();
  }

  /** The pending text with the last piece. */
  #flush(text: string): string {
    const whole = [...this.#pending, text].join('');
    this.#pending = [];
    this.#pendingLength = 0;
    return whole;
  }

  #take(text: string): void {
    if (text.trim() === '') {
      this.#line += lineEnds([text]);
      return;
    }
    try {
      this.#table ??= new Table(text, this.#sink, this.#pieceSize);
      for (const cells of this.#table.rowsOf(text)) {
        this.#table.take(cells, this.#line);
        this.#line += 1 + lineEnds(cells);
      }
    } catch (error) {
      throw error instanceof InputError ? this.#located(error) : error;
    }
  }

  #located(error: InputError): InputError {
    return this.#source === undefined ? error : error.at({ source: this.#source });
  }
}

/** Format of the rows, when the header is known. */
class Table {
  readonly #divider: string;
  readonly #sink: TrackSink;
  readonly #pieceSize: number;
  #width = 0;
  #columns: ReadonlyMap<CsvField, CsvColumn> | undefined;
  #gatherer: LineRows | TrailRows | undefined;

  /** @param text the start of the file. */
  constructor(text: string, sink: TrackSink, pieceSize: number) {
    this.#divider = dividerOf(text.trimStart());
    this.#sink = sink;
    this.#pieceSize = pieceSize;
  }

  rowsOf(text: string): string[][] {
    // The parser takes a line end at the end of the file for an extra row only when another follows.
    return dsvFormat(this.#divider).parseRows(text);
  }

  take(cells: readonly string[], line: number): void {
    if (cells.every((cell) => cell.trim() === '')) return;
    if (this.#columns === undefined || this.#gatherer === undefined) {
      this.#header(cells, line);
      return;
    }
    const short = cells.length < this.#width ? ` (the row has ${cells.length} of ${this.#width} cells)` : '';
    for (const problem of this.#gatherer.take(new Row(cells, this.#columns, this.#divider !== ','), line))
      this.#sink.note({ line, text: `${problem}${short}; left out` });
  }

  end(): void {
    this.#gatherer?.end();
  }

  #header(cells: readonly string[], line: number): void {
    const { columns, extras, unknown } = csvColumns(cells);
    this.#columns = columns;
    this.#width = cells.length;
    this.#gatherer =
      columns.has('time') || columns.has('date')
        ? new TrailRows(this.#sink, this.#pieceSize, extras)
        : new LineRows(this.#sink);
    if (unknown.length > 0)
      this.#sink.note({ line, text: `columns passed over: ${unknown.join(', ')}`, expected: true });
  }
}

/** A row by the content of its columns. */
class Row {
  readonly #cells: readonly string[];
  readonly #columns: ReadonlyMap<CsvField, CsvColumn>;
  readonly #commas: boolean;

  constructor(cells: readonly string[], columns: ReadonlyMap<CsvField, CsvColumn>, commas: boolean) {
    this.#cells = cells;
    this.#columns = columns;
    this.#commas = commas;
  }

  cell(index: number): string {
    return this.#cells[index] ?? '';
  }

  text(field: CsvField): string {
    const column = this.#columns.get(field);
    return column === undefined ? '' : (this.#cells[column.index]?.trim() ?? '');
  }

  /** In the unit of the library; `undefined` for an empty cell, NaN for text that is not a number. */
  number(field: CsvField): number | undefined {
    const text = this.text(field);
    if (text === '') return undefined;
    const plain = this.#commas ? text.replace(',', '.') : text;
    return decimalOf(plain) * (this.#columns.get(field)?.factor ?? 1);
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

class LineRows {
  readonly #sink: TrackSink;
  readonly #points: LinePoint[] = [];

  constructor(sink: TrackSink) {
    this.#sink = sink;
  }

  /** Takes a point; anything that is left out is noted. */
  take(row: Row): string[] {
    const [lat, lon, altitude] = [row.number('lat'), row.number('lon'), row.number('altitude')];
    const problem = positionProblem(lat, lon);
    if (problem !== undefined) return [problem];
    const high = altitude !== undefined && Number.isFinite(altitude) ? { altitude } : {};
    this.#points.push({ lat: lat as number, lon: lon as number, ...high });
    return [];
  }

  end(): void {
    if (this.#points.length > 0) this.#sink.line({ parts: [this.#points] });
  }
}

class TrailRows {
  readonly #sink: TrackSink;
  readonly #pieceSize: number;
  /** Trails by name: all of them where they stay open, otherwise the open one. */
  readonly #open = new Map<string, { pieces: TrailPieces; segment: string }>();
  readonly #ended = new Set<string>();

  readonly #extras: ReadonlyMap<string, number>;

  constructor(sink: TrackSink, pieceSize: number, extras: ReadonlyMap<string, number>) {
    this.#sink = sink;
    this.#pieceSize = pieceSize;
    this.#extras = extras;
  }

  /** Takes a fix; anything that is left out is noted. */
  take(row: Row, line: number): string[] {
    const raw = rawFix(row);
    const { time } = raw;
    if (Number.isNaN(time)) return ['it has no time'];
    const { fix, problems } = salvage(raw);
    if (fix === undefined) return [...problems];
    const noNumbers = Object.entries(raw).filter(([, value]) => Number.isNaN(value));
    const segment = row.text('segment');
    const open = this.#trail(row.text('trail'), segment, line);
    if (open.segment !== segment) open.pieces.breakSegment();
    open.segment = segment;
    const trail = open.pieces.room();
    trail.append(fix);
    for (const [key, index] of this.#extras) {
      const text = row.cell(index);
      if (text !== '') trail.setExtra(trail.length - 1, key, text);
    }
    return [...noNumbers.map(([name]) => `the ${name} is no number`), ...problems];
  }

  end(): void {
    for (const { pieces } of this.#open.values()) pieces.end();
  }

  #trail(name: string, segment: string, line: number): { pieces: TrailPieces; segment: string } {
    const known = this.#open.get(name);
    if (known !== undefined) return known;
    if (this.#pieceSize !== Infinity) {
      for (const [ended, { pieces }] of this.#open) {
        pieces.end();
        this.#ended.add(ended);
      }
      this.#open.clear();
      if (this.#ended.has(name))
        this.#sink.note({ line, text: `"${name}" goes on after another trail; taken for one of its own` });
    }
    const made = { pieces: new TrailPieces(this.#sink, this.#pieceSize), segment };
    made.pieces.start(name === '' ? {} : { name });
    this.#open.set(name, made);
    return made;
  }
}

function rawFix(row: Row): RawFix {
  return {
    time: row.time(),
    lat: row.number('lat') as number,
    lon: row.number('lon') as number,
    ...rawColumns(
      (column) => row.number(column),
      (column) => row.text(column),
    ),
  };
}

/**
 * Finds the ends of rows: line ends outside of quotes. It continues from piece to piece, so that each character is
 * visited once.
 */
class RowEnds {
  #quoted = false;

  /** End of the last complete row in the next piece of text; 0 when there is none. */
  lastIn(text: string): number {
    if (!this.#quoted && !text.includes('"')) return text.lastIndexOf('\n') + 1; // nearly always, and faster
    let end = 0;
    for (let i = 0; i < text.length; i++) {
      const code = text.charCodeAt(i);
      // A doubled quote, which stands for one, closes and opens again.
      if (code === QUOTE) this.#quoted = !this.#quoted;
      else if (code === LINE_FEED && !this.#quoted) end = i + 1;
    }
    return end;
  }
}

const QUOTE = 34;
const LINE_FEED = 10;

/** The separator: the character that is most frequent in the header. */
function dividerOf(text: string): string {
  const header = text.slice(0, /\r?\n/.exec(text)?.index ?? text.length);
  const count = (divider: string) => header.split(divider).length;
  return [',', ';', '\t'].reduce((best, divider) => (count(divider) > count(best) ? divider : best));
}

function lineEnds(cells: readonly string[]): number {
  return cells.reduce((sum, cell) => sum + cell.split('\n').length - 1, 0);
}
