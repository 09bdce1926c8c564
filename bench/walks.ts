import { Trail, distance, type Position } from 'aurelian-drift';
import { journey, type JourneyOptions } from 'aurelian-drift/testing';

/** The corners of the Tarn Round, about 4.6 km. */
export const ROUTE = {
  parts: [
    [
      [44.1864, -33.6094],
      [44.1866, -33.6132],
      [44.188, -33.618],
      [44.196, -33.6165],
      [44.1965, -33.613],
      [44.199, -33.6075],
      [44.1955, -33.601],
      [44.189, -33.6005],
      [44.1864, -33.6094],
    ].map(([lat, lon]) => ({ lat: lat as number, lon: lon as number })),
  ],
};

/** Metres between rests, and seconds of each. */
export const RESTS = { every: 900, for: 180 };
/** Milliseconds without a fix that count as a gap: the way during a gap is not measured. */
export const GAP = 20_000;

/** A walk as received, and its truth. */
export interface Walk {
  readonly raw: Trail;
  /** True position of the user at each fix. */
  readonly truth: readonly Position[];
  /** True metres of the way while fixes came. */
  readonly way: number;
}

export function walk(options: JourneyOptions): Walk {
  const raw = new Trail();
  const truth: Position[] = [];
  let [way, unseen, received] = [0, 0, -Infinity];
  let last: Position | undefined;
  for (const { truth: at, fix } of journey(ROUTE, options)) {
    if (last !== undefined) unseen += distance(last, at);
    last = at;
    if (fix === undefined) continue;
    if (fix.time - received < GAP) way += unseen;
    [unseen, received] = [0, fix.time];
    raw.append(fix);
    truth.push(at);
  }
  return { raw, truth, way };
}

/** Root-mean-square distance from the truth, metres. */
export function errorOf(path: readonly Position[], truth: readonly Position[]): number {
  return Math.sqrt(
    path.reduce((sum, at, i) => sum + distance(at, truth[i] as Position) ** 2, 0) / truth.length,
  );
}

export function medianOf(values: readonly number[]): number {
  return values.toSorted((a, b) => a - b)[values.length >> 1] ?? NaN;
}
