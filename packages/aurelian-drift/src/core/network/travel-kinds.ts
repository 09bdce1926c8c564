/** Properties of a line, as its GeoJSON feature has them. */
export type LaneProperties = Readonly<Record<string, unknown>>;

/**
 * A rule for a way of travelling: the speed on a line in metres per second, or that it is closed, from its properties
 * and the direction: along the points of the line, or against them.
 */
export type TravelRule = (lane: LaneProperties, direction: 'forward' | 'backward') => number | 'closed';

/** Kinds of travel that ship. */
export const TRAVEL_KINDS = ['foot', 'cycle', 'drive'] as const;
/** Kind of travel that ships. */
export type TravelKind = (typeof TRAVEL_KINDS)[number];

/** Speeds in metres per second by the kind of a line. A line of a kind that is not listed is closed. */
const SPEEDS: Readonly<Record<TravelKind, Readonly<Record<string, number>>>> = {
  foot: { road: 1.4, street: 1.4, lane: 1.4, track: 1.35, path: 1.25, steps: 0.6 },
  cycle: { road: 5, street: 4.5, lane: 4.5, track: 3.3, path: 2.5 },
  drive: { road: 16, street: 8, lane: 8, track: 4 },
};
/** Speed on foot through a ford, metres per second. */
const WADING = 0.6;

/**
 * The rules that ship. They read these properties of a line: `kind` (road, street, lane, track, path, steps; a line
 * without a kind is a lane), `closed` (true), `oneway` (true along its points, −1 against them; walkers are free),
 * `ford` (true: closed to wheels), `speed` (metres per second that nobody exceeds), and `foot`, `cycle` or `drive`
 * (true or false: what the kind of the line says is overruled).
 */
export const TRAVEL_RULES: Readonly<Record<TravelKind, TravelRule>> = {
  foot: (lane) => speedOf(lane, 'foot', lane['ford'] === true ? WADING : Infinity),
  cycle: (lane, direction) => onWheels(lane, direction, 'cycle'),
  drive: (lane, direction) => onWheels(lane, direction, 'drive'),
};

function onWheels(lane: LaneProperties, direction: 'forward' | 'backward', kind: TravelKind) {
  const { oneway } = lane;
  const open = direction === 'forward' ? oneway !== -1 && oneway !== 'reverse' : !oneway || oneway === -1;
  return open && lane['ford'] !== true ? speedOf(lane, kind, Infinity) : 'closed';
}

function speedOf(lane: LaneProperties, kind: TravelKind, most: number): number | 'closed' {
  const speeds = SPEEDS[kind];
  const { kind: name = 'lane', closed, speed = Infinity } = lane;
  const own = typeof name === 'string' && Object.hasOwn(speeds, name) ? speeds[name] : undefined;
  const usual = lane[kind] === true ? (own ?? speeds['track'] ?? 1) : own;
  if (closed === true || lane[kind] === false || usual === undefined) return 'closed';
  return Math.min(usual, most, typeof speed === 'number' && speed > 0 ? speed : Infinity);
}
