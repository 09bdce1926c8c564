import {
  RunningSummary,
  FixFilter,
  Trail,
  distance,
  smoothTrail,
  type Fix,
  type Position,
} from 'aurelian-drift';
import { standstill, type FreshReception } from 'aurelian-drift/testing';
import { bytesFor, type Row } from './measure.js';
import { reference } from './reference.js';
import { GAP, RESTS, errorOf, medianOf, walk, type Walk } from './walks.js';

const WALKS = 30;
/** The first seed. No seed was used for tuning. */
const FIRST_SEED = 50_001;
/** Number of fixes in the plain mean that the filtered path is compared with. */
const MEAN_OF = 9;

const TESTED = ['open', 'trees', 'street', 'deep'] as const satisfies readonly FreshReception[];

/** Results of thirty walks under one reception. Metres and medians, unless stated otherwise. */
export interface Measured {
  readonly reception: FreshReception;
  /** Root-mean-square distance from the truth: raw fixes, plain mean, filtered path, reference. */
  readonly raw: number;
  readonly mean: number;
  readonly live: number;
  readonly later: number;
  readonly referenceLive: number;
  readonly referenceLater: number;
  /** The largest ratio, over the walks, of the error to that of the raw fixes. */
  readonly worst: number;
  /**
   * Relative errors of the distance: honest, worst honest, raw sum, sum of the plain mean, length of the smoothed path.
   */
  readonly honest: number;
  readonly honestWorst: number;
  readonly rawSum: number;
  readonly meanSum: number;
  readonly pathSum: number;
  /** Metres added by ten minutes of rest: honest, worst honest, and raw sum. */
  readonly standing: number;
  readonly standingRaw: number;
}

export function measureReceptions(): Measured[] {
  return TESTED.map(measured);
}

function measured(reception: FreshReception): Measured {
  const seeds = Array.from({ length: WALKS }, (_, i) => FIRST_SEED + i);
  const errors = seeds.map((seed) => errorsOf(walk({ seed, reception }), reception));
  const lengths = seeds.map((seed) => lengthsOf(walk({ seed, reception, rests: RESTS })));
  const stands = seeds.map((seed) => standing(reception, seed));
  const middle = <Each>(all: readonly Each[], read: (each: Each) => number) => medianOf(all.map(read));
  return {
    reception,
    raw: middle(errors, ({ raw }) => raw),
    mean: middle(errors, ({ mean }) => mean),
    live: middle(errors, ({ live }) => live),
    later: middle(errors, ({ later }) => later),
    referenceLive: middle(errors, ({ referenceLive }) => referenceLive),
    referenceLater: middle(errors, ({ referenceLater }) => referenceLater),
    worst: Math.max(...errors.map(({ live, later, raw }) => Math.max(live, later) / raw)),
    honest: middle(lengths, ({ honest }) => Math.abs(honest - 1)),
    honestWorst: Math.max(...lengths.map(({ honest }) => Math.abs(honest - 1))),
    rawSum: middle(lengths, ({ raw }) => raw - 1),
    meanSum: middle(lengths, ({ mean }) => mean - 1),
    pathSum: middle(lengths, ({ path }) => path - 1),
    standing: Math.max(...stands.map((summary) => summary.distance)),
    standingRaw: middle(stands, ({ rawDistance }) => rawDistance),
  };
}

function errorsOf({ raw, truth }: Walk, reception: FreshReception) {
  const fixes = [...raw];
  const reported = reference(fixes, reception);
  const filter = new FixFilter();
  return {
    raw: errorOf(fixes, truth),
    mean: errorOf(means(fixes), truth),
    live: errorOf(
      fixes.map((fix) => filter.take(fix).fix),
      truth,
    ),
    later: errorOf([...smoothTrail(raw)], truth),
    referenceLive: errorOf(reported.live, truth),
    referenceLater: errorOf(reported.later, truth),
  };
}

/** Ratio of a length to the true length; gaps are left out of both. */
function lengthsOf({ raw, way }: Walk) {
  const { distance: honest, rawDistance } = raw.summary();
  return {
    honest: honest / way,
    raw: rawDistance / way,
    mean: lengthOf(means([...raw])) / way,
    path: lengthOf([...smoothTrail(raw)]) / way,
  };
}

function lengthOf(path: readonly (Position & { readonly time: number })[]): number {
  return path.reduce((sum, at, i) => {
    const before = path[i - 1];
    return before === undefined || at.time - before.time > GAP ? sum : sum + distance(before, at);
  }, 0);
}

function standing(reception: FreshReception, seed: number) {
  const running = new RunningSummary();
  let ticks = 0;
  for (const { fix } of standstill({ lat: 44.19, lon: -33.6 }, { reception, seed })) {
    if (fix !== undefined) running.take(fix);
    if (++ticks > 600) break;
  }
  return running.summary();
}

/** Mean of each fix and those just before it. */
export function means(fixes: readonly Fix[]): (Position & { time: number })[] {
  return fixes.map(({ time }, i) => {
    const some = fixes.slice(Math.max(0, i - MEAN_OF + 1), i + 1);
    const read = (value: (fix: Fix) => number) =>
      some.reduce((sum, fix) => sum + value(fix), 0) / some.length;
    return { time, lat: read(({ lat }) => lat), lon: read(({ lon }) => lon) };
  });
}

