import { InputError } from '../check/input-error.js';
import { gather, type ReadOptions, type TrackDocument } from './track-document.js';
import { formatOfFile, trackReader } from './track-format.js';

/** Characters in which a format is recognised. */
const BEGINNING = 4096;

/**
 * Reads a file of tracks that is in memory, of whatever format it is: GPX, GeoJSON, KML, CSV or NMEA 0183. The format
 * is recognised by the text; where that leaves a doubt, by the ending of the name in `source`.
 *
 * @throws {InputError} with source and line; of kind `not-this-format` for a text of none of the formats.
 */
export function readTracks(text: string, options: ReadOptions = {}): TrackDocument {
  const { source } = options;
  const format = formatOfFile(text.slice(0, BEGINNING), source ?? '');
  if (format === undefined)
    throw new InputError(
      'not-this-format',
      'this is no GPX, GeoJSON, KML, CSV or NMEA 0183 file',
      ...(source === undefined ? [] : [{ source }]),
    );
  return gather('readTracks', text, options, (sink, name) => trackReader(format, sink, { source: name }));
}
