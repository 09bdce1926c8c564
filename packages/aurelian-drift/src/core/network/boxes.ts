import Flatbush from 'flatbush';
import { plainBoxes, type Bounds } from '../geodesy/bounds.js';

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
