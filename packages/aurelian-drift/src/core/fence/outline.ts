import Flatbush from 'flatbush';
import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** A corrected outline with a list of the corrections, or the reason why a correction is not safe. */
export type MendedOutline =
  { readonly ring: readonly Position[]; readonly mended: readonly string[] } | { readonly problem: string };

/**
 * Corrects an outline where that is safe: it is closed in any case, and repeated points and spikes are removed. An
 * outline that crosses itself is refused, because its inside is ambiguous.
 */
export function mendOutline(given: readonly Position[]): MendedOutline {
  const mended: string[] = [];
  const [first] = given;
  const last = given.at(-1);
  const closed = given.length > 1 && first !== undefined && last !== undefined && same(first, last);
  if (!closed) mended.push('was not closed');
  const ring = withoutSpikes(closed ? given.slice(0, -1) : given, mended);
  if (ring.length < 3) return { problem: 'has an outline with fewer than three points' };
  const crossed = selfCrossing(ring);
  return crossed === undefined
    ? { ring, mended }
    : { problem: `has an outline that crosses itself at ${placeText(crossed)}` };
}

/**
 * An open ring without repeated points and spikes, which are counted. Each point is added to the end and can be removed
 * once, so the cost is linear.
 */
function withoutSpikes(given: readonly Position[], mended: string[]): Position[] {
  const ring: Position[] = [];
  /** Removes points from the end that are needless before `next`. */
  const tidy = (next: Position) => {
    for (;;) {
      const at = ring.at(-1);
      const before = ring.at(-2);
      if (at === undefined) return;
      if (same(at, next)) ring.pop();
      else if (before !== undefined && same(before, next)) {
        mended.push(`had a spike at ${placeText(at)}`);
        ring.length -= 2;
      } else return;
    }
  };
  for (const next of given) {
    tidy(next);
    ring.push(next);
  }
  // The ring is closed: the first point follows the last.
  let start = 0;
  while (ring.length - start > 2) {
    const [first, second] = [ring[start] as Position, ring[start + 1] as Position];
    const [last, before] = [ring.at(-1) as Position, ring.at(-2) as Position];
    if (same(last, first)) ring.pop();
    else if (same(before, first)) {
      mended.push(`had a spike at ${placeText(last)}`);
      ring.pop();
    } else if (same(last, second)) {
      mended.push(`had a spike at ${placeText(first)}`);
      start++;
    } else break;
  }
  return ring.slice(start);
}

function same(a: Position, b: Position): boolean {
  return a.lat === b.lat && wrapLongitude(a.lon - b.lon) === 0;
}

function placeText({ lat, lon }: Position): string {
  return `${lat}, ${lon}`;
}

/** First self-crossing of an outline; neighbouring edges only meet. */
function selfCrossing(ring: readonly Position[]): Position | undefined {
  let lon = 0;
  const corners = ring.map(
    (at, i) => [(lon = i === 0 ? at.lon : lon + wrapLongitude(at.lon - lon)), at.lat] as const,
  );
  const edges = ring.map((from, at) => {
    const [x, y] = corners[at] as readonly [number, number];
    const to = ring[(at + 1) % ring.length] as Position;
    const [dx, dy] = [wrapLongitude(to.lon - from.lon), to.lat - from.lat];
    return { at, x, y, dx, dy };
  });
  const boxes = new Flatbush(edges.length);
  for (const { x, y, dx, dy } of edges)
    boxes.add(Math.min(x, x + dx), Math.min(y, y + dy), Math.max(x, x + dx), Math.max(y, y + dy));
  boxes.finish();
  for (const a of edges) {
    // Each pair is visited once, from its earlier edge.
    const near = boxes.search(
      Math.min(a.x, a.x + a.dx),
      Math.min(a.y, a.y + a.dy),
      Math.max(a.x, a.x + a.dx),
      Math.max(a.y, a.y + a.dy),
      (at) => at > a.at + 1,
    );
    for (const at of near) {
      const b = edges[at] as (typeof edges)[number];
      const turn = a.dx * b.dy - a.dy * b.dx; // 0 side by side
      if (b.at - a.at === ring.length - 1 || turn === 0) continue;
      const [ox, oy] = [b.x - a.x, b.y - a.y];
      const t = (ox * b.dy - oy * b.dx) / turn;
      const u = (ox * a.dy - oy * a.dx) / turn;
      if (t > 0 && t < 1 && u > 0 && u < 1)
        return { lat: a.y + t * a.dy, lon: wrapLongitude(a.x + t * a.dx) };
    }
  }
  return undefined;
}
