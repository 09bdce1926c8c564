import { Steadier, Trail, distance, steadyTrail, type Fix, type Position } from 'aurelian-drift';
import { RECEPTIONS, journey, type Reception } from 'aurelian-drift/testing';
import type { Row } from './measure.js';

const WALKS = 30;
/** The first of the seeds, none of which was used while the steadying was tuned. */
const FIRST_SEED = 50_001;
/** The Tarn Round's corners, some 5 km. */
const ROUTE = { parts: [[[44.1864, -33.6094], [44.1866, -33.6132], [44.188, -33.618], [44.196, -33.6165], [44.1965, -33.613], [44.199, -33.6075], [44.1955, -33.601], [44.189, -33.6005], [44.1864, -33.6094]].map(([lat, lon]) => ({ lat: lat as number, lon: lon as number }))] }; // prettier-ignore

interface Walk {
  readonly raw: Trail;
  readonly truth: readonly Position[];
  readonly length: number;
}

/** Steadying under each reception: how far from the truth, live and afterwards, and how long the path is. */
export function steadyRows(): Row[] {
  const goals: readonly [Reception, goal: string, met: (figures: Figures) => boolean][] = [
    ['open', 'live ≤ 1.1 × reference, length within 1 %', ({ live, reference, off }) => live <= 1.1 * reference && off <= 0.01],
    ['trees', 'live ≤ 1.1 × reference, length within 2 %', ({ live, reference, off }) => live <= 1.1 * reference && off <= 0.02],
    ['street', '≥ 35 % less than raw, length within 5 %', ({ live, raw, off }) => live <= 0.65 * raw && off <= 0.05],
    ['deep', 'never worse than raw by over 2 %', ({ worst }) => worst <= 1.02],
  ]; // prettier-ignore
  return [...goals.map(([reception, goal, met]) => row(reception, goal, met)), speedRow()];
}

interface Figures {
  readonly raw: number;
  readonly average: number;
  readonly reference: number;
  readonly live: number;
  readonly later: number;
  readonly off: number;
  readonly worst: number;
}

function row(reception: Reception, goal: string, met: (figures: Figures) => boolean): Row {
  const walks = Array.from({ length: WALKS }, (_, i) => measured(walk(reception, FIRST_SEED + i), reception));
  const middle = (of: (each: (typeof walks)[number]) => number) => walks.map(of).toSorted((a, b) => a - b)[WALKS >> 1] ?? NaN; // prettier-ignore
  const figures: Figures = {
    raw: middle(({ raw }) => raw),
    average: middle(({ average }) => average),
    reference: middle(({ reference }) => reference),
    live: middle(({ live }) => live),
    later: middle(({ later }) => later),
    off: middle(({ off }) => off),
    worst: Math.max(...walks.map(({ live, later, raw }) => Math.max(live, later) / raw)),
  };
  const metres = (value: number) => `${value.toFixed(2)} m`;
  return {
    what: `steadied path under \`${reception}\`, ${WALKS} walks of 5 km`,
    ours: `live ${metres(figures.live)}, afterwards ${metres(figures.later)}, length off by ${(100 * figures.off).toFixed(1)} %`,
    baseline: `raw ${metres(figures.raw)}, mean of 9 fixes ${metres(figures.average)}, filter told the true noise ${metres(figures.reference)}`,
    ratio: `${(figures.live / figures.raw).toFixed(2)} ×, ${(figures.later / figures.raw).toFixed(2)} ×, at worst ${figures.worst.toFixed(2)} ×`,
    goal,
    met: met(figures),
  };
}

function walk(reception: Reception, seed: number): Walk {
  const raw = new Trail();
  const truth: Position[] = [];
  let length = 0;
  let last: Position | undefined;
  for (const moment of journey(ROUTE, { seed, reception })) {
    if (last !== undefined) length += distance(last, moment.truth);
    last = moment.truth;
    if (moment.fix === undefined) continue;
    raw.append(moment.fix);
    truth.push(moment.truth);
  }
  return { raw, truth, length };
}

function measured({ raw, truth, length }: Walk, reception: Reception) {
  const fixes = [...raw];
  const error = (path: readonly Position[]) =>
    Math.sqrt(path.reduce((sum, at, i) => sum + distance(at, truth[i] as Position) ** 2, 0) / truth.length);
  const steadier = new Steadier();
  const later = [...steadyTrail(raw)];
  const walked = later.reduce((sum, at, i) => sum + (i === 0 ? 0 : distance(later[i - 1] as Fix, at)), 0);
  return {
    raw: error(fixes),
    average: error(fixes.map((_, i) => mean(fixes.slice(Math.max(0, i - 8), i + 1)))),
    reference: error(reference(fixes, reception)),
    live: error(fixes.map((fix) => steadier.advance(fix).fix)),
    later: error(later),
    off: Math.abs(walked / length - 1),
  };
}

function mean(fixes: readonly Fix[]): Position {
  const sum = (of: (fix: Fix) => number) => fixes.reduce((all, fix) => all + of(fix), 0) / fixes.length;
  return { lat: sum(({ lat }) => lat), lon: sum(({ lon }) => lon) };
}

