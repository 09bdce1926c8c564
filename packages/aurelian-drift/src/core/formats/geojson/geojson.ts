import { InputError } from '../../check/input-error.js';
import { positionProblem, type Position } from '../../geodesy/position.js';

/*
 * GeoJSON, RFC 7946, as far as the library reads it: features with a geometry of one kind. The structure is checked
 * here, by hand, because pages that read fences load this file; positions are checked where they are used, so that an
 * error has their path.
 */

const KINDS = ['Point', 'MultiPoint', 'LineString', 'MultiLineString', 'Polygon', 'MultiPolygon'] as const;
type GeometryKind = (typeof KINDS)[number];
interface Geometry {
  readonly type: GeometryKind;
  readonly coordinates: readonly unknown[];
}
type Properties = Readonly<Record<string, unknown>>;
type Path = readonly (string | number)[];

/** A feature, with its path in the document for errors. */
export interface Feature {
  readonly id: string | undefined;
  readonly geometry: Geometry | null;
  readonly properties: Properties;
  readonly path: readonly (string | number)[];
  /** Path of its coordinates. */
  readonly coordinatesPath: readonly (string | number)[];
}

/**
 * Features of a parsed GeoJSON document: a collection, one feature, or a bare geometry.
 *
 * @throws {InputError} of kind `not-this-format` with the path of the problem.
 */
export function featuresOf(document: unknown): Feature[] {
  return [
    ...eachFeature(document, (error) => {
      throw error;
    }),
  ];
}

/**
 * Features of a document one by one, as in `featuresOf`; an invalid one is reported, and the others continue.
 *
 * @throws {InputError} of kind `not-this-format` when the document is not GeoJSON.
 */
export function* eachFeature(
  document: unknown,
  refuse: (error: InputError, path: readonly (string | number)[]) => void,
): Generator<Feature> {
  const type = isRecord(document) ? document['type'] : undefined;
  if (!isRecord(document) || typeof type !== 'string')
    throw new InputError('not-this-format', 'this is not GeoJSON: it has no "type"');
  if (type === 'Feature') {
    yield featureOf(document, []);
  } else if (type !== 'FeatureCollection') {
    const geometry = geometryOf(document, []);
    yield { id: undefined, geometry, properties: {}, path: [], coordinatesPath: ['coordinates'] };
  } else {
    const { features } = document;
    if (!Array.isArray(features)) throw unexpected('Array', features, ['features']);
    for (const [i, feature] of features.entries()) {
      const path = ['features', i];
      let read: Feature;
      try {
        read = featureOf(feature, path);
      } catch (error) {
        if (!(error instanceof InputError)) throw error;
        refuse(error, path);
        continue;
      }
      yield read;
    }
  }
}

function featureOf(feature: unknown, path: Path): Feature {
  if (!isRecord(feature)) throw unexpected('Object', feature, path);
  const { type, id, geometry, properties } = feature;
  if (type !== 'Feature') throw unexpected('"Feature"', type, [...path, 'type']);
  if (id !== undefined && typeof id !== 'string' && typeof id !== 'number')
    throw unexpected('(string | number)', id, [...path, 'id']);
  if (properties !== undefined && properties !== null && !isRecord(properties))
    throw unexpected('Object', properties, [...path, 'properties']);
  return {
    id: id === undefined ? undefined : String(id),
    geometry: geometry === null ? null : geometryOf(geometry, [...path, 'geometry']),
    properties: properties ?? {},
    path,
    coordinatesPath: [...path, 'geometry', 'coordinates'],
  };
}

function geometryOf(geometry: unknown, path: Path): Geometry {
  if (!isRecord(geometry)) throw unexpected('Object', geometry, path);
  const { type, coordinates } = geometry;
  const kind = KINDS.find((each) => each === type);
  if (kind === undefined) throw unexpected(KINDS.join(', '), type, [...path, 'type']);
  if (!Array.isArray(coordinates)) throw unexpected('Array', coordinates, [...path, 'coordinates']);
  return { type: kind, coordinates };
}

function isRecord(value: unknown): value is Record<string, unknown> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function unexpected(expected: string, got: unknown, path: Path): InputError {
  const reported =
    typeof got === 'string'
      ? `"${got}"`
      : Array.isArray(got)
        ? 'Array'
        : isRecord(got)
          ? 'Object'
          : String(got);
  return new InputError('not-this-format', `this is not GeoJSON: expected ${expected}, got ${reported}`, {
    path,
  });
}

/**
 * A GeoJSON position, [longitude, latitude, altitude?], as named numbers.
 *
 * @throws {InputError} of kind `impossible-position` with the path.
 */
export function coordinateOf(
  value: unknown,
  path: readonly (string | number)[],
): Position & { altitude?: number } {
  if (!Array.isArray(value)) {
    throw new InputError('not-this-format', 'expected a position, [longitude, latitude]', { path });
  }
  const [lon, lat, altitude] = value as unknown[];
  const problem = positionProblem(lat, lon);
  if (problem !== undefined) throw new InputError('impossible-position', problem, { path });
  return {
    lat: lat as number,
    lon: lon as number,
    ...(typeof altitude === 'number' && Number.isFinite(altitude) && { altitude }),
  };
}

/** A list of positions. */
export function coordinatesOf(
  value: unknown,
  path: readonly (string | number)[],
): (Position & { altitude?: number })[] {
  return listOf(value, path).map((item, i) => coordinateOf(item, [...path, i]));
}

/** A list of lists of positions: the rings of a polygon, or the parts of a line. */
export function partsOf(
  value: unknown,
  path: readonly (string | number)[],
): (Position & { altitude?: number })[][] {
  return listOf(value, path).map((item, i) => coordinatesOf(item, [...path, i]));
}

export function listOf(value: unknown, path: readonly (string | number)[]): unknown[] {
  if (Array.isArray(value)) return value as unknown[];
  throw new InputError('not-this-format', 'expected a list', { path });
}