/** Filtered path and honest distance under each reception, and the cost of a fix. */
export function filterRows(all: readonly Measured[] = measureReceptions()): Row[] {
  return [...all.map(pathRow), ...all.map(distanceRow), ...all.map(standingRow), speedRow(), memoryRow()];
}

const metres = (value: number) => `${value.toFixed(2)} m`;
const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

function pathRow(each: Measured): Row {
  const { reception, raw, mean, live, later, referenceLive, referenceLater, worst } = each;
  const near = live <= 1.1 * referenceLive && later <= 1.1 * referenceLater;
  const goals: Readonly<Partial<Record<FreshReception, [goal: string, met: boolean]>>> = {
    open: ['≤ 1.1 × reference', near],
    trees: ['≤ 1.1 × reference', near],
    street: ['≥ 35 % less than raw', live <= 0.65 * raw && later <= 0.65 * raw],
  };
  const [goal, met] = goals[reception] ?? ['', true];
  return {
    what: `filtered path under \`${reception}\`, ${WALKS} walks of 4.6 km`,
    ours: `live ${metres(live)}, afterwards ${metres(later)}`,
    baseline:
      `raw ${metres(raw)}, mean of ${MEAN_OF} fixes ${metres(mean)}, told the true noise ` +
      `${metres(referenceLive)}, ${metres(referenceLater)}`,
    ratio:
      `${(live / referenceLive).toFixed(2)} ×, ${(later / referenceLater).toFixed(2)} × reference; ` +
      `${(live / raw).toFixed(2)} ×, ${(later / raw).toFixed(2)} × raw, at worst ${worst.toFixed(2)} ×`,
    goal: `${goal}${goal === '' ? '' : ', '}no walk worse than raw by over 2 %`,
    met: met && worst <= 1.02,
  };
}

/** Largest relative errors of a distance that are allowed. */
const GOALS: Readonly<Partial<Record<FreshReception, number>>> = {
  open: 0.01,
  trees: 0.02,
  street: 0.05,
  deep: 0.02,
};

function distanceRow({ reception, honest, honestWorst, rawSum, meanSum, pathSum }: Measured): Row {
  const goal = GOALS[reception] ?? NaN;
  return {
    what: `distance under \`${reception}\`, with rests${reception === 'deep' ? ', of what was seen' : ''}`,
    ours: `off by ${percent(honest)}, at worst ${percent(honestWorst)}`,
    baseline:
      `raw sum +${percent(rawSum)}, of a mean of ${MEAN_OF} +${percent(meanSum)}, of the path ` +
      `smoothed ${pathSum < 0 ? '' : '+'}${percent(pathSum)}`,
    ratio: `${(honest / rawSum).toFixed(3)} × the raw error`,
    goal: `≤ ${percent(goal)}`,
    met: honest <= goal,
  };
}

function standingRow({ reception, standing: max, standingRaw }: Measured): Row {
  return {
    what: `standing still for 10 min under \`${reception}\``,
    ours: `at most ${max.toFixed(0)} m`,
    baseline: `raw sum ${standingRaw.toFixed(0)} m`,
    ratio: `${(max / standingRaw).toFixed(3)} ×`,
    goal: '< 20 m',
    met: max < 20,
  };
}

/** Cost of a fix in a live filter. */
function speedRow(): Row {
  const fixes = [...walk({ seed: FIRST_SEED, reception: 'open' }).raw];
  const times = 60;
  const rate = (work: () => void) => {
    const rates = Array.from({ length: 3 }, () => {
      const started = performance.now();
      for (let i = 0; i < times; i++) work();
      return (times * fixes.length) / ((performance.now() - started) / 1000);
    });
    return Math.max(...rates);
  };
  const ours = rate(() => {
    const filter = new FixFilter();
    for (const fix of fixes) filter.take(fix);
  });
  const baseline = rate(() => {
    const trail = new Trail();
    for (const fix of fixes) trail.append(fix);
    trail.summary();
  });
  return {
    what: 'smoothing, live',
    ours: `${Math.round(ours / 1000)} k fixes/s`,
    baseline: `recording and summing up ${Math.round(baseline / 1000)} k fixes/s`,
    ratio: `${(ours / baseline).toFixed(2)} ×`,
    goal: '≥ 1000 k fixes/s',
    met: ours >= 1e6,
  };
}

/** Memory of a filter after a long way, beside that after a short one. */
function memoryRow(): Row {
  const fixes = [...walk({ seed: FIRST_SEED, reception: 'street' }).raw];
  const heldAfter = (rounds: number) => {
    const filter = new FixFilter();
    const bytes = bytesFor(() => {
      for (let round = 0; round < rounds; round++) {
        for (const fix of fixes) filter.take({ ...fix, time: fix.time + round * 4e6 });
      }
    });
    return Math.max(0, bytes) + (Number.isNaN(filter.position.lat) ? NaN : 0);
  };
  heldAfter(5);
  const [short, long] = [heldAfter(1), heldAfter(100)];
  return {
    what: 'memory of a filter after 340 000 fixes',
    ours: `${(long / 1000).toFixed(0)} kB`,
    baseline: `after 3400 ${(short / 1000).toFixed(0)} kB`,
    ratio: '–',
    goal: 'no more than 100 kB beyond',
    met: long - short <= 100_000,
  };
}
