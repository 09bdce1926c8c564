import type { Fix } from '../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../trail/line.js';
import type { Trail } from '../trail/trail.js';
import { FIX_COLUMNS, WORD_COLUMNS, columnValue, type FixColumn } from './fix-columns.js';
import { KIND, KML_NAMESPACE, SCHEMA_ID, VEILED } from './kml-words.js';
import type { Output } from './output.js';
import { timeText } from './time.js';
import type { TrackContent } from './track-document.js';
import type { PiecePlace } from './track-sink.js';
import { textOf, type TrackWriter } from './track-writer.js';
import { xmlDecimal, xmlText } from './xml.js';

/** A KML 2.3 document (OGC 12-007r2). Every number is written with all its digits. */
export function writeKml(content: TrackContent): string {
  return textOf((output) => new KmlWriter(output), content);
}

/**
 * Writes KML: a trail is a MultiTrack, one Track a segment, with the standard's own times; what a Track has no element for
 * is in the arrays of its ExtendedData. An altitude above the sea is a coordinate; as soon as one of a segment is above something
 * else, the altitudes of all are in an array, beside their datums, since KML knows the sea only.
 */
export class KmlWriter implements TrackWriter {
  readonly leftOut: readonly string[] = [];
  readonly #output: Output;
  #name: string | undefined;
  #begun = false;
  /** Of the segment that is open: its columns with something in them, and whether all its altitudes are above the sea. */
  readonly #used = new Set<FixColumn>();
  #sea = true;
  #high = false;

  constructor(output: Output) {
    this.#output = output;
  }

  title(name: string): void {
    this.#name ??= name;
  }

  waypoint({ name, description, time, ...point }: Waypoint): void {
    const when = time === undefined ? '' : `<TimeStamp><when>${timeText(time)}</when></TimeStamp>`;
    const mode = point.altitude === undefined ? '' : ABSOLUTE;
    this.#placemark(
      name,
      description,
      `${when}<Point>${mode}<coordinates>${coordinatesText(point)}</coordinates></Point>`,
    );
  }

  line(line: Line): void {
    this.#line(line, '');
  }

  route(route: Line): void {
    this.#line(route, datum(KIND, 'route'));
  }

  trail(piece: Trail, { first, last, joined }: PiecePlace): void {
    const output = this.#output;
    if (first) {
      this.#begin();
      const veiled = piece.veiled === undefined ? '' : datum(VEILED, String(piece.veiled));
      output.write(
        `<Placemark>${labels(piece.name, piece.description)}${veiled}<MultiTrack><interpolate>0</interpolate>\n`,
      );
    } else if (!joined) this.#endSegment();
    piece.segments.forEach((segment, s) => {
      if (s > 0) this.#endSegment();
      const fixes = [...piece.fixesOf(segment)];
      const add = (part: string, textOfFix: (fix: Fix) => string) =>
        output.aside(part, fixes.map(textOfFix).join(''));
      add('when', ({ time }) => `<when>${timeText(time)}</when>\n`);
      add('coord', (fix) => `<coord>${coordText(fix)}</coord>\n`);
      for (const column of FIX_COLUMNS) {
        if (fixes.some((fix) => columnValue(fix, column) !== undefined)) this.#used.add(column);
        add(column, (fix) => valueText(columnValue(fix, column)));
      }
      this.#high ||= fixes.some(({ altitude }) => altitude !== undefined);
      this.#sea &&= fixes.every(({ altitudeDatum }) => altitudeDatum === 'sea');
    });
    if (!last) return;
    this.#endSegment();
    output.write('</MultiTrack></Placemark>\n');
  }

  note(): void {
    // What was passed over is told to the user, not written.
  }

  end(): void {
    this.#begin();
    this.#output.write('</Document>\n</kml>\n');
  }

  #endSegment(): void {
    const output = this.#output;
    const inCoordinates = this.#high && this.#sea;
    output.write(`<Track>${inCoordinates ? ABSOLUTE : ''}\n`);
    output.recall('when');
    output.recall('coord');
    const written = FIX_COLUMNS.filter((column) => {
      const beside = !(inCoordinates && (column === 'altitude' || column === 'altitudeDatum'));
      return beside && this.#used.has(column);
    });
    if (written.length > 0) output.write(`<ExtendedData><SchemaData schemaUrl="#${SCHEMA_ID}">\n`);
    for (const column of FIX_COLUMNS) {
      if (!written.includes(column)) {
        output.drop(column);
        continue;
      }
      output.write(`<SimpleArrayData name="${column}">`);
      output.recall(column);
      output.write('</SimpleArrayData>\n');
    }
    if (written.length > 0) output.write('</SchemaData></ExtendedData>\n');
    output.write('</Track>\n');
    this.#used.clear();
    this.#sea = true;
    this.#high = false;
  }

  #line({ name, parts }: Line, extra: string): void {
    // The standard's order: ExtendedData before the geometry.
    const strings = parts.map((part) => {
      const run = part.length === 1 ? [...part, ...part] : part;
      const mode = run.some(({ altitude }) => altitude !== undefined) ? ABSOLUTE : '';
      return `<LineString>${mode}<coordinates>${run.map(coordinatesText).join(' ')}</coordinates></LineString>`;
    });
    const geometry =
      strings.length === 1 ? (strings[0] as string) : `<MultiGeometry>${strings.join('')}</MultiGeometry>`;
    this.#placemark(name, undefined, extra + geometry);
  }

  #placemark(name: string | undefined, description: string | undefined, rest: string): void {
    this.#begin();
    this.#output.write(`<Placemark>${labels(name, description)}${rest}</Placemark>\n`);
  }

  #begin(): void {
    if (this.#begun) return;
    this.#begun = true;
    const fields = FIX_COLUMNS.map(
      (column) =>
        `<SimpleArrayField name="${column}" type="${WORD_COLUMNS.has(column) ? 'string' : 'double'}"/>`,
    );
    this.#output.write(
      '<?xml version="1.0" encoding="UTF-8"?>\n' +
        `<kml xmlns="${KML_NAMESPACE}" version="2.3">\n<Document>${labels(this.#name, undefined)}\n` +
        `<Schema id="${SCHEMA_ID}">${fields.join('')}</Schema>\n`,
    );
  }
}

const ABSOLUTE = '<altitudeMode>absolute</altitudeMode>';

function labels(name: string | undefined, description: string | undefined): string {
  return (
    (name === undefined ? '' : `<name>${xmlText(name)}</name>`) +
    (description === undefined ? '' : `<description>${xmlText(description)}</description>`)
  );
}

function datum(name: string, value: string): string {
  return `<ExtendedData><Data name="${name}"><value>${value}</value></Data></ExtendedData>`;
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
