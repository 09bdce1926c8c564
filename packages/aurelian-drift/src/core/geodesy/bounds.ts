import { metresPerDegree } from './local-scale.js';
import { formatValue } from '../check/number.js';
import { placeProblem, type Position } from './position.js';
import { wrapLongitude } from './wgs84.js';

/**
 * The smallest box around positions: [west, south, east, north] in degrees. Where west > east the box
 * spans the date line.
 */
export type Bounds = readonly [west: number, south: number, east: number, north: number];

/** Rule for bounds of an app. Returns the problem in words, or `undefined`. */
export function boundsProblem(value: unknown): string | undefined {
  const expected = 'must be [west, south, east, north] in degrees';
  if (!Array.isArray(value) || value.length !== 4 || !value.every((part) => Number.isFinite(part)))
    return `${expected}, got ${formatValue(value)}`;
  const [west, south, east, north] = value as [number, number, number, number];
  const problem = placeProblem({ lat: south, lon: west }) ?? placeProblem({ lat: north, lon: east });
  if (problem !== undefined) return `${expected}: ${problem}`;
  return south > north ? `${expected}: south ${south} is north of ${north}` : undefined;
}

/** Computes `Bounds` from positions, one at a time in the order of the path. */
export class BoundsGatherer {
  #west = NaN;
  #east = NaN;
  #south = NaN;
  #north = NaN;

  add(lat: number, lon: number): void {
    if (Number.isNaN(this.#west)) {
      this.#west = this.#east = lon;
      this.#south = this.#north = lat;
      return;
    }
    if (lat < this.#south) this.#south = lat;
    if (lat > this.#north) this.#north = lat;
    if (spans(this.#west, this.#east, lon)) return;
    // The box grows on the side where it grows least; the numbers themselves stay unchanged.
    const eastward = turned(lon - this.#east);
    const westward = turned(this.#west - lon);
    if (eastward <= westward) this.#east = lon;
    else this.#west = lon;
  }

  /** `undefined` before the first position. */
  get bounds(): Bounds | undefined {
    return Number.isNaN(this.#west) ? undefined : [this.#west, this.#south, this.#east, this.#north];
  }
}

/** Difference of two longitudes as degrees eastwards. */
function turned(difference: number): number {
  return difference < 0 ? difference + 360 : difference;
}

function spans(west: number, east: number, lon: number): boolean {
  return west <= east ? lon >= west && lon <= east : lon >= west || lon <= east;
}

/** Bounds of positions; `undefined` for none. */
export function boundsOf(positions: Iterable<Position>): Bounds | undefined {
  const gatherer = new BoundsGatherer();
  for (const { lat, lon } of positions) gatherer.add(lat, lon);
  return gatherer.bounds;
}

/** The box around boxes; `undefined` for none. */
export function boundsAround(boxes: Iterable<Bounds | undefined>): Bounds | undefined {
  const gatherer = new BoundsGatherer();
  for (const box of boxes) {
    if (box === undefined) continue;
    const [west, south, east, north] = box;
    // By the middle too: the gatherer goes the shorter way round, and a box may be wider than half the earth.
    const wide = turned(east - west);
    for (const share of [0, 0.34, 0.67, 1])
      gatherer.add(south, share === 1 ? east : wrapLongitude(west + share * wide));
    gatherer.add(north, east);
  }
  return gatherer.bounds;
}

/** Whether a position is inside the box or on its edge. */
export function boundsContain(bounds: Bounds, { lat, lon }: Position): boolean {
  const [west, south, east, north] = bounds;
  if (!(lat >= south && lat <= north)) return false;
  return spans(west, east, lon);
}

/** A box as boxes whose west edge is west of their east edge: two where it spans the date line. */
export function plainBoxes([west, south, east, north]: Bounds): Bounds[] {
  if (west <= east) return [[west, south, east, north]];
  return [
    [west, south, 180, north],
    [-180, south, east, north],
  ];
}

/** Box around a position, up to the whole earth. */
export function boxAround(at: Position, metres: number): Bounds {
  const scale = metresPerDegree(at.lat);
  const [wide, high] = [metres / scale.east, metres / scale.north];
  const [south, north] = [Math.max(-90, at.lat - high), Math.min(90, at.lat + high)];
  if (!(wide < 90)) return [-180, south, 180, north];
  return [wrapLongitude(at.lon - wide), south, wrapLongitude(at.lon + wide), north];
}
