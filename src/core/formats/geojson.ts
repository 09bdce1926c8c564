import * as v from 'valibot';
import { InputError } from '../check/input-error.js';
import { positionFault, type Position } from '../geodesy/position.js';

/*
 * GeoJSON, RFC 7946, as far as the library reads it: features with a geometry of one kind. The structure is
 * checked here; each position where it is taken, so that an error can name it.
 */

const Coordinates = v.array(v.unknown());
const Geometry = v.variant('type', [
  v.object({ type: v.literal('Point'), coordinates: Coordinates }),
  v.object({ type: v.literal('MultiPoint'), coordinates: Coordinates }),
  v.object({ type: v.literal('LineString'), coordinates: Coordinates }),
  v.object({ type: v.literal('MultiLineString'), coordinates: Coordinates }),
  v.object({ type: v.literal('Polygon'), coordinates: Coordinates }),
  v.object({ type: v.literal('MultiPolygon'), coordinates: Coordinates }),
]);
const FeatureSchema = v.object({
  type: v.literal('Feature'),
  id: v.optional(v.union([v.string(), v.number()])),
  geometry: v.nullable(Geometry),
  properties: v.nullish(v.record(v.string(), v.unknown())),
});
const CollectionSchema = v.looseObject({
  type: v.literal('FeatureCollection'),
  features: v.array(FeatureSchema),
});

type GeometryKind = v.InferOutput<typeof Geometry>['type'];
type Properties = Readonly<Record<string, unknown>>;

/** One feature, with the path of its place in the document for errors. */
export interface Feature {
  readonly id: string | undefined;
  readonly geometry: { readonly type: GeometryKind; readonly coordinates: readonly unknown[] } | null;
  readonly properties: Properties;
  readonly path: readonly (string | number)[];
  /** The path of its coordinates. */
  readonly coordinatesPath: readonly (string | number)[];
}

/**
 * The features of a parsed GeoJSON document: a collection, one feature, or a bare geometry.
 *
 * @throws {InputError} of kind `not-this-format` with the path of what is wrong.
 */
export function featuresOf(document: unknown): Feature[] {
  const type =
    typeof document === 'object' && document !== null ? (document as { type?: unknown }).type : undefined;
  if (type === 'FeatureCollection') {
    const { features } = parsed(CollectionSchema, document, []);
    return features.map((feature, i) => featureOf(feature, ['features', i]));
  }
  if (type === 'Feature') return [featureOf(parsed(FeatureSchema, document, []), [])];
  if (typeof type !== 'string')
    throw new InputError('not-this-format', 'this is not GeoJSON: it has no "type"');
  return [
    {
      id: undefined,
      geometry: parsed(Geometry, document, []),
      properties: {},
      path: [],
      coordinatesPath: ['coordinates'],
    },
  ];
}

/**
 * The features of a document one by one, as `featuresOf` gives them all; one that is malformed is refused, and the others go on.
 *
 * @throws {InputError} of kind `not-this-format` when the document itself is no GeoJSON.
 */
export function* eachFeature(
  document: unknown,
  refuse: (error: InputError, path: readonly (string | number)[]) => void,
): Generator<Feature> {
  const { type, features } = (document ?? {}) as { type?: unknown; features?: unknown };
  if (type !== 'FeatureCollection' || !Array.isArray(features)) {
    yield* featuresOf(document);
    return;
  }
  for (const [i, feature] of (features as unknown[]).entries()) {
    const path = ['features', i];
    let read: Feature;
    try {
      read = featureOf(parsed(FeatureSchema, feature, path), path);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      refuse(error, path);
      continue;
    }
    yield read;
  }
}

function featureOf(
  feature: v.InferOutput<typeof FeatureSchema>,
  path: readonly (string | number)[],
): Feature {
  return {
    id: feature.id === undefined ? undefined : String(feature.id),
    geometry: feature.geometry,
    properties: feature.properties ?? {},
    path,
    coordinatesPath: [...path, 'geometry', 'coordinates'],
  };
}

function parsed<const Schema extends v.GenericSchema>(
  schema: Schema,
  value: unknown,
  base: readonly (string | number)[],
): v.InferOutput<Schema> {
  const result = v.safeParse(schema, value, { abortEarly: true });
  if (result.success) return result.output;
  const issue = result.issues[0];
  const path = issue.path?.map((item) => item.key as string | number) ?? [];
  const expected = issue.expected ?? 'something else';
  throw new InputError(
    'not-this-format',
    `this is not GeoJSON: expected ${expected}, got ${issue.received}`,
    {
      path: [...base, ...path],
    },
  );
}

/**
 * A GeoJSON position, [longitude, latitude, altitude?], as numbers with names.
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
  const fault = positionFault(lat, lon);
  if (fault !== undefined) throw new InputError('impossible-position', fault, { path });
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
