import { csvFormatRows } from 'd3-dsv';
import type { Trail } from '../../trail/trail.js';
import { FIX_COLUMNS, columnValue, type FixColumn } from '../fix-columns.js';
import type { Output } from '../output.js';
import { timeText } from '../time.js';
import type { TrackContent } from '../track-document.js';
import type { PiecePlace } from '../track-sink.js';
import { TrailsOnlyWriter, textOf } from '../track-writer.js';
import { xmlDecimal } from '../xml.js';

/** Titles with their units, as the reader knows them. */
const TITLES: Readonly<Record<FixColumn, string>> = {
  accuracy: 'accuracy (m)',
  altitude: 'altitude (m)',
  altitudeDatum: 'altitude datum',
  altitudeAccuracy: 'altitude accuracy (m)',
  course: 'course (deg)',
  speed: 'speed (m/s)',
  origin: 'origin',
  marks: 'marks',
};

/** Columns of a file in addition to time, latitude and longitude. */
export interface Columns {
  readonly named: boolean;
  readonly segmented: boolean;
  readonly own: readonly FixColumn[];
  /** Additional data, by key. */
  readonly extras: readonly string[];
}
const ALL: Columns = { named: true, segmented: true, own: FIX_COLUMNS, extras: [] };

/**
 * Writes trails as CSV (RFC 4180) with a header: time in RFC 3339, degrees, SI units, all digits. Names of trails and
 * numbers of segments are columns when there are several; a value that no fix has gets no column. CSV cannot hold lines
 * and waypoints.
 */
export function writeCsv(content: TrackContent): string {
  return textOf((output) => new CsvWriter(output, usedColumns(content.trails ?? [])), content);
}

/** Columns with a value in any fix of the trails. */
export function usedColumns(trails: readonly Trail[]): Columns {
  const left = new Set(FIX_COLUMNS);
  const used = new Set<FixColumn>();
  for (const trail of trails) {
    for (const fix of trail) {
      for (const column of left) {
        if (columnValue(fix, column) === undefined) continue;
        used.add(column);
        left.delete(column);
      }
    }
  }
  return {
    named: trails.length > 1 || trails.some(({ name }) => name !== undefined),
    segmented: trails.some(({ segments }) => segments.length > 1),
    own: FIX_COLUMNS.filter((column) => used.has(column)),
    extras: [...new Set(trails.flatMap((trail) => trail.extraKeys))],
  };
}

/** Writes CSV; with all columns, when the content is not known in advance. */
export class CsvWriter extends TrailsOnlyWriter {
  readonly #output: Output;
  readonly #columns: Columns;
  #begun = false;
  #trails = 0;
  #segment = 1;

  constructor(output: Output, columns: Columns = ALL) {
    super();
    this.#output = output;
    this.#columns = columns;
  }

  trail(piece: Trail, { first, joined }: PiecePlace): void {
    const { named, segmented, own, extras } = this.#columns;
    if (extras.length === 0) for (const key of piece.extraKeys) this.left.add(`column of ${key}`);
    if (first) {
      this.#trails++;
      this.#segment = 1;
    } else if (!joined) this.#segment++;
    const name = piece.name ?? `Trail ${this.#trails}`;
    const rows = piece.segments.flatMap((segment, s) => {
      if (s > 0) this.#segment++;
      const number = String(this.#segment);
      return Array.from(piece.fixesOf(segment), (fix, i) => [
        ...(named ? [name] : []),
        ...(segmented ? [number] : []),
        timeText(fix.time),
        xmlDecimal(fix.lat),
        xmlDecimal(fix.lon),
        ...own.map((column) => {
          const value = columnValue(fix, column);
          return typeof value === 'number' ? xmlDecimal(value) : (value ?? '');
        }),
        ...extras.map((key) => piece.extra(segment.start + i, key) ?? ''),
      ]);
    });
    this.#rows(rows);
  }

  end(): void {
    this.#rows([]);
  }

  #rows(rows: readonly string[][]): void {
    const { named, segmented, own, extras } = this.#columns;
    const header = [
      ...(named ? ['trail'] : []),
      ...(segmented ? ['segment'] : []),
      'time',
      'lat',
      'lon',
      ...own.map((column) => TITLES[column]),
      ...extras,
    ];
    const all = this.#begun ? rows : [header, ...rows];
    this.#begun = true;
    if (all.length > 0) this.#output.write(`${csvFormatRows(all)}\n`.replaceAll(/\r?\n/g, '\r\n'));
  }
}
