import { checkOptions, anything, numberFrom, someText } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import { IndexedLine } from '../geodesy/indexed-line.js';
import { positionOf, type Position } from '../geodesy/position.js';
import type { Line, LinePoint } from '../trail/line.js';

/** A named point of a plan. */
export interface Station extends Position {
  readonly name: string;
  /** Metres along the line. */
  readonly along: number;
  /** Planned time, milliseconds since 1970 UTC. */
  readonly time?: number;
}

/** A line to keep to, with named points. A value: it does not change. */
export interface Plan {
  readonly name?: string;
  readonly line: IndexedLine;
  /** In order along the line. */
  readonly stations: readonly Station[];
  /** Metres to both sides of the line within which the user keeps to it. */
  readonly corridor: number;
}

/** A named point to be placed on the line of a plan. */
export type GivenStation = Position & {
  readonly name?: string;
  readonly time?: number;
  readonly along?: number;
};

/** Options of `planFrom`. */
export interface PlanOptions {
  /** Default: the name of the line. */
  readonly name?: string;
  /**
   * Named points near the line, with planned times where there are any. Each is at the place of the line nearest to it:
   * where the line passes several times, the passage nearest to `along` in metres, else the first after the station
   * before. Default: the named points of the line.
   */
  readonly stations?: Iterable<GivenStation>;
  /** Metres to both sides of the line, 1 to 10 000. Default 20. */
  readonly corridor?: number;
}

/** Metres from the line within which a station is a part of the plan, at least; twice the corridor if that is more. */
const NEAR = 100;

/** Metres from the line within which a point may be a station, for a corridor. */
export function stationReach(corridor: number): number {
  return Math.max(NEAR, 2 * corridor);
}

/**
 * Makes a plan of a line, such as a route or a track of a file. Its parts are one line, in their order; repeated points
 * count once.
 *
 * @throws {InputError} for a line without two different points, an impossible position, a station that is not near the
 *   line, stations with falling times, and a misspelt option.
 */
export function planFrom(line: Line, options: PlanOptions = {}): Plan {
  checkOptions('planFrom', options, {
    name: someText,
    stations: anything,
    corridor: numberFrom(1, 10_000, 'metres'),
  });
  const points = line.parts.flat();
  for (const point of points) positionOf(point);
  const indexed = new IndexedLine(points);
  const { corridor = 20, name = line.name } = options;
  const given = [...(options.stations ?? points.flatMap(namedPoint))];
  return Object.freeze({
    ...(name !== undefined && { name }),
    line: indexed,
    stations: Object.freeze(stationsOn(indexed, given, stationReach(corridor))),
    corridor,
  });
}

function stationsOn(line: IndexedLine, given: readonly GivenStation[], metres: number): Station[] {
  const stations: Station[] = [];
  given.forEach((point, i) => {
    const name = point.name ?? String(i + 1);
    const places = line.near(positionOf(point), metres);
    const least = places.reduce((min, place) => Math.min(min, place.distance), Infinity);
    const after = stations.at(-1)?.along ?? -1;
    // A line that passes several times: the first passage after the station before.
    const close = places.filter((place) => place.distance <= least + 1);
    const { along: wanted } = point;
    const place =
      wanted === undefined
        ? (close.find(({ along }) => along > after) ?? close.at(-1))
        : close.toSorted((a, b) => Math.abs(a.along - wanted) - Math.abs(b.along - wanted))[0];
    if (place === undefined)
      throw new InputError(
        'bad-value',
        `station "${name}" is not within ${metres} m of the line of the plan`,
      );
    const { lat, lon, along } = place;
    stations.push({ name, lat, lon, along, ...(point.time !== undefined && { time: point.time }) });
  });
  stations.sort((a, b) => a.along - b.along);
  const timed = stations.filter((station) => station.time !== undefined);
  timed.forEach(({ name, time = 0 }, i) => {
    if (time < (timed[i - 1]?.time ?? -Infinity))
      throw new InputError('bad-value', `station "${name}" is planned before the one that comes before it`);
  });
  return stations;
}

/** The point as a station, if it has a name. */
function namedPoint({ lat, lon, extras = {} }: LinePoint): { lat: number; lon: number; name: string }[] {
  const name = Object.entries(extras).find(([key]) => key.endsWith('}name'))?.[1];
  return name === undefined ? [] : [{ lat, lon, name }];
}
