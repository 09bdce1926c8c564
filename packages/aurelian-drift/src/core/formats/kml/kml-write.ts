import type { Fix } from '../../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../../trail/line.js';
import type { Segment, Trail } from '../../trail/trail.js';
import { FIX_COLUMNS, WORD_COLUMNS, columnValue, type FixColumn } from '../fix-columns.js';
import { KIND, KML_NAMESPACE, POINTS, SCHEMA_ID, VEILED } from './kml-words.js';
import type { Output } from '../output.js';
import { asLineString, pointExtrasOf } from '../point-extras.js';
import { timeText } from '../time.js';
import type { TrackContent } from '../track-document.js';
import type { PiecePlace } from '../track-sink.js';
import { textOf, type TrackWriter } from '../track-writer.js';
import { xmlDecimal, xmlText } from '../xml.js';

/** Writes a KML 2.3 document (OGC 12-007r2). Every number has all its digits. */
export function writeKml(content: TrackContent): string {
  return textOf((output) => new KmlWriter(output), content);
}

/**
 * Writes KML: a trail is a MultiTrack, one Track per segment, with the times of the standard; other values are in the
 * arrays of its ExtendedData. An altitude above the sea is a coordinate; when one of a segment is above another
 * surface, the altitudes of all are in an array, with their datums, because KML knows the sea only.
 */
export class KmlWriter implements TrackWriter {
  readonly leftOut: readonly string[] = [];
  readonly #output: Output;
  #name: string | undefined;
  /** Columns of the whole document, for its schema, which stands before its use. */
  readonly #schema = new Set<string>();
  /**
   * The open segment: its columns with values, its keys of additional data, its fixes, and whether all its altitudes
   * are above the sea.
   */
  readonly #used = new Set<FixColumn>();
  readonly #keys: string[] = [];
  #fixes = 0;
  #sea = true;
  #high = false;

  constructor(output: Output) {
    this.#output = output;
  }

  title(name: string): void {
    this.#name ??= name;
  }

