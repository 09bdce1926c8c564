import { InputError } from '../check/input-error.js';
import { distance } from './distance.js';
import { positionOf, type Position } from './position.js';
import { EQUATORIAL_RADIUS, RADIANS } from './wgs84.js';

/**
 * Metres per degree of latitude at the radius of the equator: never less than on the ellipsoid, so no cell is smaller
 * than asked.
 */
const DEGREE = EQUATORIAL_RADIUS * RADIANS * 0.9933;

/**
 * Rounds a position for privacy: the middle of its cell in a fixed grid of cells about `metres` wide and high. All
 * positions in a cell give the same result, so asking often reveals no more than asking once. `accuracy` is the largest
 * possible distance from the true position, in metres.
 *
 * @throws {InputError} for an impossible position, or a size outside 1 to 1 000 000 m.
 */
export function rounded(at: Position, metres: number): Position & { readonly accuracy: number } {
  const { lat, lon } = positionOf(at);
  if (!(metres >= 1 && metres <= 1e6))
    throw new InputError('bad-value', `the size to round to must be 1 to 1000000 metres, got ${metres}`);
  const rows = Math.max(1, Math.floor((180 * DEGREE) / metres));
  const high = 180 / rows;
  const row = Math.min(rows - 1, Math.floor((lat + 90) / high));
  const south = row * high - 90;
  // Number of cells around the earth that fit on the side of the row that is nearest to the equator, where they are
  // widest.
  const widest = Math.cos(Math.min(Math.abs(south), Math.abs(south + high)) * RADIANS);
  const columns = Math.max(1, Math.floor((360 * DEGREE * widest) / metres));
  const wide = 360 / columns;
  const column = Math.min(columns - 1, Math.floor((lon + 180) / wide));
  const middle = { lat: south + high / 2, lon: (column + 0.5) * wide - 180 };
  const corners = [south, Math.min(90, south + high)].map((edge) => ({
    lat: edge,
    lon: column * wide - 180,
  }));
  return { ...middle, accuracy: Math.max(...corners.map((corner) => distance(middle, corner))) };
}
