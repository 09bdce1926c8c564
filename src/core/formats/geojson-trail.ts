import { InputError } from '../check/input-error.js';
import { DATUMS, MARKS, ORIGINS, fixFault, fixOf, type Fix, type Mark, type RawFix } from '../fix/fix.js';
import type { Line, LinePoint, Waypoint } from '../trail/line.js';
import { Trail } from '../trail/trail.js';
import { coordinateOf, coordinatesOf, featuresOf, listOf, partsOf, type Feature } from './geojson.js';
import { parseTime, timeText } from './time.js';

/** What a GeoJSON file held, as a trail file. */
export interface GeoJsonTrails {
  readonly trails: readonly Trail[];
  /** Lines whose feature has no `columns.time`. */
  readonly lines: readonly Line[];
  readonly waypoints: readonly Waypoint[];
}

const NUMBER_COLUMNS = ['accuracy', 'altitude', 'altitudeAccuracy', 'course', 'speed'] as const;
const WORD_COLUMNS = ['altitudeDatum', 'origin', 'marks'] as const;
type Column = readonly (readonly unknown[])[];

/**
 * A trail as a GeoJSON feature: a MultiLineString, one line a segment, with `properties.columns` of lists
 * parallel to its coordinates. `time` is RFC 3339; numbers are in SI units; null stands for what is not
 * known. An altitude above the ellipsoid is the coordinates' own third number; any other is a column.
 */
export function trailFeature(trail: Trail): object {
  const segments = trail.segments.map((segment) => [...trail.fixesOf(segment)]);
  const columns: Record<string, unknown[][]> = {
    time: segments.map((run) => run.map((fix) => timeText(fix.time))),
  };
  const addColumn = (name: string, valueOf: (fix: Fix) => unknown) => {
    const column = segments.map((run) => run.map((fix) => valueOf(fix) ?? null));
    if (column.some((run) => run.some((value) => value !== null))) columns[name] = column;
  };
  for (const name of NUMBER_COLUMNS) {
    if (name !== 'altitude') addColumn(name, (fix) => fix[name]);
  }
  addColumn('altitude', (fix) => (fix.altitudeDatum === 'ellipsoid' ? undefined : fix.altitude));
  addColumn('altitudeDatum', (fix) => (fix.altitudeDatum === 'ellipsoid' ? undefined : fix.altitudeDatum));
  addColumn('origin', (fix) => (fix.origin === 'unknown' ? undefined : fix.origin));
  addColumn('marks', (fix) => fix.marks?.join(' '));
  return {
    type: 'Feature',
    geometry: {
      type: 'MultiLineString',
      coordinates: segments.map((run) =>
        run.map(({ lon, lat, altitude, altitudeDatum }) =>
          altitude !== undefined && altitudeDatum === 'ellipsoid' ? [lon, lat, altitude] : [lon, lat],
        ),
      ),
    },
    properties: {
      ...(trail.name !== undefined && { name: trail.name }),
      ...(trail.description !== undefined && { description: trail.description }),
      columns,
    },
  };
}

/** What goes into a GeoJSON file of trails. */
export interface GeoJsonContent {
  readonly trails?: readonly Trail[];
  readonly lines?: readonly Line[];
  readonly waypoints?: readonly Waypoint[];
}

/** Trails, lines and waypoints as the text of a GeoJSON FeatureCollection, a feature on each line of the text. */
export function writeGeoJson({ trails = [], lines = [], waypoints = [] }: GeoJsonContent): string {
  const features = [
    ...waypoints.map(waypointFeature),
    ...lines.map(lineFeature),
    ...trails.map(trailFeature),
  ];
  const texts = features.map((feature) => JSON.stringify(feature));
  return `{"type":"FeatureCollection","features":[\n${texts.join(',\n')}\n]}\n`;
}

/** Trails as the text of a GeoJSON FeatureCollection. */
export function writeGeoJsonTrails(trails: readonly Trail[]): string {
  return writeGeoJson({ trails });
}

function lineFeature({ name, parts }: Line): object {
  const coordinates = parts.map((part) => part.map(coordinatesOfPoint));
  return {
    type: 'Feature',
    geometry: { type: 'MultiLineString', coordinates },
    properties: { ...(name !== undefined && { name }) },
  };
}

