import { boundsAround, type Bounds } from '../geodesy/bounds.js';
import { wrapLongitude } from '../geodesy/wgs84.js';
import type { Camera } from './camera.js';
import { latitudeOf, longitudeOf, mercatorX, mercatorY } from './mercator.js';
import type { Position } from '../geodesy/position.js';

/** A ring or line as x, y, x, y… on the Mercator square, computed once. */
export type WorldRing = Float64Array;

/** Positions on the Mercator square; each on the shorter way from the one before. */
export function worldRing(positions: Iterable<Position>): WorldRing {
  const flat: number[] = [];
  let before: number | undefined;
  for (const { lat, lon } of positions) {
    let x = mercatorX(lon);
    if (before !== undefined) x -= Math.round(x - before);
    before = x;
    flat.push(x, mercatorY(lat));
  }
  return Float64Array.from(flat);
}

/** [min x, min y, max x, max y] of some rings. */
export function worldBox(rings: readonly WorldRing[]): readonly [number, number, number, number] {
  let [x1, y1, x2, y2] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings) {
    for (let i = 0; i < ring.length; i += 2) {
      x1 = Math.min(x1, ring[i] as number);
      x2 = Math.max(x2, ring[i] as number);
      y1 = Math.min(y1, ring[i + 1] as number);
      y2 = Math.max(y2, ring[i + 1] as number);
    }
  }
  return [x1, y1, x2, y2];
}

/** Bounds in degrees around boxes of the Mercator square; `undefined` for none. */
export function boundsOfBoxes(
  boxes: Iterable<readonly [number, number, number, number]>,
): Bounds | undefined {
  return boundsAround(
    Array.from(boxes, ([x1, y1, x2, y2]): Bounds => {
      const [west, east] = [wrapLongitude(longitudeOf(x1)), wrapLongitude(longitudeOf(x2))];
      return [west, latitudeOf(y2), east, latitudeOf(y1)];
    }),
  );
}

/** Distance in pixels below which a point is not drawn: finer detail is invisible. */
const FINEST = 0.6;

/** Rings in pixels, without points that are invisible, or closer than a number of pixels. */
export function pixelRings(rings: readonly WorldRing[], camera: Camera, finest = FINEST): number[][] {
  return rings.map((ring) => {
    const out: number[] = [];
    let lastX = NaN;
    let lastY = NaN;
    // The whole ring is in the copy of the world in which its first point is visible.
    const shift = (ring[0] ?? 0) - camera.worldX;
    const whole = Math.round(shift);
    for (let i = 0; i < ring.length; i += 2) {
      const { x, y } = camera.pixelOfUnwrapped((ring[i] as number) - whole, ring[i + 1] as number);
      const near = Math.abs(x - lastX) < finest && Math.abs(y - lastY) < finest;
      if (near && i !== ring.length - 2) continue;
      out.push(x, y);
      lastX = x;
      lastY = y;
    }
    return out;
  });
}

/**
 * Place of a box of the Mercator square in a picture: [left, top, right, bottom], in the copy nearest to the centre.
 */
export function pixelBox(
  [x1, y1, x2, y2]: readonly [number, number, number, number],
  camera: Camera,
): readonly [number, number, number, number] {
  const middle = camera.pixelOfWorld((x1 + x2) / 2, (y1 + y2) / 2);
  const half = camera.scale / 2;
  const turn = (camera.turn * Math.PI) / 180;
  const [cos, sin] = [Math.abs(Math.cos(turn)), Math.abs(Math.sin(turn))];
  const wide = ((x2 - x1) * cos + (y2 - y1) * sin) * half;
  const high = ((x2 - x1) * sin + (y2 - y1) * cos) * half;
  return [middle.x - wide, middle.y - high, middle.x + wide, middle.y + high];
}