  waypoint({ name, description, time, extras, ...point }: Waypoint): void {
    const when = time === undefined ? '' : `<TimeStamp><when>${timeText(time)}</when></TimeStamp>`;
    const mode = point.altitude === undefined ? '' : ABSOLUTE;
    this.#placemark(
      { name, description },
      `${when}${data(extras ?? {})}<Point>${mode}<coordinates>${coordinatesText(point)}</coordinates></Point>`,
    );
  }

  line(line: Line): void {
    this.#line(line, {});
  }

  route(route: Line): void {
    this.#line(route, { [KIND]: 'route' });
  }

  trail(piece: Trail, { first, last, joined }: PiecePlace): void {
    if (first) {
      const { veiled, extras } = piece;
      const words = data({ ...(veiled !== undefined && { [VEILED]: String(veiled) }), ...extras });
      this.#body(`<Placemark>${labels(piece)}${words}<MultiTrack><interpolate>0</interpolate>\n`);
    } else if (!joined) this.#endSegment();
    piece.segments.forEach((segment, s) => {
      if (s > 0) this.#endSegment();
      this.#addTo(piece, segment);
    });
    if (!last) return;
    this.#endSegment();
    this.#body('</MultiTrack></Placemark>\n');
  }

  note(): void {
    // What was passed over is told to the user, not written.
  }

  end(): void {
    const known: readonly string[] = FIX_COLUMNS;
    const order = [...known, ...[...this.#schema].filter((column) => !known.includes(column)).toSorted()];
    const fields = order
      .filter((column) => this.#schema.has(column))
      .map((column) => {
        const type = column.startsWith('{') || WORD_COLUMNS.has(column as FixColumn) ? 'string' : 'double';
        return `<SimpleArrayField name="${xmlText(column)}" type="${type}"/>`;
      });
    this.#output.write(
      '<?xml version="1.0" encoding="UTF-8"?>\n' +
        `<kml xmlns="${KML_NAMESPACE}" version="2.3">\n<Document>${labels({ name: this.#name })}\n` +
        (fields.length === 0 ? '' : `<Schema id="${SCHEMA_ID}">${fields.join('')}</Schema>\n`),
    );
    this.#output.recall(BODY);
    this.#output.write('</Document>\n</kml>\n');
  }

  #addTo(piece: Trail, segment: Segment): void {
    const output = this.#output;
    const fixes = [...piece.fixesOf(segment)];
    const add = (part: string, textOfFix: (fix: Fix, i: number) => string) =>
      output.aside(part, fixes.map(textOfFix).join(''));
    add('when', ({ time }) => `<when>${timeText(time)}</when>\n`);
    add('coord', (fix) => `<coord>${coordText(fix)}</coord>\n`);
    for (const column of FIX_COLUMNS) {
      if (fixes.some((fix) => columnValue(fix, column) !== undefined)) this.#used.add(column);
      add(column, (fix) => valueText(columnValue(fix, column)));
    }
    for (const key of piece.extraKeys) {
      const used = fixes.some((_, i) => piece.extra(segment.start + i, key) !== undefined);
      if (!used || this.#keys.includes(key)) continue;
      // It appears only now, and has no values in earlier pieces of this segment.
      output.aside(`extra ${this.#keys.length}`, valueText(undefined).repeat(this.#fixes));
      this.#keys.push(key);
    }
    this.#keys.forEach((key, k) => {
      add(`extra ${k}`, (_, i) => valueText(piece.extra(segment.start + i, key)));
    });
    this.#fixes += fixes.length;
    this.#high ||= fixes.some(({ altitude }) => altitude !== undefined);
    this.#sea &&= fixes.every(({ altitudeDatum }) => altitudeDatum === 'sea');
  }

  #endSegment(): void {
    const output = this.#output;
    const inCoordinates = this.#high && this.#sea;
    this.#body(`<Track>${inCoordinates ? ABSOLUTE : ''}\n`);
    output.recall('when', BODY);
    output.recall('coord', BODY);
    const written = FIX_COLUMNS.filter((column) => {
      const beside = !(inCoordinates && (column === 'altitude' || column === 'altitudeDatum'));
      return beside && this.#used.has(column);
    });
    for (const column of FIX_COLUMNS) if (!written.includes(column)) output.drop(column);
    const parts = [
      ...written.map((column) => [column, column]),
      ...this.#keys.map((key, k) => [key, `extra ${k}`]).toSorted(),
    ] as [string, string][];
    if (parts.length > 0) this.#body(`<ExtendedData><SchemaData schemaUrl="#${SCHEMA_ID}">\n`);
    for (const [name, part] of parts) {
      this.#schema.add(name);
      this.#body(`<SimpleArrayData name="${xmlText(name)}">`);
      output.recall(part, BODY);
      this.#body('</SimpleArrayData>\n');
    }
    if (parts.length > 0) this.#body('</SchemaData></ExtendedData>\n');
    this.#body('</Track>\n');
    this.#used.clear();
    this.#keys.length = 0;
    this.#fixes = 0;
    this.#sea = true;
    this.#high = false;
  }

  #line(line: Line, kind: Record<string, string>): void {
    const { parts, extras } = line;
    const strings = parts.map((part) => {
      const run = asLineString(part);
      const mode = run.some(({ altitude }) => altitude !== undefined) ? ABSOLUTE : '';
      return `<LineString>${mode}<coordinates>${run.map(coordinatesText).join(' ')}</coordinates></LineString>`;
    });
    const geometry =
      strings.length === 1 ? (strings[0] as string) : `<MultiGeometry>${strings.join('')}</MultiGeometry>`;
    const beside = pointExtrasOf(parts);
    const points = beside === undefined ? {} : { [POINTS]: JSON.stringify(beside) };
    // Order of the standard: ExtendedData before the geometry.
    this.#placemark(line, data({ ...kind, ...extras, ...points }) + geometry);
  }

  #placemark(words: Words, rest: string): void {
    this.#body(`<Placemark>${labels(words)}${rest}</Placemark>\n`);
  }

  #body(text: string): void {
    this.#output.aside(BODY, text);
  }
}

const BODY = 'body';
const ABSOLUTE = '<altitudeMode>absolute</altitudeMode>';

interface Words {
  readonly name?: string | undefined;
  readonly description?: string | undefined;
}

function labels({ name, description }: Words): string {
  return (
    (name === undefined ? '' : `<name>${xmlText(name)}</name>`) +
    (description === undefined ? '' : `<description>${xmlText(description)}</description>`)
  );
}

function data(values: Readonly<Record<string, string>>): string {
  const all = Object.entries(values).map(
    ([name, value]) => `<Data name="${xmlText(name)}"><value>${xmlText(value)}</value></Data>`,
  );
  return all.length === 0 ? '' : `<ExtendedData>${all.join('')}</ExtendedData>`;
}

function coordinatesText({ lat, lon, altitude }: LinePoint): string {
  const flat = `${xmlDecimal(lon)},${xmlDecimal(lat)}`;
  return altitude === undefined ? flat : `${flat},${xmlDecimal(altitude)}`;
}

function coordText({ lat, lon, altitude, altitudeDatum }: Fix): string {
  const flat = `${xmlDecimal(lon)} ${xmlDecimal(lat)}`;
  return altitude === undefined || altitudeDatum !== 'sea' ? flat : `${flat} ${xmlDecimal(altitude)}`;
}

function valueText(value: number | string | undefined): string {
  if (value === undefined) return '<value/>';
  return `<value>${typeof value === 'number' ? xmlDecimal(value) : xmlText(value)}</value>`;
}
