import FlatQueue from 'flatqueue';
import { distance, type Position } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import {
  NoWayError,
  TRAVEL_RULES,
  WayFinder,
  networkFrom,
  type LaneProperties,
  type WayRequest,
} from 'aurelian-drift/ways';
import { bytesFor, type Row } from './measure.js';

/*
 * Ways over a network of a million edges: a crooked grid of lanes, a third of them missing, with faster main roads and
 * lanes of one direction. The baseline is a plain search written apart (E. Dijkstra, 1959) over the same edges.
 */

const SIDE = 836;
const SEED = 98_001;
/** Ways before the measured ones. */
const WARM = 40;
/** Pairs of random places, and those of them that the baseline answers too. */
const PAIRS = 200;
const COMPARED = 20;

interface Lane {
  readonly type: 'Feature';
  readonly geometry: {
    readonly type: 'LineString';
    readonly coordinates: readonly (readonly [number, number])[];
  };
  readonly properties: LaneProperties;
}

/** The document, and the corners at both ends of each of its lanes. */
interface Town {
  readonly document: { readonly type: 'FeatureCollection'; readonly features: readonly Lane[] };
  readonly lats: Float64Array;
  readonly lons: Float64Array;
  readonly from: Int32Array;
  readonly to: Int32Array;
}

function townOf(): Town {
  const random = randomFrom(SEED);
  const count = SIDE * SIDE;
  const [lats, lons] = [new Float64Array(count), new Float64Array(count)];
  for (let i = 0; i < count; i++) {
    const [column, row] = [i % SIDE, Math.floor(i / SIDE)];
    lats[i] = Number((44 + (row + (random.uniform() - 0.5) * 0.7) * 0.0008).toFixed(7));
    lons[i] = Number((-33 + (column + (random.uniform() - 0.5) * 0.7) * 0.001).toFixed(7));
  }
  const features: Lane[] = [];
  const [from, to] = [new Int32Array(2 * count), new Int32Array(2 * count)];
  const add = (a: number, b: number, line: number) => {
    const isMain = line % 16 === 0;
    if (!isMain && random.uniform() > 0.7) return;
    const at = (i: number) => [lons[i], lats[i]] as [number, number];
    const [[west, south], [east, north]] = [at(a), at(b)];
    const bend = (south + north) / 2 + (random.uniform() - 0.5) * 0.0002;
    const middle = [Number(((west + east) / 2).toFixed(7)), Number(bend.toFixed(7))] as const;
    const kind = isMain ? 'road' : random.uniform() < 0.3 ? 'track' : 'lane';
    const oneway = !isMain && random.uniform() < 0.15;
    from[features.length] = a;
    to[features.length] = b;
    features.push({
      type: 'Feature',
      geometry: { type: 'LineString', coordinates: [at(a), middle, at(b)] },
      properties: { kind, oneway },
    });
  };
  for (let i = 0; i < count; i++) {
    const [column, row] = [i % SIDE, Math.floor(i / SIDE)];
    if (column + 1 < SIDE) add(i, i + 1, row);
    if (row + 1 < SIDE) add(i, i + SIDE, column);
  }
  return { document: { type: 'FeatureCollection', features }, lats, lons, from, to };
}

