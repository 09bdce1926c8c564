import { InputError } from '../../check/input-error.js';
import { fixProblem, fixFrom, type RawFix } from '../../fix/fix.js';
import type { LinePoint } from '../../trail/line.js';
import { MAX_KEYS, extrasAmong, isExtraKey } from '../../trail/extras.js';
import { Trail } from '../../trail/trail.js';
import { FIX_COLUMNS, rawColumns, type FixColumn } from '../fix-columns.js';
import { coordinateOf, coordinatesOf, featuresOf, listOf, partsOf, type Feature } from './geojson.js';
import { withPointExtras } from '../point-extras.js';
import { parseTime } from '../time.js';
import { documentReader } from '../document-reader.js';
import { TrackGatherer, gather, type ReadOptions, type TrackDocument } from '../track-document.js';
import type { TrackSink } from '../track-sink.js';

type Column = readonly (readonly unknown[])[];

/**
 * Reads trails, lines, routes and waypoints of a parsed GeoJSON document; areas are ignored. A line is a trail when its
 * feature has `properties.columns.time`.
 *
 * @throws {InputError} with the path of an impossible position or of a column that does not match.
 */
export function tracksFrom(document: unknown): TrackDocument {
  const gatherer = new TrackGatherer();
  deliverGeoJson(document, gatherer);
  return gatherer.document;
}

/**
 * Reads a GeoJSON document that is in memory; `tracksFrom` takes a parsed one.
 *
 * @throws {InputError} when the text is not JSON; otherwise as `tracksFrom`.
 */
export function readGeoJson(text: string, options: ReadOptions = {}): TrackDocument {
  return gather('readGeoJson', text, options, (sink, source) =>
    documentReader(deliverGeoJson, sink, { source }),
  );
}

/** Passes the content of a parsed GeoJSON document to a sink, in the order of its features. */
export function deliverGeoJson(document: unknown, sink: TrackSink): void {
  const { name: title } = (document ?? {}) as { name?: unknown };
  if (typeof title === 'string') sink.title(title);
  for (const feature of featuresOf(document)) {
    const { geometry, properties, coordinatesPath } = feature;
    const name = typeof properties['name'] === 'string' ? { name: properties['name'] } : {};
    const words = { ...name, ...descriptionOf(properties), ...extrasAmong(properties) };
    if (geometry?.type === 'Point') {
      sink.waypoint({
        ...coordinateOf(geometry.coordinates, coordinatesPath),
        ...words,
        ...timeOf(properties),
      });
    } else if (geometry?.type === 'LineString' || geometry?.type === 'MultiLineString') {
      const single = geometry.type === 'LineString';
      const parts = single
        ? [coordinatesOf(geometry.coordinates, coordinatesPath)]
        : partsOf(geometry.coordinates, coordinatesPath);
      const trail = trailOf(feature, parts, single);
      if (trail !== undefined) sink.trail(trail, { first: true, last: true, joined: false });
      else {
        const line = { ...words, parts: withPointExtras(parts, properties['points']) };
        if (properties['kind'] === 'route') sink.route(line);
        else sink.line(line);
      }
    }
  }
}

function descriptionOf({ description }: Feature['properties']): { description?: string } {
  return typeof description === 'string' ? { description } : {};
}

function timeOf({ time }: Feature['properties']): { time?: number } {
  const when = typeof time === 'string' ? parseTime(time) : NaN;
  return Number.isNaN(when) ? {} : { time: when };
}

function trailOf(
  feature: Feature,
  parts: readonly (readonly LinePoint[])[],
  single: boolean,
): Trail | undefined {
  const { properties, path, coordinatesPath } = feature;
  const given = properties['columns'];
  if (typeof given !== 'object' || given === null || !('time' in given)) return undefined;
  const columns = new Map<string, Column>();
  for (const name of ['time', ...FIX_COLUMNS]) {
    const value = (given as Record<string, unknown>)[name];
    if (value !== undefined)
      columns.set(name, columnOf(value, parts, single, [...path, 'properties', 'columns', name]));
  }
  const extras = Object.keys(given)
    .filter(isExtraKey)
    .slice(0, MAX_KEYS)
    .map((key): [string, Column] => {
      const value = (given as Record<string, unknown>)[key];
      return [key, columnOf(value, parts, single, [...path, 'properties', 'columns', key])];
    });
  const trail = new Trail({
    ...(typeof properties['name'] === 'string' && { name: properties['name'] }),
    ...descriptionOf(properties),
    ...extrasAmong(properties),
    ...(Number.isInteger(properties['veiled']) && { veiled: properties['veiled'] as number }),
  });
  parts.forEach((part, p) => {
    const count = isOneFix(part, (name) => columns.get(name)?.[p]) ? 1 : part.length;
    part.slice(0, count).forEach((point, i) => {
      const raw = rawFix(point, (name) => columns.get(name)?.[p]?.[i]);
      const problem = fixProblem(raw);
      const where = [...coordinatesPath, ...(single ? [] : [p]), i];
      if (problem !== undefined) throw new InputError('impossible-fix', problem, { path: where });
      trail.append(fixFrom(raw));
      for (const [key, column] of extras) {
        const text = column[p]?.[i];
        if (typeof text === 'string') trail.setExtra(trail.length - 1, key, text);
      }
    });
    trail.breakSegment();
  });
  return trail;
}

/** Whether two positions are one fix written twice, because a line has at least two: the second has a time only. */
function isOneFix(
  part: readonly LinePoint[],
  column: (name: 'time' | FixColumn) => readonly unknown[] | undefined,
): boolean {
  const [first, second] = part;
  if (part.length !== 2 || first === undefined || second === undefined) return false;
  const time = column('time');
  return (
    first.lat === second.lat &&
    first.lon === second.lon &&
    first.altitude === second.altitude &&
    time?.[0] === time?.[1] &&
    FIX_COLUMNS.every((name) => (column(name)?.[1] ?? null) === null)
  );
}

function rawFix(point: LinePoint, valueOf: (name: 'time' | FixColumn) => unknown): RawFix {
  const time = valueOf('time');
  const columns = rawColumns((name) => {
    const value = valueOf(name);
    return typeof value === 'number' ? value : undefined;
  }, valueOf);
  return {
    ...columns,
    time: typeof time === 'string' ? parseTime(time) : NaN,
    lat: point.lat,
    lon: point.lon,
    ...(columns.altitude === undefined && { altitude: point.altitude, altitudeDatum: 'ellipsoid' }),
  };
}

/** A column as a list of lists, checked to be as long as the coordinates. */
function columnOf(
  value: unknown,
  parts: readonly (readonly unknown[])[],
  single: boolean,
  path: readonly (string | number)[],
): Column {
  const column = single
    ? [listOf(value, path)]
    : listOf(value, path).map((run, i) => listOf(run, [...path, i]));
  const wrong = parts.findIndex((part, i) => column[i]?.length !== part.length);
  if (wrong >= 0 || column.length !== parts.length) {
    throw new InputError('bad-value', 'a column must be as long as the coordinates', { path });
  }
  return column;
}
