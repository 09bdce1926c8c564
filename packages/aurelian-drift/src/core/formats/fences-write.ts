import type { Fence, PolygonPart } from '../fence/fence.js';
import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

type Coordinate = readonly [lon: number, lat: number];

/**
 * Converts fences to a GeoJSON FeatureCollection (RFC 7946) that `fencesFrom` reads: rings closed, outlines
 * counterclockwise and holes clockwise, other fields as properties.
 */
export function fencesToGeoJson(fences: Iterable<Fence>): object {
  const features = Array.from(fences, (fence) => {
    const { id, name, linger, certainty, when } = fence;
    const { hours, weekdays, dates, timeZone } = when ?? {};
    const properties = {
      name,
      ...(fence.kind === 'circle' && { radius: fence.radius }),
      ...(fence.kind === 'corridor' && { halfWidth: fence.halfWidth }),
      linger,
      certainty,
      ...(when !== undefined && { when: known({ hours, weekdays, dates, timeZone }) }),
    };
    return { type: 'Feature', id, geometry: geometryOf(fence), properties: known(properties) };
  });
  return { type: 'FeatureCollection', features };
}

function geometryOf(fence: Fence): object {
  switch (fence.kind) {
    case 'circle':
      return { type: 'Point', coordinates: coordinate(fence.centre) };
    case 'corridor':
      return oneOrMany(
        'LineString',
        fence.lines.map((line) => line.map(coordinate)),
      );
    case 'polygon':
      return oneOrMany('Polygon', fence.parts.map(ringsOf));
  }
}

function oneOrMany(type: string, parts: readonly unknown[]): object {
  return parts.length === 1 ? { type, coordinates: parts[0] } : { type: `Multi${type}`, coordinates: parts };
}

function ringsOf(part: PolygonPart): Coordinate[][] {
  return part.map((ring, i) => {
    const closed = [...ring, ring[0] as Position].map(coordinate);
    return isCounterclockwise(ring) === (i === 0) ? closed : closed.toReversed();
  });
}

function isCounterclockwise(ring: readonly Position[]): boolean {
  const [first] = ring as readonly [Position];
  const corners = ring.map(({ lat, lon }) => [wrapLongitude(lon - first.lon), lat - first.lat] as const);
  const doubled = corners.reduce((sum, [x, y], i) => {
    const [nextX, nextY] = corners[(i + 1) % corners.length] as readonly [number, number];
    return sum + x * nextY - nextX * y;
  }, 0);
  return doubled > 0;
}

function coordinate({ lat, lon }: Position): Coordinate {
  return [lon, lat];
}

function known(values: object): object {
  return Object.fromEntries(Object.entries(values).filter(([, value]) => value !== undefined));
}
