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
  /** Refuse what would be left out with a note. Default false. */
  readonly strict?: boolean;
}

/** Characters by which a format is known. */
const BEGINNING = 4096;
/** Characters of a text that is read whole: what the platform can hold in one string, roughly. */
const MAX_WHOLE = 500_000_000;

/**
 * Reads a file of trails, lines and waypoints, of whatever format and encoding; both are found by the content.
 *
 * @throws {InputError} with file, line and reason; {Error} with `code` when there is no such file.
 */
export async function readTrackFile(path: string, options: ReadFileOptions = {}): Promise<TrackDocument> {
  checkOptions('readTrackFile', options, { strict: yesOrNo });
  const gatherer = new TrackGatherer();
  await streamTrackFile(path, gatherer, options);
  return gatherer.document;
}

/**
 * Tells a sink what is in a file, as it is read: in a flat memory for GPX, CSV and NMEA 0183, whose trails come in
 * pieces of `pieceSize` fixes. KML holds one Placemark at a time, since its times come before its places; GeoJSON is
 * read whole.
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

/** How a track file is read piece by piece. */
export interface StreamOptions extends ReadFileOptions {
  /** Fixes in a piece. Default: a segment is a piece. */
  readonly pieceSize?: number;
}

/** As `streamTrackFile`, of bytes from anywhere. @param source what they go by in errors. */
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
    // The last feature is the one that the text ends in.
    whole.pop();
    sink.note({ line: problem.place.line ?? 1, text: problem.reason });
  }
  located(text, source, () => report(document, sink));
}
