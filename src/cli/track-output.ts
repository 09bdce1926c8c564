import { writeFile } from 'node:fs/promises';
import { writeCsv } from '../core/formats/csv.js';
import { writeGeoJson } from '../core/formats/geojson-trail.js';
import { writeGpx } from '../core/formats/gpx-write.js';
import type { Line, Waypoint } from '../core/trail/line.js';
import type { Trail } from '../core/trail/trail.js';
import { fileThere } from '../stores/file-there.js';
import { Misuse } from './misuse.js';

/** What goes into a file of tracks. */
export interface TrackContent {
  readonly trails: readonly Trail[];
  readonly lines?: readonly Line[];
  readonly routes?: readonly Line[];
  readonly waypoints?: readonly Waypoint[];
}

type Format = 'gpx' | 'geojson' | 'csv';

/** The format that the ending of a file's name says. */
export function formatOfEnding(path: string): Format {
  const ending = /\.(gpx|geojson|json|csv)$/i.exec(path)?.[1]?.toLowerCase();
  if (ending === undefined)
    throw new Misuse(`${path}: the ending says the format; .gpx, .geojson and .csv are known`);
  return ending === 'gpx' || ending === 'csv' ? ending : 'geojson';
}

/** The text of a file with such an ending, and what of the content that format has no place for. */
export function trackText(
  path: string,
  { trails, lines = [], routes = [], waypoints = [] }: TrackContent,
): { text: string; left: string[] } {
  switch (formatOfEnding(path)) {
    case 'gpx':
      // A line without times is a route: GPX has no other place where a time may be missing.
      return { text: writeGpx({ trails, routes: [...lines, ...routes], waypoints }), left: [] };
    case 'geojson':
      return { text: writeGeoJson({ trails, lines: [...lines, ...routes], waypoints }), left: [] };
    case 'csv':
      return {
        text: writeCsv(trails),
        left: [
          ...(lines.length + routes.length > 0 ? [counted(lines.length + routes.length, 'line')] : []),
          ...(waypoints.length > 0 ? [counted(waypoints.length, 'waypoint')] : []),
        ],
      };
  }
}

/**
 * Writes a file that is not there yet; with `force` over one that is.
 *
 * @throws {InputError} when it is there: what was recorded is never written over unasked.
 */
export async function writeNew(path: string, text: string, force: boolean): Promise<void> {
  try {
    await writeFile(path, text, { flag: force ? 'w' : 'wx' });
  } catch (error) {
    throw fileThere(error, path, 'Choose another name, or give --force to write over it.');
  }
}

/** `1 trail`, `2 trails`. */
export function counted(count: number, one: string): string {
  return `${count} ${one}${count === 1 ? '' : 's'}`;
}