/** Plain search over the lanes; `Infinity` where there is no way. */
function plainSearch({ document: { features }, lats, from, to }: Town) {
  const count = features.length;
  const starts = new Int32Array(lats.length + 1);
  for (let e = 0; e < count; e++)
    for (const node of [from[e], to[e]] as [number, number])
      starts[node + 1] = (starts[node + 1] as number) + 1;
  for (let i = 1; i < starts.length; i++) starts[i] = (starts[i] as number) + (starts[i - 1] as number);
  const next = starts.slice();
  const heads = new Int32Array(2 * count);
  const weights = new Float64Array(2 * count);
  features.forEach(({ geometry: { coordinates }, properties }, e) => {
    const points = coordinates.map(([lon, lat]) => ({ lat, lon }));
    const metres = points.reduce(
      (sum, at, i) => sum + (i === 0 ? 0 : distance(points[i - 1] as Position, at)),
      0,
    );
    for (const [tail, head, direction] of [
      [from[e], to[e], 'forward'],
      [to[e], from[e], 'backward'],
    ] as [number, number, 'forward' | 'backward'][]) {
      const speed = TRAVEL_RULES.drive(properties, direction);
      const at = next[tail] as number;
      next[tail] = at + 1;
      heads[at] = head;
      weights[at] = speed === 'closed' ? Infinity : metres / speed;
    }
  });
  const cost = new Float64Array(lats.length);
  const queue = new FlatQueue<number>();
  return (start: number, end: number): number => {
    cost.fill(Infinity);
    queue.clear();
    cost[start] = 0;
    queue.push(start, 0);
    while (queue.length > 0) {
      const value = queue.peekValue() as number;
      const node = queue.pop() as number;
      if (node === end) return value;
      if (value > (cost[node] as number)) continue;
      for (let i = starts[node] as number; i < (starts[node + 1] as number); i++) {
        const total = value + (weights[i] as number);
        const head = heads[i] as number;
        if (total >= (cost[head] as number)) continue;
        cost[head] = total;
        queue.push(head, total);
      }
    }
    return Infinity;
  };
}

export function networkRows(): Row[] {
  const town = townOf();
  const { document, lats, lons } = town;
  const place = (i: number) => ({ lat: lats[i], lon: lons[i] }) as Position;
  let finder: WayFinder | undefined;
  let prepared = 0;
  const random = randomFrom(SEED + 1);
  const any = () => Math.floor(random.uniform() * lats.length);
  const bytes = bytesFor(() => {
    finder = new WayFinder(networkFrom(document).network);
    const start = performance.now();
    finder.find({ from: place(any()), to: place(any()), by: 'drive' });
    prepared = (performance.now() - start) / 1000;
  });
  const search = plainSearch(town);
  /** Seconds of a way; `Infinity` where there is none. */
  const attempt = (request: WayRequest) => {
    try {
      return finder?.find(request)[0]?.seconds ?? Infinity;
    } catch (error) {
      if (error instanceof NoWayError) return Infinity;
      throw error;
    }
  };
  // The first ways warm the machine up, and so does the first plain search.
  for (let i = 0; i < WARM; i++) attempt({ from: place(any()), to: place(any()), by: 'drive' });
  search(any(), any());
  const times: number[] = [];
  let [ours, plain, worst] = [0, 0, 0];
  for (let i = 0; i < PAIRS; i++) {
    const [a, b] = [any(), any()];
    const request = { from: place(a), to: place(b), by: 'drive' };
    let start = performance.now();
    const seconds = attempt(request);
    const took = performance.now() - start;
    times.push(took);
    if (i >= COMPARED) continue;
    ours += took;
    start = performance.now();
    const least = search(a, b);
    plain += performance.now() - start;
    if (least < Infinity) worst = Math.max(worst, Math.abs(seconds - least) / least);
  }
  const late = times.toSorted((a, b) => a - b)[Math.floor(0.99 * PAIRS)] as number;
  const size = `a network of ${(document.features.length / 1e6).toFixed(1)} million edges`;
  return [
    {
      what: `${size}: prepared for one kind of travel, with the first way`,
      ours: `${prepared.toFixed(1)} s`,
      baseline: '–',
      ratio: '–',
      goal: '≤ 20 s',
      met: prepared <= 20,
    },
    {
      what: `${size}: memory afterwards, besides the GeoJSON`,
      ours: `${(bytes / 1e6).toFixed(0)} MB`,
      baseline: '–',
      ratio: '–',
      goal: '≤ 300 MB',
      met: bytes <= 300e6,
    },
    {
      what: `${size}: a way between random places, with its line and steps`,
      ours: `mean ${(ours / COMPARED).toFixed(1)} ms, 99 % within ${late.toFixed(0)} ms`,
      baseline: `plain search ${(plain / COMPARED).toFixed(0)} ms, costs differ by ${worst.toExponential(0)}`,
      ratio: `${(plain / ours).toFixed(0)} ×`,
      goal: '≥ 20 ×, 99 % ≤ 80 ms, 1e-9',
      met: plain / ours >= 20 && late <= 80 && worst <= 1e-9,
    },
  ];
}