function waypointFeature({ name, description, time, ...point }: Waypoint): object {
  return {
    type: 'Feature',
    geometry: { type: 'Point', coordinates: coordinatesOfPoint(point) },
    properties: {
      ...(name !== undefined && { name }),
      ...(description !== undefined && { description }),
      ...(time !== undefined && { time: timeText(time) }),
    },
  };
}

function coordinatesOfPoint({ lon, lat, altitude }: LinePoint): number[] {
  return altitude === undefined ? [lon, lat] : [lon, lat, altitude];
}

/**
 * Trails, lines and waypoints of a parsed GeoJSON document; areas are passed over.
 *
 * @throws {InputError} with the path of an impossible position or of a column that does not match.
 */
export function geoJsonTrailsFrom(document: unknown): GeoJsonTrails {
  const trails: Trail[] = [];
  const lines: Line[] = [];
  const waypoints: Waypoint[] = [];
  for (const feature of featuresOf(document)) {
    const { geometry, properties, coordinatesPath } = feature;
    const name = typeof properties['name'] === 'string' ? { name: properties['name'] } : {};
    if (geometry?.type === 'Point') {
      waypoints.push({
        ...coordinateOf(geometry.coordinates, coordinatesPath),
        ...name,
        ...waypointWords(properties),
      });
    } else if (geometry?.type === 'LineString' || geometry?.type === 'MultiLineString') {
      const single = geometry.type === 'LineString';
      const parts = single
        ? [coordinatesOf(geometry.coordinates, coordinatesPath)]
        : partsOf(geometry.coordinates, coordinatesPath);
      const trail = trailOf(feature, parts, single);
      if (trail !== undefined) trails.push(trail);
      else lines.push({ ...name, parts });
    }
  }
  return { trails, lines, waypoints };
}

function waypointWords({ description, time }: Feature['properties']): {
  description?: string;
  time?: number;
} {
  const when = typeof time === 'string' ? parseTime(time) : NaN;
  return {
    ...(typeof description === 'string' && { description }),
    ...(!Number.isNaN(when) && { time: when }),
  };
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
  for (const name of ['time', ...NUMBER_COLUMNS, ...WORD_COLUMNS]) {
    const value = (given as Record<string, unknown>)[name];
    if (value !== undefined)
      columns.set(name, columnOf(value, parts, single, [...path, 'properties', 'columns', name]));
  }
  const trail = new Trail({
    ...(typeof properties['name'] === 'string' && { name: properties['name'] }),
    ...(typeof properties['description'] === 'string' && { description: properties['description'] }),
  });
  parts.forEach((part, p) => {
    part.forEach((point, i) => {
      const raw = rawFix(point, (name) => columns.get(name)?.[p]?.[i]);
      const fault = fixFault(raw);
      const where = [...coordinatesPath, ...(single ? [] : [p]), i];
      if (fault !== undefined) throw new InputError('impossible-fix', fault, { path: where });
      trail.append(fixOf(raw));
    });
    trail.breakSegment();
  });
  return trail;
}

function rawFix(point: LinePoint, valueOf: (name: string) => unknown): RawFix {
  const time = valueOf('time');
  const numbers: Partial<Record<(typeof NUMBER_COLUMNS)[number], number>> = {};
  for (const name of NUMBER_COLUMNS) {
    const value = valueOf(name);
    if (typeof value === 'number') numbers[name] = value;
  }
  const marks = valueOf('marks');
  return {
    time: typeof time === 'string' ? parseTime(time) : NaN,
    lat: point.lat,
    lon: point.lon,
    ...(point.altitude !== undefined && { altitude: point.altitude, altitudeDatum: 'ellipsoid' }),
    ...numbers,
    ...(numbers.altitude !== undefined && {
      altitudeDatum: DATUMS.find((datum) => datum === valueOf('altitudeDatum')),
    }),
    origin: ORIGINS.find((origin) => origin === valueOf('origin')),
    marks:
      typeof marks === 'string'
        ? marks.split(' ').filter((mark): mark is Mark => (MARKS as readonly string[]).includes(mark))
        : undefined,
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
