import * as v from 'valibot';
import { InputError } from '../../check/input-error.js';
import { ADDRESS_ENTRIES, OptionalText } from '../../place/address-schema.js';
import { ADDRESS_PARTS, PLACE_LEVELS, type PlaceAnswer } from '../../place/place.js';
import { coordinateOf, featuresOf } from './geojson.js';

/** Converts answers to a GeoJSON document, each a point with the other fields as properties. */
export function answersToGeoJson(answers: readonly PlaceAnswer[]): object {
  return {
    type: 'FeatureCollection',
    features: answers.map(({ lat, lon, id, ...properties }) => ({
      type: 'Feature',
      ...(id !== undefined && { id }),
      geometry: { type: 'Point', coordinates: [lon, lat] },
      properties,
    })),
  };
}

const Amount = v.optional(v.pipe(v.number(), v.minValue(0)));
const Properties = v.object({
  kind: v.string(),
  level: v.picklist(PLACE_LEVELS),
  name: OptionalText,
  text: v.pipe(v.string(), v.nonEmpty()),
  ...ADDRESS_ENTRIES,
  relation: v.optional(v.picklist(['at', 'off'])),
  distance: Amount,
  bearing: v.optional(v.pipe(v.number(), v.minValue(0), v.maxValue(360))),
  nearest: v.optional(v.object({ lat: v.number(), lon: v.number() })),
  estimated: v.optional(v.literal(true)),
  language: OptionalText,
  fallback: v.optional(v.array(v.picklist(['name', ...ADDRESS_PARTS]))),
  match: v.optional(v.picklist(['whole', 'beginning', 'misspelt'])),
  prominence: Amount,
  details: v.optional(v.record(v.string(), v.unknown())),
});

/**
 * Reads the answers of a parsed document of `answersToGeoJson`. Unknown properties are left out.
 *
 * @throws {InputError} with the path of an invalid part.
 */
export function answersFrom(document: unknown): PlaceAnswer[] {
  if ((document as { type?: unknown } | null)?.type !== 'FeatureCollection')
    throw new InputError('not-this-format', 'this is not a GeoJSON FeatureCollection');
  return featuresOf(document).map(({ id, geometry, properties, path, coordinatesPath }) => {
    if (geometry?.type !== 'Point')
      throw new InputError(
        'bad-value',
        `an answer is a Point, not a ${geometry?.type ?? 'feature without geometry'}`,
        { path },
      );
    const { lat, lon } = coordinateOf(geometry.coordinates, coordinatesPath);
    const result = v.safeParse(Properties, properties, { abortEarly: true });
    if (!result.success) {
      const [issue] = result.issues;
      const keys = issue.path?.map((item) => item.key as string | number) ?? [];
      throw new InputError('bad-value', `expected ${issue.expected}, got ${issue.received}`, {
        path: [...path, 'properties', ...keys],
      });
    }
    return {
      ...(id !== undefined && { id }),
      ...(result.output as Omit<PlaceAnswer, 'lat' | 'lon'>),
      lat,
      lon,
    };
  });
}
