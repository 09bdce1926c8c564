import Flatbush from 'flatbush';
import { plainBoxes, type Bounds } from '../geodesy/bounds.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { wrapLongitude } from '../geodesy/wgs84.js';

/** Units of stored coordinates in a degree: 1e-7 degrees are about 1 cm. */
export const UNITS = 1e7;

/** A search for boxes; `undefined` has none. */
export type BoxIndex = Flatbush | undefined;

/** An index of plain boxes. */
export function boxIndex(boxes: readonly Bounds[]): BoxIndex {
  if (boxes.length === 0) return undefined;
  const index = new Flatbush(boxes.length, 16, Int32Array);
  for (const [west, south, east, north] of boxes)
    index.add(
      Math.floor(west * UNITS),
      Math.floor(south * UNITS),
      Math.ceil(east * UNITS),
      Math.ceil(north * UNITS),
    );
  index.finish();
  return index;
}

/** Numbers of the boxes that meet a box; one may come twice where it spans the date line. */
export function searchBoxes(index: BoxIndex, bounds: Bounds): number[] {
  return index === undefined
    ? []
    : plainBoxes(bounds).flatMap(([west, south, east, north]) =>
        index.search(west * UNITS, south * UNITS, east * UNITS, north * UNITS),
      );
}

/** Box around a position, up to the whole earth. */
export function boxAround(at: Position, metres: number): Bounds {
  const scale = metresPerDegree(at.lat);
  const [wide, high] = [metres / scale.east, metres / scale.north];
  const [south, north] = [Math.max(-90, at.lat - high), Math.min(90, at.lat + high)];
  if (!(wide < 90)) return [-180, south, 180, north];
  return [wrapLongitude(at.lon - wide), south, wrapLongitude(at.lon + wide), north];
}
