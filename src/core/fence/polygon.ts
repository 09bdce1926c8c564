import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { EQUATORIAL_RADIUS, RADIANS, wrapLongitude } from '../geodesy/wgs84.js';
import type { FenceShape, PolygonFence } from './fence.js';

/**
 * Outlines in longitude and latitude. Longitudes are taken relative to the first vertex, so that an outline
 * may lie across the date line; it must be narrower than 360° and hold no pole.
 */
export function polygonShape(fence: PolygonFence): FenceShape {
  const origin = fence.parts[0]?.[0]?.[0] ?? { lat: 0, lon: 0 };
  const rings = fence.parts.flatMap((part) => part.map((ring) => flatRing(ring, origin.lon)));
  const east = (lon: number) => wrapLongitude(lon - origin.lon);

  return {
    size: Math.sqrt(areaOf(rings, origin.lat) / Math.PI),
    depth(lat, lon) {
      const x = east(lon);
      // Metres a degree at this latitude: the plane is right near the point, where the edge matters.
      const { east: kx, north: ky } = metresPerDegree(lat);
      let least = Infinity;
      let inside = false;
      for (const ring of rings) {
        for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
          const ax = ((ring[j] as number) - x) * kx;
          const ay = ((ring[j + 1] as number) - lat) * ky;
          const bx = ((ring[i] as number) - x) * kx;
          const by = ((ring[i + 1] as number) - lat) * ky;
          if (ay > 0 !== by > 0 && ax - (ay * (bx - ax)) / (by - ay) > 0) inside = !inside;
          const dx = bx - ax;
          const dy = by - ay;
          const square = dx * dx + dy * dy;
          const t = square === 0 ? 0 : Math.max(0, Math.min(1, -(ax * dx + ay * dy) / square));
          const ex = ax + t * dx;
          const ey = ay + t * dy;
          const gap = ex * ex + ey * ey;
          if (gap < least) least = gap;
        }
      }
      return inside ? Math.sqrt(least) : -Math.sqrt(least);
    },
    cuts(from, to) {
      const x1 = east(from.lon);
      const dx = wrapLongitude(to.lon - from.lon);
      const dy = to.lat - from.lat;
      const cuts: number[] = [];
      for (const ring of rings) {
        for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
          const ax = (ring[j] as number) - x1;
          const ay = (ring[j + 1] as number) - from.lat;
          const bx = (ring[i] as number) - x1;
          const by = (ring[i + 1] as number) - from.lat;
          // Sides of the step's line that the edge's ends lie on; a vertex on the line belongs to one side only.
          const sideA = dx * ay - dy * ax;
          const sideB = dx * by - dy * bx;
          if (sideA > 0 === sideB > 0) continue;
          const u = sideA / (sideA - sideB);
          const along = Math.abs(dx) > Math.abs(dy) ? (ax + u * (bx - ax)) / dx : (ay + u * (by - ay)) / dy;
          if (along > 0 && along <= 1) cuts.push(along);
        }
      }
      return cuts.sort((a, b) => a - b);
    },
  };
}

/** lon, lat, lon, lat…, unwrapped vertex by vertex, without a repeated last vertex. */
function flatRing(ring: readonly Position[], originLon: number): Float64Array {
  const last = ring.at(-1);
  const first = ring[0];
  const closed = ring.length > 1 && last?.lat === first?.lat && last?.lon === first?.lon;
  const vertices = closed ? ring.slice(0, -1) : ring;
  const flat = new Float64Array(vertices.length * 2);
  let lon = 0;
  vertices.forEach((vertex, i) => {
    lon = i === 0 ? wrapLongitude(vertex.lon - originLon) : lon + wrapLongitude(vertex.lon - originLon - lon);
    flat[2 * i] = lon;
    flat[2 * i + 1] = vertex.lat;
  });
  return flat;
}

/** Square metres by the shoelace formula at one latitude's scale; good enough for a size. */
function areaOf(rings: readonly Float64Array[], lat: number): number {
  const k = EQUATORIAL_RADIUS * RADIANS;
  let largest = 0;
  for (const ring of rings) {
    let twice = 0;
    for (let i = 0, j = ring.length - 2; i < ring.length; j = i, i += 2) {
      twice += (ring[j] as number) * (ring[i + 1] as number) - (ring[i] as number) * (ring[j + 1] as number);
    }
    largest = Math.max(largest, Math.abs(twice / 2) * k * k * Math.cos(lat * RADIANS));
  }
  return largest;
}