/**
 * A filter of the same kind, written for itself, that is told how the noise was made, wandering, memory and all, and refuses nothing. One axis
 * at a time: place, velocity, and the error that fixes share.
 */
class Reference {
  #x = [0, 0, 0];
  #p = [[0, 0, 0], [0, 0, 0], [0, 0, 0]]; // prettier-ignore
  #begun = false;

  step(seconds: number, place: number, velocity: number | undefined, reception: Reception): number {
    const { wander, memory, white } = RECEPTIONS[reception];
    const own = Math.max(0.1, white) ** 2;
    const shared = wander ** 2;
    if (!this.#begun) {
      this.#begun = true;
      this.#x = [place, 0, 0];
      this.#p = [[shared + own, 0, -shared], [0, 9, 0], [-shared, 0, shared]]; // prettier-ignore
    } else {
      const keep = Math.exp(-seconds / memory);
      const f = [[1, seconds, 0], [0, 1, 0], [0, 0, keep]]; // prettier-ignore
      const q = 0.35;
      const noise = [
        [(q * seconds ** 3) / 3, (q * seconds ** 2) / 2, 0],
        [(q * seconds ** 2) / 2, q * seconds, 0],
        [0, 0, shared * (1 - keep ** 2)],
      ];
      const times = (a: number[][], c: number[][]) => a.map((row) => [0, 1, 2].map((k) => row.reduce((sum, value, m) => sum + value * (c[m]?.[k] ?? 0), 0))); // prettier-ignore
      const turned = f.map((_, k) => f.map((row) => row[k] ?? 0));
      this.#x = f.map((row) => row.reduce((sum, value, k) => sum + value * (this.#x[k] ?? 0), 0));
      this.#p = times(times(f, this.#p), turned).map((row, k) => row.map((value, m) => value + (noise[k]?.[m] ?? 0))); // prettier-ignore
      this.#take([1, 0, 1], place, own);
    }
    if (velocity !== undefined) this.#take([0, 1, 0], velocity, 0.12 ** 2);
    return this.#x[0] ?? NaN;
  }

  #take(of: readonly number[], seen: number, error: number): void {
    const shares = this.#p.map((row) => row.reduce((sum, value, k) => sum + value * (of[k] ?? 0), 0));
    const spread = shares.reduce((sum, value, k) => sum + value * (of[k] ?? 0), error);
    const off = seen - this.#x.reduce((sum, value, k) => sum + value * (of[k] ?? 0), 0);
    this.#x = this.#x.map((value, k) => value + ((shares[k] ?? 0) / spread) * off);
    this.#p = this.#p.map((row, k) => row.map((value, m) => value - ((shares[k] ?? 0) * (shares[m] ?? 0)) / spread)); // prettier-ignore
  }
}

function reference(fixes: readonly Fix[], reception: Reception): Position[] {
  const origin = fixes[0] as Position;
  // Metres of a degree there: the walk is a few kilometres long.
  const high = distance({ lat: origin.lat - 0.5, lon: 0 }, { lat: origin.lat + 0.5, lon: 0 });
  const wide = distance({ lat: origin.lat, lon: -0.05 }, { lat: origin.lat, lon: 0.05 }) * 10;
  const [east, north] = [new Reference(), new Reference()];
  return fixes.map(({ time, lat, lon, speed, course }, i) => {
    const seconds = (time - (fixes[i - 1]?.time ?? time)) / 1000;
    const radians = course === undefined ? undefined : (course * Math.PI) / 180;
    const along = (part: (angle: number) => number) =>
      speed === undefined || radians === undefined ? undefined : speed * part(radians);
    return {
      lat: origin.lat + north.step(seconds, (lat - origin.lat) * high, along(Math.cos), reception) / high,
      lon: origin.lon + east.step(seconds, (lon - origin.lon) * wide, along(Math.sin), reception) / wide,
    };
  });
}

/** What a fix costs, live. */
function speedRow(): Row {
  const { raw } = walk('open', FIRST_SEED);
  const fixes = [...raw];
  const times = 40;
  const started = performance.now();
  for (let i = 0; i < times; i++) {
    const steadier = new Steadier();
    for (const fix of fixes) steadier.advance(fix);
  }
  const ours = (times * fixes.length) / ((performance.now() - started) / 1000);
  const again = performance.now();
  for (let i = 0; i < times; i++) {
    const trail = new Trail();
    for (const fix of fixes) trail.append(fix);
    trail.summary();
  }
  const baseline = (times * fixes.length) / ((performance.now() - again) / 1000);
  return {
    what: 'steadying, live',
    ours: `${Math.round(ours / 1000)} k fixes/s`,
    baseline: `recording and summing up ${Math.round(baseline / 1000)} k fixes/s`,
    ratio: `${(ours / baseline).toFixed(2)} ×`,
    goal: '≥ 1000 k fixes/s',
    met: ours >= 1e6,
  };
}
