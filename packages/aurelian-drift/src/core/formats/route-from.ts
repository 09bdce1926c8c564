import { InputError } from '../check/input-error.js';
import { positionOf, type Position } from '../geodesy/position.js';
import { lineOf } from '../trail/line-of.js';
import type { Line } from '../trail/line.js';
import { tracksFrom } from './geojson/geojson-trail.js';
import { readTracks } from './read-tracks.js';
import type { TrackDocument } from './track-document.js';

/**
 * A route as an app has it: a `Line`, positions, a parsed GeoJSON document, or the text of a GPX, GeoJSON, KML, CSV or
 * NMEA 0183 file. Of several lines in a document, the first counts.
 */
export type RouteGiven = Line | readonly Position[] | string | object;

/**
 * The line of a route.
 *
 * @throws {InputError} for an impossible position, a text of no known format, and a document without a line.
 */
export function routeFrom(given: RouteGiven): Line {
  if (typeof given === 'string') return firstOf(readTracks(given, { source: 'a route' }));
  if (Array.isArray(given)) return lineThrough(given as readonly Position[]);
  if (isLine(given)) {
    for (const part of given.parts) part.forEach(positionOf);
    return given;
  }
  return firstOf(tracksFrom(given));
}

function isLine(given: object): given is Line {
  return 'parts' in given && Array.isArray(given.parts);
}

function lineThrough(points: readonly Position[]): Line {
  points.forEach(positionOf);
  if (points.length > 1) return { parts: [points] };
  throw new InputError('bad-value', `a route needs two positions or more, got ${points.length}`);
}

function firstOf({ routes, lines, trails }: TrackDocument): Line {
  const [line] = [...routes, ...lines, ...trails.map(lineOf)];
  if (line === undefined) throw new InputError('nothing-inside', 'there is no line in it to go along');
  return line;
}
