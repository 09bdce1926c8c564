import * as v from 'valibot';
import { InputError } from '../check/input-error.js';
import { coordinatesOf, featuresOf } from '../formats/geojson/geojson.js';
import type { Position } from '../geodesy/position.js';
import { TURNS } from './turns.js';
import { NoWayError, type Way } from './way.js';

/**
 * Ways as a GeoJSON FeatureCollection (RFC 7946): a LineString each, with the rest as properties, best first. Other
 * programs draw it; `waysFrom` reads it.
 */
export function waysToGeoJson(ways: readonly Way[]): object {
  return {
    type: 'FeatureCollection',
    features: ways.map(({ line, via, steps, ...properties }) => ({
      type: 'Feature',
      geometry: { type: 'LineString', coordinates: line.parts.flat().map(pair) },
      properties: {
        kind: 'route',
        ...properties,
        via: via.map(pair),
        steps: steps.map(({ at, ...step }) => ({ ...step, at: pair(at) })),
      },
    })),
  };
}

/** The answer that there is no way, as a collection without features. */
export function noWayToGeoJson({ kind, message, nearest, metres }: NoWayError): object {
  return {
    type: 'FeatureCollection',
    features: [],
    noWay: { kind, message, ...(nearest !== undefined && { nearest: pair(nearest) }), metres },
  };
}

const Amount = v.pipe(v.number(), v.minValue(0));
const Pair = v.tuple([
  v.pipe(v.number(), v.minValue(-180), v.maxValue(180)),
  v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
]);
const Step = v.object({
  turn: v.picklist(TURNS),
  at: Pair,
  along: Amount,
  metres: Amount,
  seconds: Amount,
  course: v.pipe(v.number(), v.minValue(0), v.maxValue(360)),
  name: v.optional(v.string()),
  kind: v.optional(v.string()),
});
const Properties = v.object({
  by: v.string(),
  metres: Amount,
  seconds: Amount,
  walk: v.tuple([Amount, Amount]),
  via: v.array(Pair),
  steps: v.array(Step),
  enters: v.array(v.string()),
});
const NoWay = v.object({
  kind: v.picklist(['no-way', 'off-network']),
  message: v.string(),
  nearest: v.optional(Pair),
  metres: v.optional(Amount),
});

/**
 * Reads the ways of a parsed document of `waysToGeoJson`.
 *
 * @throws {NoWayError} if it says that there is none.
 * @throws {InputError} with the path of an invalid part.
 */
export function waysFrom(document: unknown): Way[] {
  const { noWay } = (document ?? {}) as { noWay?: unknown };
  if (noWay !== undefined) {
    const { kind, message, nearest, metres } = parsed(NoWay, noWay, ['noWay']);
    throw new NoWayError(kind, message, nearest && positionOf(nearest), metres);
  }
  return featuresOf(document).map(({ geometry, properties, path, coordinatesPath }) => {
    if (geometry?.type !== 'LineString')
      throw new InputError(
        'bad-value',
        `a way is a LineString, not a ${geometry?.type ?? 'feature without geometry'}`,
        {
          path,
        },
      );
    const { via, steps, ...rest } = parsed(Properties, properties, [...path, 'properties']);
    return {
      ...rest,
      line: { parts: [coordinatesOf(geometry.coordinates, coordinatesPath)] },
      via: via.map(positionOf),
      steps: steps.map(({ at, name, kind, ...step }) => ({
        ...step,
        at: positionOf(at),
        ...(name !== undefined && { name }),
        ...(kind !== undefined && { kind }),
      })),
    };
  });
}

function parsed<Schema extends v.GenericSchema>(
  schema: Schema,
  value: unknown,
  path: readonly (string | number)[],
): v.InferOutput<Schema> {
  const result = v.safeParse(schema, value, { abortEarly: true });
  if (result.success) return result.output;
  const [issue] = result.issues;
  const keys = issue.path?.map((item) => item.key as string | number) ?? [];
  throw new InputError('bad-value', `expected ${issue.expected}, got ${issue.received}`, {
    path: [...path, ...keys],
  });
}

function pair({ lat, lon }: Position): [number, number] {
  return [Number(lon.toFixed(7)), Number(lat.toFixed(7))];
}

function positionOf([lon, lat]: readonly [number, number]): Position {
  return { lat, lon };
}
