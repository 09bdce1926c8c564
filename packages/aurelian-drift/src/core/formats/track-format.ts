import { InputError } from '../check/input-error.js';
import { CSV } from './csv/format.js';
import { documentReader } from './document-reader.js';
import type { FormatDescriptor } from './format-descriptor.js';
import { GEOJSON } from './geojson/format.js';
import { GPX } from './gpx/format.js';
import { KML } from './kml/format.js';
import { NMEA } from './nmea/format.js';
import type { Output } from './output.js';
import type { TrackContent } from './track-document.js';
import type { ReaderOptions, TrackReader, TrackSink } from './track-sink.js';
import type { TrackWriter } from './track-writer.js';

/** All formats of trails, lines and waypoints. */
const TABLE = [GPX, GEOJSON, KML, CSV, NMEA] as const;

/** Name of a format of trails, lines and waypoints. */
export type TrackFormat = (typeof TABLE)[number]['name'];

/** All formats by the common description. */
export const FORMATS: readonly (FormatDescriptor & { readonly name: TrackFormat })[] = TABLE;

/** @throws {InputError} for an unknown name, as code without types may give it. */
export function formatNamed(name: TrackFormat): FormatDescriptor {
  const found = FORMATS.find((format) => format.name === name);
  if (found !== undefined) return found;
  const names = FORMATS.map((format) => format.name).join(', ');
  throw new InputError('bad-value', `there is no format "${name as string}"; there are ${names}`);
}

/** Format by the extension of a file; `undefined` for another one. */
export function formatOfEnding(path: string): TrackFormat | undefined {
  const ending = /\.([a-z]+)$/i.exec(path)?.[1]?.toLowerCase() ?? '';
  return FORMATS.find(({ endings }) => endings.includes(ending))?.name;
}

/**
 * Detects the format of a text by its first characters (some thousand are sufficient); `undefined` when it is none of
 * them.
 */
export function detectFormat(start: string): TrackFormat | undefined {
  return formatOfFile(start, '');
}

/** As `detectFormat`, for a file: its name counts where a format may begin with anything. */
export function formatOfFile(start: string, path: string): TrackFormat | undefined {
  const text = start.trimStart();
  const answers = FORMATS.map((format) => ({ format, is: format.recognise(text) }));
  const certain = answers.find(({ is }) => is === 'surely')?.format;
  if (certain !== undefined) return certain.name;
  const named = FORMATS.find(
    ({ name, beginsAnyhow }) => beginsAnyhow === true && name === formatOfEnding(path),
  );
  return (named ?? answers.find(({ is }) => is === 'maybe')?.format)?.name;
}

/**
 * A reader of a format. GeoJSON is parsed when its text is complete; the others are read piece by piece.
 *
 * @throws {InputError} for an unknown format.
 */
export function trackReader(format: TrackFormat, sink: TrackSink, options: ReaderOptions = {}): TrackReader {
  const { reading } = formatNamed(format);
  return reading.by === 'piece'
    ? reading.reader(sink, options)
    : documentReader(reading.deliver, sink, options);
}

/**
 * A writer that takes content piece by piece.
 *
 * @param content the content, where it is known in advance: CSV then has only the columns that it needs.
 * @throws {InputError} for an unknown format.
 */
export function trackWriter(format: TrackFormat, output: Output, content?: TrackContent): TrackWriter {
  return formatNamed(format).writer(output, content);
}
