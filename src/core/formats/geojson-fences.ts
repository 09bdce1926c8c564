import { InputError } from '../check/input-error.js';
import type { Fence, PolygonPart } from '../fence/fence.js';
import { coordinateOf, featuresOf, listOf, partsOf, type Feature } from './geojson.js';

/**
 * Fences of a parsed GeoJSON document: polygons, and points with a `radius` in metres. `id` and `name` are
 * the feature's own or its properties'; what has neither is numbered.
 *
 * @throws {InputError} naming the feature and what it lacks.
 */
export function fencesFrom(document: unknown): Fence[] {
  const fences = featuresOf(document).map(fenceOf);
  if (fences.length === 0) throw new InputError('nothing-inside', 'there is no fence in it');
  return fences;
}

function fenceOf(feature: Feature, index: number): Fence {
  const { geometry, properties, path, coordinatesPath } = feature;
  const id = feature.id ?? textOf(properties['id']) ?? `fence-${index + 1}`;
  const labels = { id, name: textOf(properties['name']) ?? id };
  if (geometry === null) throw unfit(labels.name, 'has no geometry', path);
  switch (geometry.type) {
    case 'Point': {
      const radius = properties['radius'];
      if (typeof radius !== 'number' || !(radius > 0 && radius <= 1e7)) {
        throw new InputError(
          'bad-value',
          `fence "${labels.name}" is a point and needs a radius above 0 m, got ${String(radius)}`,
          { path: [...path, 'properties', 'radius'] },
        );
      }
      const { lat, lon } = coordinateOf(geometry.coordinates, coordinatesPath);
      return { kind: 'circle', ...labels, centre: { lat, lon }, radius };
    }
    case 'Polygon':
      return {
        kind: 'polygon',
        ...labels,
        parts: [partOf(geometry.coordinates, coordinatesPath, labels.name)],
      };
    case 'MultiPolygon': {
      const parts = listOf(geometry.coordinates, coordinatesPath).map((part, i) =>
        partOf(part, [...coordinatesPath, i], labels.name),
      );
      return { kind: 'polygon', ...labels, parts };
    }
    default:
      throw unfit(labels.name, `is a ${geometry.type}`, path);
  }
}

function unfit(name: string, what: string, path: readonly (string | number)[]): InputError {
  const reason = `fence "${name}" ${what}; a fence is a Polygon, or a Point with a radius`;
  return new InputError('bad-value', reason, { path: [...path, 'geometry'] });
}

function partOf(value: unknown, path: readonly (string | number)[], name: string): PolygonPart {
  const rings = partsOf(value, path);
  const short = rings.findIndex((ring) => new Set(ring.map(({ lat, lon }) => `${lat} ${lon}`)).size < 3);
  if (short >= 0 || rings.length === 0) {
    throw new InputError('bad-value', `fence "${name}" has an outline of fewer than three places`, {
      path: [...path, Math.max(0, short)],
    });
  }
  return rings;
}

function textOf(value: unknown): string | undefined {
  if (typeof value === 'number') return String(value);
  return typeof value === 'string' && value !== '' ? value : undefined;
}
