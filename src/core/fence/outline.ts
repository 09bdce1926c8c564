import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** An outline put right, with what was done to it; or why that is not safe. */
export type MendedOutline =
  { readonly ring: readonly Position[]; readonly mended: readonly string[] } | { readonly fault: string };

/**
 * Puts an outline right where that is safe: it is closed in any case, a place that it repeats and a spike that it goes out and comes back by are left
 * out. One that crosses itself is refused: which side is inside cannot be known.
 */
export function mendOutline(given: readonly Position[]): MendedOutline {
  const mended: string[] = [];
  const [first] = given;
  const last = given.at(-1);
  const closed = given.length > 1 && first !== undefined && last !== undefined && same(first, last);
  if (!closed) mended.push('was not closed');
  const ring = closed ? given.slice(0, -1) : [...given];
  for (let i = 0; i < ring.length && ring.length > 2;) {
    const [before, at, after] = [-1, 0, 1].map((step) => ring[(i + step + ring.length) % ring.length]) as [Position, Position, Position]; // prettier-ignore
    if (same(at, after)) ring.splice(i, 1);
    else if (same(before, after)) {
      mended.push(`had a spike at ${placeText(at)}`);
      ring.splice(i, 1);
      i = Math.max(0, i - 2);
    } else i++;
  }
  if (ring.length < 3) return { fault: 'has an outline of fewer than three places' };
  const crossed = selfCrossing(ring);
  return crossed === undefined
    ? { ring, mended }
    : { fault: `has an outline that crosses itself at ${placeText(crossed)}` };
}

function same(a: Position, b: Position): boolean {
  return a.lat === b.lat && wrapLongitude(a.lon - b.lon) === 0;
}

function placeText({ lat, lon }: Position): string {
  return `${lat}, ${lon}`;
}

/** Where an outline first crosses itself; edges next to one another only meet. */
function selfCrossing(ring: readonly Position[]): Position | undefined {
  let lon = 0;
  const corners = ring.map(
    (at, i) => [(lon = i === 0 ? at.lon : lon + wrapLongitude(at.lon - lon)), at.lat] as const,
  );
  const edges = ring.map((from, at) => {
    const [x, y] = corners[at] as readonly [number, number];
    const to = ring[(at + 1) % ring.length] as Position;
    const [dx, dy] = [wrapLongitude(to.lon - from.lon), to.lat - from.lat];
    return { at, x, y, dx, dy, west: Math.min(x, x + dx), east: Math.max(x, x + dx) };
  });
  edges.sort((a, b) => a.west - b.west);
  for (const [i, a] of edges.entries()) {
    for (const b of edges.slice(i + 1)) {
      if (b.west > a.east) break;
      const apart = Math.abs(a.at - b.at);
      const turn = a.dx * b.dy - a.dy * b.dx; // 0 side by side
      if (apart === 1 || apart === ring.length - 1 || turn === 0) continue;
      const [ox, oy] = [b.x - a.x, b.y - a.y];
      const t = (ox * b.dy - oy * b.dx) / turn;
      const u = (ox * a.dy - oy * a.dx) / turn;
      if (t > 0 && t < 1 && u > 0 && u < 1)
        return { lat: a.y + t * a.dy, lon: wrapLongitude(a.x + t * a.dx) };
    }
  }
  return undefined;
}
