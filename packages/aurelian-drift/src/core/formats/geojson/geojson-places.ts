import { InputError } from '../../check/input-error.js';
import { ADDRESS_PARTS, type Address, type Place, type PlaceShape } from '../../place/place.js';
import { coordinateOf, coordinatesOf, eachFeature, listOf, partsOf, type Feature } from './geojson.js';

/** Places of a document, with the features that were refused. */
export interface GeoJsonPlaces {
  readonly places: readonly Place[];
  /** BCP 47 tag of the plain names, where the document states its `language`. */
  readonly language: string | undefined;
  /** Problems of the refused features, in their order. */
  readonly refused: readonly InputError[];
}

/** Properties with a meaning of their own; the others are the details of a place. */
const OWN = new Set<string>([
  ...ADDRESS_PARTS, 'id', 'kind', 'level', 'name', 'names', 'prominence', 'radius', 'language',
]); // prettier-ignore

/**
 * Reads the places of a parsed GeoJSON document: points, lines and areas with `kind`, `name`, `names` by language, and
 * the parts of an address as properties. An invalid feature is left out and reported; the others are kept.
 *
 * @throws {InputError} when the document is not GeoJSON.
 */
export function placesFrom(document: unknown): GeoJsonPlaces {
  const places: Place[] = [];
  const refused: InputError[] = [];
  const refuse = (error: unknown, path: readonly (string | number)[]) => {
    if (!(error instanceof InputError)) throw error;
    refused.push(error.place.path === undefined ? error.at({ path }) : error);
  };
  for (const feature of eachFeature(document, refuse)) {
    try {
      places.push(placeOf(feature));
    } catch (error) {
      refuse(error, feature.path);
    }
  }
  const { language } = document as { language?: unknown };
  return { places, language: typeof language === 'string' ? language : undefined, refused };
}

function placeOf(feature: Feature): Place {
  const { id, properties, path } = feature;
  const title = textOf(properties['name']) ?? textOf(properties['street']) ?? id ?? 'without a name';
  const { point, shape } = geometryOf(feature, title);
  const address: Address = Object.fromEntries(
    ADDRESS_PARTS.map((part) => [part, textOf(properties[part])]).filter(([, text]) => text !== undefined),
  ) as Address;
  const name = textOf(properties['name']);
  if (name === undefined && Object.keys(address).length === 0)
    throw new InputError('bad-value', 'the feature has neither a name nor a part of an address', {
      path: [...path, 'properties'],
    });
  const kind = textOf(properties['kind']) ?? (address.houseNumber === undefined ? 'place' : 'house');
  const { names, level, prominence, radius } = properties;
  const details = Object.fromEntries(Object.entries(properties).filter(([key]) => !OWN.has(key)));
  return {
    ...point,
    ...address,
    kind,
    ...(id !== undefined && { id }),
    ...(name !== undefined && { name }),
    ...(names !== undefined && { names: namesOf(names, [...path, 'properties', 'names']) }),
    ...(level !== undefined && { level: level as NonNullable<Place['level']> }),
    ...(prominence !== undefined && { prominence: prominence as number }),
    ...(radius !== undefined && { radius: radius as number }),
    ...(shape !== undefined && { shape }),
    ...(Object.keys(details).length > 0 && { details }),
  };
}

/** The representative point of a feature, and its shape when it is more than a point. */
function geometryOf(
  { geometry, path, coordinatesPath }: Feature,
  title: string,
): { point: { lat: number; lon: number }; shape?: PlaceShape } {
  if (geometry === null)
    throw new InputError('bad-value', `"${title}" has no geometry`, { path: [...path, 'geometry'] });
  const { type, coordinates } = geometry;
  if (type === 'Point') return { point: pointOf(coordinateOf(coordinates, coordinatesPath)) };
  if (type === 'LineString' || type === 'MultiLineString') {
    const parts =
      type === 'LineString'
        ? [coordinatesOf(coordinates, coordinatesPath)]
        : partsOf(coordinates, coordinatesPath);
    const longest = parts.toSorted((a, b) => b.length - a.length)[0];
    const middle = longest?.[longest.length >> 1];
    if (middle === undefined)
      throw new InputError('bad-value', `"${title}" is an empty line`, { path: coordinatesPath });
    return { point: pointOf(middle), shape: { kind: 'line', parts } };
  }
  if (type === 'Polygon' || type === 'MultiPolygon') {
    const parts =
      type === 'Polygon'
        ? [partsOf(coordinates, coordinatesPath)]
        : listOf(coordinates, coordinatesPath).map((part, i) => partsOf(part, [...coordinatesPath, i]));
    if (!parts.every((part) => (part[0]?.length ?? 0) >= 3))
      throw new InputError('bad-value', `"${title}" has an outline with fewer than three points`, {
        path: coordinatesPath,
      });
    return { point: middleOf(parts), shape: { kind: 'area', parts } };
  }
  throw new InputError('bad-value', `"${title}" is a ${type}; a place is a point, a line or an area`, {
    path: [...path, 'geometry'],
  });
}

/**
 * The mean of the corners of the largest outline, by the direct way from the first corner, across the date line too.
 */
function middleOf(parts: readonly (readonly (readonly { lat: number; lon: number }[])[])[]): {
  lat: number;
  lon: number;
} {
  const outline = parts.map((part) => part[0] ?? []).toSorted((a, b) => b.length - a.length)[0] ?? [];
  const first = outline[0] as { lat: number; lon: number };
  let [lat, east] = [0, 0];
  for (const corner of outline) {
    lat += corner.lat / outline.length;
    east += (((corner.lon - first.lon + 540) % 360) - 180) / outline.length;
  }
  return { lat, lon: ((first.lon + east + 540) % 360) - 180 };
}

function pointOf({ lat, lon }: { lat: number; lon: number }): { lat: number; lon: number } {
  return { lat, lon };
}

function namesOf(value: unknown, path: readonly (string | number)[]): Record<string, string> {
  const entries =
    typeof value === 'object' && value !== null && !Array.isArray(value) ? Object.entries(value) : undefined;
  if (entries === undefined || entries.some(([, text]) => typeof text !== 'string'))
    throw new InputError('bad-value', 'names must be texts by language tag, like {"en": "Wick"}', { path });
  return Object.fromEntries(entries);
}

/** A number is accepted as a text: house numbers and postal codes are often written so. */
function textOf(value: unknown): string | undefined {
  if (typeof value === 'number') return String(value);
  return typeof value === 'string' && value.trim() !== '' ? value : undefined;
}
