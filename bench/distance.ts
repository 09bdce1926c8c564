import { ahead, distance, type Position } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import geographiclib from 'geographiclib-geodesic';
import { beside, type Row } from './measure.js';

const exact = geographiclib.Geodesic.WGS84;
const LINES = 100_000;

/** Speed on the steps of a trail, and the largest error against the exact geodesic, near and far. */
export function distanceRows(): Row[] {
  const random = randomFrom(11);
  const anywhere = (): Position => ({
    lat: (Math.asin(2 * random.uniform() - 1) * 180) / Math.PI,
    lon: random.uniform() * 360 - 180,
  });
  const steps = Array.from({ length: LINES }, () => {
    const from = anywhere();
    return [from, ahead(from, random.uniform() * 360, 1 + 30 * random.uniform())] as const;
  });
  let sum = 0;
  const times = beside(
    () => {
      for (const [from, to] of steps) sum += distance(from, to);
    },
    () => {
      for (const [from, to] of steps)
        sum += exact.Inverse(from.lat, from.lon, to.lat, to.lon, geographiclib.Geodesic.DISTANCE).s12 ?? 0;
    },
  );
  if (!(sum > 0)) throw new Error('nothing was measured');
  const perSecond = (seconds: number) => `${(LINES / seconds / 1e6).toFixed(2)} M/s`;
  const ratio = times.baseline / times.ours;

  const near = worst(() => {
    const from = anywhere();
    const { lat2 = NaN, lon2 = NaN } = exact.Direct(
      from.lat,
      from.lon,
      random.uniform() * 360,
      random.uniform() * 50_000,
    );
    return [from, { lat: lat2, lon: lon2 }];
  });
  const far = worst(() => [anywhere(), anywhere()]);
  const antipodal = worst(() => {
    const from = anywhere();
    const off = () => (random.uniform() - 0.5) * 2 * 10 ** (-4 * random.uniform());
    return [from, { lat: Math.max(-90, Math.min(90, off() - from.lat)), lon: from.lon + 180 + off() }];
  });
  const errorRow = (what: string, error: number, goal: number): Row => ({
    what,
    ours: `${(error * 1000).toPrecision(2)} mm`,
    baseline: 'the exact geodesic',
    ratio: '–',
    goal: goal < 1 ? `≤ ${goal * 1000} mm` : `≤ ${goal} m`,
    met: error <= goal,
  });
  return [
    {
      what: 'distance, on trail-scale steps',
      ours: perSecond(times.ours),
      baseline: `geographiclib-geodesic ${perSecond(times.baseline)}`,
      ratio: `${ratio.toFixed(1)} ×`,
      goal: '≥ 6 ×',
      met: ratio >= 6,
    },
    errorRow('distance, worst error up to 50 km', near, 0.001),
    errorRow('distance, worst error anywhere', far, 1),
    errorRow('distance, worst error near antipodes', antipodal, 1),
  ];
}

function worst(pair: () => readonly [Position, Position]): number {
  let max = 0;
  for (let i = 0; i < LINES; i++) {
    const [a, b] = pair();
    const { s12 = NaN } = exact.Inverse(a.lat, a.lon, b.lat, b.lon, geographiclib.Geodesic.DISTANCE);
    const error = Math.abs(distance(a, b) - s12);
    if (!(error <= max)) max = error;
  }
  return max;
}
