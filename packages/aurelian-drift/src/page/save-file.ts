import { InputError } from '../core/check/input-error.js';
import { suggestion } from '../core/check/suggest.js';
import type { TrackContent } from '../core/formats/track-document.js';
import { FORMATS, formatNamed, formatOfEnding } from '../core/formats/track-format.js';
import { textOf, type TrackWriter } from '../core/formats/track-writer.js';

/** Milliseconds for which the content stays available to the browser, which fetches it after the call. */
const FETCHED_WITHIN = 60_000;

/**
 * Offers the user a file to keep, as a download of the page.
 *
 * @param name of the file, with its ending.
 * @param media media type of a text. Default `text/plain`; a blob has its own.
 */
export function saveFile(name: string, content: string | Blob, media = 'text/plain'): void {
  const blob = typeof content === 'string' ? new Blob([content], { type: media }) : content;
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), FETCHED_WITHIN);
}

/**
 * Offers the user trails, lines, routes and waypoints as a file, in the format of its ending: `walk.gpx`, `.geojson`,
 * `.kml`, `.csv` or `.nmea`. Returns what the format cannot hold, as counted items: `2 waypoints`.
 *
 * @throws {InputError} for an ending of no known format.
 */
export function saveTracks(name: string, content: TrackContent): readonly string[] {
  const found = formatOfEnding(name);
  if (found === undefined) {
    const ending = /\.([^.]*)$/.exec(name)?.[1] ?? '';
    const known = FORMATS.flatMap(({ endings }) => endings);
    throw new InputError('bad-value', `"${name}" has the ending of no format, ${suggestion(ending, known)}`);
  }
  const format = formatNamed(found);
  let writer: TrackWriter | undefined;
  const text = textOf((output) => (writer = format.writer(output, content)), content);
  saveFile(name, text, format.media);
  return writer?.leftOut ?? [];
}
