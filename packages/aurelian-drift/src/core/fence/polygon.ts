import { boundsOf, type Bounds } from '../geodesy/bounds.js';
import { metresPerDegree, squareToSegment } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { EQUATORIAL_RADIUS, RADIANS, wrapLongitude } from '../geodesy/wgs84.js';
import type { FenceShape, PolygonFence } from './fence.js';
import type { FenceKind } from './fence-kind.js';
import { placesProblem } from './points-problem.js';

/**
 * Outlines in longitude and latitude, minus their holes. Every edge takes the shorter way around the earth, so an
 * outline may lie across the date line and around a pole. A position is inside if the number of edges between it and
 * the north pole is odd; an outline whose edges lead once around the earth contains the nearer pole. Parts may overlap:
 * a position in any part is inside.
 */
export function polygonShape(fence: PolygonFence): FenceShape {
  const parts = fence.parts.map((part) => part.map(ringOf));
  const rings = parts.flat();
  const [only] = rings;
  return {
    size: Math.sqrt(Math.max(...fence.parts.flat().map(areaOf)) / Math.PI),
    bounds: boundsWithPoles(fence.parts.flat()),
    depth(lat, lon) {
      if (rings.length === 1 && only !== undefined) return depthIn(only, lat, lon);
      return deepest(parts, (ring) => depthIn(ring, lat, lon));
    },
    cuts(from, to) {
      if (rings.length === 1 && only !== undefined) return cutsOf(only, from, to).sort((a, b) => a - b);
      // A cut of a ring is an edge of the fence only where it leads into or out of the whole.
      const inside = new Set(rings.filter((ring) => depthIn(ring, from.lat, from.lon) >= 0));
      const isInside = () => deepest(parts, (ring) => (inside.has(ring) ? 1 : -1)) > 0;
      let before = isInside();
      return rings
        .flatMap((ring) => cutsOf(ring, from, to).map((at) => ({ ring, at })))
        .sort((a, b) => a.at - b.at)
        .filter(({ ring }) => {
          if (!inside.delete(ring)) inside.add(ring);
          const changed = isInside() !== before;
          if (changed) before = !before;
          return changed;
        })
        .map(({ at }) => at);
    },
  };
}

/** Depth inside the outline and outside the holes, in the part where it is largest. */
function deepest(parts: readonly (readonly Ring[])[], depthOf: (ring: Ring) => number): number {
  const depths = parts.map((rings) =>
    Math.min(...rings.map((ring, i) => (i === 0 ? depthOf(ring) : -depthOf(ring)))),
  );
  return Math.max(...depths);
}

interface Ring {
  /** Four numbers per edge: longitude and latitude of the start, and their differences to the end. */
  readonly edges: Float64Array;
  readonly holdsNorth: boolean;
}

function ringOf(ring: readonly Position[]): Ring {
  return { edges: edgesOf(ring), holdsNorth: holdsNorth(ring) };
}

/** Metres to the nearest edge of a ring, positive inside. */
function depthIn({ edges, holdsNorth }: Ring, lat: number, lon: number): number {
  // Metres per degree at this latitude: the plane is exact near the position, where the edge matters.
  const { east: kx, north: ky } = metresPerDegree(lat);
  let min = Infinity;
  let inside = holdsNorth;
  for (let i = 0; i < edges.length; i += 4) {
    const west = wrapLongitude((edges[i] as number) - lon);
    const east = west + (edges[i + 2] as number);
    const from = (edges[i + 1] as number) - lat;
    const rise = edges[i + 3] as number;
    if (west > 0 !== east > 0 && from - (west * rise) / (east - west) > 0) inside = !inside;
    const gap = squareToSegment(west * kx, from * ky, (edges[i + 2] as number) * kx, rise * ky);
    if (gap < min) min = gap;
  }
  return inside ? Math.sqrt(min) : -Math.sqrt(min);
}

/** Fractions at which a step cuts a ring, in no order. */
function cutsOf({ edges }: Ring, from: Position, to: Position): number[] {
  const dx = wrapLongitude(to.lon - from.lon);
  const dy = to.lat - from.lat;
  const cuts: number[] = [];
  for (let i = 0; i < edges.length; i += 4) {
    const ax = wrapLongitude((edges[i] as number) - from.lon);
    const ay = (edges[i + 1] as number) - from.lat;
    const bx = ax + (edges[i + 2] as number);
    const by = ay + (edges[i + 3] as number);
    // Sides of the step on which the ends of an edge lie; a vertex on the step belongs to one side only.
    const sideA = dx * ay - dy * ax;
    const sideB = dx * by - dy * bx;
    if (sideA > 0 === sideB > 0) continue;
    const u = sideA / (sideA - sideB);
    const along = Math.abs(dx) > Math.abs(dy) ? (ax + u * (bx - ax)) / dx : (ay + u * (by - ay)) / dy;
    if (along > 0 && along <= 1) cuts.push(along);
  }
  return cuts;
}

function edgesOf(ring: readonly Position[]): Float64Array {
  const edges: number[] = [];
  ring.forEach((from, i) => {
    const to = ring[(i + 1) % ring.length] as Position;
    const [dx, dy] = [wrapLongitude(to.lon - from.lon), to.lat - from.lat];
    // A ring that repeats its first vertex has an edge without length.
    if (dx !== 0 || dy !== 0) edges.push(from.lon, from.lat, dx, dy);
  });
  return Float64Array.from(edges);
}

/** Sum of the longitude differences of the edges of a ring: 360 around a pole, otherwise 0. */
function turnOf(ring: readonly Position[]): number {
  return Math.abs(eachEdge(ring, (from, to) => wrapLongitude(to.lon - from.lon)));
}

/** Whether a ring surrounds the north pole. */
function holdsNorth(ring: readonly Position[]): boolean {
  return turnOf(ring) > 180 && eachEdge(ring, ({ lat }) => lat) > 0;
}

/**
 * Area in square metres on a sphere with the radius of the equator; exact enough for a size. The area between an edge
 * and the equator is its longitude difference times the mean sine of its latitudes; around a pole it is subtracted from
 * the hemisphere.
 */
function areaOf(ring: readonly Position[]): number {
  const below = Math.abs(
    eachEdge(ring, (from, to) => {
      const turn = wrapLongitude(to.lon - from.lon) * RADIANS;
      return (turn * (Math.sin(from.lat * RADIANS) + Math.sin(to.lat * RADIANS))) / 2;
    }),
  );
  return (turnOf(ring) > 180 ? 2 * Math.PI - below : below) * EQUATORIAL_RADIUS ** 2;
}

function eachEdge(ring: readonly Position[], measure: (from: Position, to: Position) => number): number {
  return ring.reduce((sum, from, i) => sum + measure(from, ring[(i + 1) % ring.length] as Position), 0);
}

function boundsWithPoles(rings: readonly (readonly Position[])[]): Bounds {
  const [west, south, east, north] = boundsOf(rings.flat()) ?? [0, 0, 0, 0];
  const around = rings.filter((ring) => turnOf(ring) > 180);
  if (around.length === 0) return [west, south, east, north];
  return around.some(holdsNorth) ? [-180, south, 180, 90] : [-180, -90, 180, north];
}

export const POLYGON: FenceKind<PolygonFence> = {
  rules: { parts: (value) => placesProblem([value].flat(2), 3) },
  shape: polygonShape,
};
