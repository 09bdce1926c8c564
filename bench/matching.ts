import { Trail, ahead, distance, smoothTrail, type Position } from 'aurelian-drift';
import { journey, randomFrom, type Gait, type Reception } from 'aurelian-drift/testing';
import { matchTrail, networkFrom, type Network } from 'aurelian-drift/ways';
import { beside, type Row } from './measure.js';

/*
 * Matching trails to lanes: a town of crooked lanes at least 40 m apart, walks and rides over it, and receivers under
 * trees and in streets. The truth is the list of edges that were travelled.
 */

const WALKS = 10;
/** The first seed. No seed was used for tuning. */
const FIRST_SEED = 97_001;
const HUT = { lat: 44.2, lon: -33.6 };
const SIDE = 24;

interface Town {
  readonly network: Network;
  /** Edges from each corner: the corner at their other end, and the points on the way. */
  readonly exits: readonly {
    readonly to: number;
    readonly points: readonly Position[];
    readonly edge: number;
  }[][];
}

/** Lanes 90 m apart and more, with bends, a fifth of them missing. */
function townOf(seed: number): Town {
  const random = randomFrom(seed);
  const corners = Array.from({ length: SIDE * SIDE }, (_, i) =>
    ahead(
      ahead(ahead(HUT, 90, (i % SIDE) * 110), 0, Math.floor(i / SIDE) * 95),
      random.uniform() * 360,
      random.uniform() * 18,
    ),
  );
  const exits: Town['exits'] = corners.map(() => []);
  const features: object[] = [];
  const add = (a: number, b: number) => {
    if (random.uniform() < 0.2) return;
    const [from, to] = [corners[a] as Position, corners[b] as Position];
    const middle = { lat: (from.lat + to.lat) / 2, lon: (from.lon + to.lon) / 2 };
    const points = [from, ahead(middle, random.uniform() * 360, random.uniform() * 8), to];
    const edge = features.length;
    features.push({
      type: 'Feature',
      geometry: { type: 'LineString', coordinates: points.map(({ lat, lon }) => [lon, lat]) },
      properties: { name: `Lane ${edge}` },
    });
    exits[a]?.push({ to: b, points, edge });
    exits[b]?.push({ to: a, points: points.toReversed(), edge });
  };
  for (let i = 0; i < corners.length; i++) {
    if (i % SIDE < SIDE - 1) add(i, i + 1);
    if (i + SIDE < corners.length) add(i, i + SIDE);
  }
  return { network: networkFrom({ type: 'FeatureCollection', features }).network, exits };
}

/** A way of some metres over a town that turns back only where it must. */
function wayOver({ exits }: Town, metres: number, seed: number) {
  const random = randomFrom(seed);
  let at = Math.floor(exits.length / 2 + random.uniform() * SIDE);
  while ((exits[at] as Town['exits'][number]).length < 2) at++;
  const points: Position[] = [];
  const edges: number[] = [];
  let length = 0;
  while (length < metres) {
    const all = exits[at] as Town['exits'][number];
    const on = all.filter(({ edge }) => edge !== edges.at(-1));
    const open = on.length > 0 ? on : all;
    const next = open[Math.floor(random.uniform() * open.length)] as Town['exits'][number][number];
    points.push(...next.points.slice(points.length === 0 ? 0 : 1));
    edges.push(next.edge);
    length += lengthOf(next.points);
    at = next.to;
  }
  return { points, edges, length };
}

function lengthOf(points: readonly Position[]): number {
  return points.reduce((sum, at, i) => sum + (i === 0 ? 0 : distance(points[i - 1] as Position, at)), 0);
}

/** One journey over a town: the share of its length on the right lanes, and the error of its distance. */
function matched(seed: number, reception: Reception, every: number, gait: Gait, everyUpTo?: number) {
  const town = townOf(seed);
  const { points, edges, length } = wayOver(town, gait === 'walk' ? 3000 : 6000, seed + 1);
  const trail = new Trail();
  const options = { seed, reception, every, gait, ...(everyUpTo !== undefined && { everyUpTo }) };
  for (const { fix } of journey({ parts: [points] }, options)) if (fix) trail.append(fix);
  const match = matchTrail(trail, town.network);
  // Metres on each edge: as often as it was travelled.
  const truth = new Map<number, number>();
  for (const edge of edges) truth.set(edge, (truth.get(edge) ?? 0) + (town.network.lengths[edge] as number));
  const found = new Map<number, number>();
  for (const { edge, from, to } of match.parts.flatMap(({ stretches }) => stretches))
    found.set(edge, (found.get(edge) ?? 0) + Math.abs(to - from));
  let right = 0;
  for (const [edge, metres] of truth) right += Math.min(metres, found.get(edge) ?? 0);
  const all = match.on + match.off;
  return { right: right / Math.max(length, match.on), off: all / length - 1, fixes: trail.length };
}

const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

/** The lanes of walks and rides at several intervals. */
export function matchingRows(): Row[] {
  const rows: Row[] = [];
  for (const reception of ['trees', 'street'] as const)
    for (const [label, every, upTo, goal] of [
      ['1 s', 1, undefined, 0.97],
      ['10 s', 10, undefined, 0.97],
      ['1 to 30 s', 1, 30, 0.9],
      ['30 s', 30, undefined, 0.9],
    ] as const)
      for (const gait of ['walk', 'cycle'] as const) {
        let [right, off] = [0, 0];
        for (let seed = FIRST_SEED; seed < FIRST_SEED + WALKS; seed++) {
          const found = matched(seed, reception, every, gait, upTo);
          right += found.right / WALKS;
          off += found.off / WALKS;
        }
        const moves = gait === 'walk' ? 'walks' : 'rides';
        rows.push({
          what: `lanes of ${moves}, a fix every ${label}, ${reception}: on the right lanes`,
          ours: percent(right),
          baseline: `distance off by ${percent(Math.abs(off))}`,
          ratio: '–',
          goal: `≥ ${percent(goal)}, distance within 2 %`,
          met: right >= goal && Math.abs(off) <= 0.02,
        });
      }
  return rows;
}

/** Fixes per second of matching a finished trail. */
export function matchingSpeedRow(): Row {
  const town = townOf(FIRST_SEED);
  const { points } = wayOver(town, 60_000, FIRST_SEED);
  const trail = new Trail();
  for (const { fix } of journey({ parts: [points] }, { seed: FIRST_SEED, reception: 'trees' }))
    if (fix) trail.append(fix);
  const { ours, baseline } = beside(
    () => matchTrail(trail, town.network),
    () => smoothTrail(trail),
    3,
  );
  const rate = trail.length / ours;
  return {
    what: 'matching a trail of a fix a second to lanes',
    ours: `${Math.round(rate / 1000)} k fixes/s`,
    baseline: `smoothing alone ${Math.round(trail.length / baseline / 1000)} k`,
    ratio: `${(ours / baseline).toFixed(2)} ×`,
    goal: '≥ 20 k fixes/s',
    met: rate >= 20_000,
  };
}
