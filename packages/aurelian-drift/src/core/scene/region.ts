import type { Camera, Pixel } from './camera.js';

/** A part of a picture: [left, top, right, bottom] in pixels. */
export type Region = readonly [x1: number, y1: number, x2: number, y2: number];

/** The whole picture of a camera. */
export function wholeOf({ width, height }: Camera): Region {
  return [0, 0, width, height];
}

/** Whether a pixel is in the picture of a camera. */
export function isInPicture({ x, y }: Pixel, { width, height }: Camera): boolean {
  return x >= 0 && y >= 0 && x <= width && y <= height;
}

/** The smallest region around both. */
export function regionAround(a: Region | undefined, b: Region): Region {
  if (a === undefined) return b;
  return [Math.min(a[0], b[0]), Math.min(a[1], b[1]), Math.max(a[2], b[2]), Math.max(a[3], b[3])];
}

/** A region that is wider by a number of pixels on each side. */
export function widened([x1, y1, x2, y2]: Region, by: number): Region {
  return [x1 - by, y1 - by, x2 + by, y2 + by];
}

/** Intersection of two regions; `undefined` when it is empty. */
export function sharedRegion(a: Region, b: Region): Region | undefined {
  const shared: Region = [
    Math.max(a[0], b[0]),
    Math.max(a[1], b[1]),
    Math.min(a[2], b[2]),
    Math.min(a[3], b[3]),
  ];
  return shared[0] < shared[2] && shared[1] < shared[3] ? shared : undefined;
}

/**
 * Bounds on the Mercator square, [min x, min y, max x, max y], of a region of a picture, in the copy of the world of
 * the camera's centre: x may be outside 0…1.
 */
export function worldBoxOf(
  camera: Camera,
  [x1, y1, x2, y2]: Region,
): readonly [number, number, number, number] {
  const corners = [
    camera.worldAt(x1, y1),
    camera.worldAt(x2, y1),
    camera.worldAt(x1, y2),
    camera.worldAt(x2, y2),
  ];
  const xs = corners.map(({ x }) => x);
  const ys = corners.map(({ y }) => y);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}
