import { InputError } from '../check/input-error.js';
import type { Position } from '../geodesy/position.js';
import type { TrackContent } from '../formats/track-document.js';
import { lineOf } from '../trail/line-of.js';
import type { Waypoint } from '../trail/line.js';
import { planFrom, stationReach, type Plan, type PlanOptions } from './plan.js';

/** Keys of additional data: the width of the corridor at the line, and the place of a station along it, in metres. */
const CORRIDOR = '{urn:aurelian-drift:plan:1}corridor';
const ALONG = '{urn:aurelian-drift:plan:1}along';

/**
 * A plan as content of a file: a route, and its stations as waypoints. `writeGpx`, `writeGeoJson` and `writeKml` save
 * it.
 */
export function planContent(plan: Plan): TrackContent {
  const { name, line, stations, corridor } = plan;
  return {
    ...(name !== undefined && { name }),
    routes: [
      {
        ...(name !== undefined && { name }),
        extras: { [CORRIDOR]: String(corridor) },
        parts: [line.points],
      },
    ],
    waypoints: stations.map(({ along, ...station }) => ({ ...station, extras: { [ALONG]: String(along) } })),
  };
}

/**
 * The plans in a file of tracks: each route, each line without times, and each trail, in this order. Waypoints near a
 * line are its stations.
 *
 * @param options override what the file has.
 * @throws {InputError} if there is no line, and for a line that `planFrom` refuses.
 */
export function plansOf(content: TrackContent, options: PlanOptions = {}): Plan[] {
  const { routes = [], lines = [], trails = [], waypoints = [] } = content;
  const all = [...routes, ...lines, ...trails.map(lineOf)];
  if (all.length === 0) throw new InputError('nothing-inside', 'there is no route, track or line in it');
  return all.map((line) => {
    const corridor = Number(line.extras?.[CORRIDOR] ?? NaN);
    const own = { ...(corridor >= 1 && corridor <= 10_000 && { corridor }), ...options };
    const bare = planFrom(line, { ...own, stations: [] });
    const near = waypoints.flatMap((waypoint) => stationOf(waypoint, bare));
    return near.length === 0 ? planFrom(line, own) : planFrom(line, { stations: near, ...own });
  });
}

function stationOf(
  { lat, lon, name, time, extras = {} }: Waypoint,
  { line, corridor }: Plan,
): (Position & { name?: string; time?: number; along?: number })[] {
  if (line.near({ lat, lon }, stationReach(corridor)).length === 0) return [];
  const along = Number(extras[ALONG] ?? NaN);
  return [
    {
      lat,
      lon,
      ...(name !== undefined && { name }),
      ...(time !== undefined && { time }),
      ...(along >= 0 && { along }),
    },
  ];
}
