import {
  InputError,
  type TrackDocument,
  type TrackFormat,
  type TrackReader,
  type TrackSink,
} from 'aurelian-drift';
import {
  checkOptions,
  emptyText,
  endReading,
  formatNamed,
  formatOfFile,
  FORMATS,
  numberFrom,
  strictly,
  TrackGatherer,
  yesOrNo,
} from 'aurelian-drift/internal';
import { located, parsedJson } from './json-text.js';
import { bytesOf, decoded } from './text-file.js';

/** Options of `readTrackFile`. */
export interface ReadFileOptions {
  /** Refuse content that would otherwise be left out with a note. Default false. */
  readonly strict?: boolean;
}

/** Number of characters in which a format is detected. */
const BEGINNING = 4096;
/** Maximum characters of a text that is read as a whole: about as many as the platform can hold in one string. */
const MAX_WHOLE = 500_000_000;

/**
 * Reads a file of trails, lines and waypoints, in any supported format and encoding; both are detected from the
 * content.
 *
 * @throws {InputError} with file, line and reason.
 * @throws {Error} with `code` when there is no such file.
 */
export async function readTrackFile(path: string, options: ReadFileOptions = {}): Promise<TrackDocument> {
  checkOptions('readTrackFile', options, { strict: yesOrNo });
  const gatherer = new TrackGatherer();
  await streamTrackFile(path, gatherer, options);
  return gatherer.document;
}

/**
 * Passes the content of a file to a sink while it is read: in constant memory for GPX, CSV and NMEA 0183, whose trails
 * come in pieces of `pieceSize` fixes. KML needs one Placemark in memory, because its times come before its positions;
 * GeoJSON is read as a whole.
 */
export async function streamTrackFile(
  path: string,
  sink: TrackSink,
  options: StreamOptions = {},
): Promise<TrackFormat> {
  checkOptions('streamTrackFile', options, { strict: yesOrNo, pieceSize: numberFrom(1, 1e9, 'fixes') });
  const { bytes, source } = bytesOf(path);
  return streamTracks(bytes, source, sink, { ...options, path });
}

/** Options of `streamTrackFile`. */
export interface StreamOptions extends ReadFileOptions {
  /** Fixes per piece. Default: a segment is a piece. */
  readonly pieceSize?: number;
}

/** As `streamTrackFile`, for bytes from any source. @param source its name in errors. */
export async function streamTracks(
  bytes: AsyncIterable<Uint8Array>,
  source: string,
  sink: TrackSink,
  { strict = false, pieceSize, path = '' }: StreamOptions & { readonly path?: string } = {},
): Promise<TrackFormat> {
  const reported = strict ? strictly(sink, source) : sink;
  const readerOptions = { source, ...(pieceSize !== undefined && { pieceSize }) };
  let format: TrackFormat | undefined;
  let reader: TrackReader | undefined;
  let start = '';
  for await (const text of decoded(bytes, source, (note) => reported.note(note))) {
    if (reader !== undefined) {
      reader.write(text);
      continue;
    }
    start += text;
    if (start.trimStart().length < BEGINNING) continue;
    format ??= formatOf(start, path, source);
    const { reading, title } = formatNamed(format);
    if (reading.by === 'piece') {
      reader = reading.reader(reported, readerOptions);
      reader.write(start);
      start = '';
    } else if (start.length > MAX_WHOLE)
      throw new InputError('bad-value', `${title} is read whole, and this is too long for that`, { source });
  }
  if (reader === undefined) {
    if (start.trim() === '') throw emptyText(source);
    format ??= formatOf(start, path, source);
    const { reading } = formatNamed(format);
    if (reading.by === 'document') {
      deliverJson(start, source, reported, strict, reading.deliver);
      return format;
    }
    reader = reading.reader(reported, readerOptions);
    reader.write(start);
  }
  endReading(reader, reported, strict);
  return format as TrackFormat;
}

function formatOf(start: string, path: string, source: string): TrackFormat {
  const format = formatOfFile(start, path);
  if (format !== undefined) return format;
  const names = FORMATS.map(({ title }) => title);
  throw new InputError(
    'not-this-format',
    `this is none of ${names.slice(0, -1).join(', ')} and ${names.at(-1) ?? ''}`,
    { source, line: 1 },
  );
}

function deliverJson(
  text: string,
  source: string,
  sink: TrackSink,
  strict: boolean,
  report: (document: unknown, sink: TrackSink) => void,
): void {
  const { document, problem } = parsedJson(text, source);
  if (problem !== undefined) {
    const whole = (document as { features?: unknown } | undefined)?.features;
    if (strict || problem.kind !== 'cut-short' || !Array.isArray(whole)) throw problem;
    // The text ends in the last feature.
    whole.pop();
    sink.note({ line: problem.place.line ?? 1, text: problem.reason });
  }
  located(text, source, () => report(document, sink));
}
