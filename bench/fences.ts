import { FenceWatch, ahead, fixFrom, fenceIndex, type Fence, type Fix, type Position } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import Flatbush from 'flatbush';
import { crossingsUnder, type Reported } from './crossing-truth.js';
import { beside, type Row } from './measure.js';

const MANY = 100_000;
const FEW = 1000;
/** Fences on a square kilometre. */
const DENSITY = 5;
const FIXES = 200_000;
const ROUNDS = 9;
const MIDDLE = { lat: 44.2, lon: -33.6 };

/** Outlines of 8 to 20 corners and circles, 20 to 120 m in radius, at a constant density. */
function strewn(count: number): Fence[] {
  const random = randomFrom(21);
  const half = (Math.sqrt(count / DENSITY) * 1000) / 2;
  const anywhere = () => half * (2 * random.uniform() - 1);
  return Array.from({ length: count }, (_, i): Fence => {
    const centre = ahead(ahead(MIDDLE, 90, anywhere()), 0, anywhere());
    const labels = { id: `fence-${i}`, name: `Fence ${i}` };
    const radius = 20 + 100 * random.uniform();
    if (i % 4 === 0) return { kind: 'circle', ...labels, centre, radius };
    const corners = 8 + Math.floor(12 * random.uniform());
    const outline = Array.from({ length: corners }, (_, k) =>
      ahead(centre, (360 * k) / corners, radius * (0.6 + 0.4 * random.uniform())),
    );
    return { kind: 'polygon', ...labels, parts: [[outline]] };
  });
}

/** A walk with one fix a second at 1.4 m/s, with turns, within the area of the small set. */
function walk(): Fix[] {
  const random = randomFrom(22);
  const half = (Math.sqrt(FEW / DENSITY) * 1000) / 2;
  let [x, y, course] = [0, 0, 1];
  return Array.from({ length: FIXES }, (_, i) => {
    if (random.uniform() < 0.01) course += 0.8 * random.normal();
    if (Math.abs(x) > half * 0.9 || Math.abs(y) > half * 0.9) course = Math.atan2(-x, -y);
    x += 1.4 * Math.sin(course);
    y += 1.4 * Math.cos(course);
    const { lat, lon } = MIDDLE;
    const north = 111_110;
    return fixFrom({
      time: Date.UTC(2026, 4, 14) + i * 1000,
      lat: lat + y / north,
      lon: lon + x / (north * Math.cos((lat * Math.PI) / 180)),
      accuracy: 8,
    });
  });
}

/** Fixes against a hundred thousand fences. */
export function fenceRows(): Row[] {
  const [many, few] = [strewn(MANY), strewn(FEW)];
  const fixes = walk();
  const bare = fixes.map(({ accuracy: _, ...fix }) => fixFrom(fix));
  const watchOf = (fences: readonly Fence[]) => new FenceWatch(fences, { index: fenceIndex() });
  const fresh = new FenceWatch([]).state;
  let reported = 0;
  const follow = (watch: FenceWatch, all: readonly Fix[]) => () => {
    watch.restore(fresh); // the same walk again, with its own times
    reported = 0;
    for (const fix of all) reported += watch.take(fix).length;
  };
  const plain = plainly(many);
  const [own, fewer] = [follow(watchOf(many), bare), follow(watchOf(few), bare)];
  const certain = follow(watchOf(many), fixes);
  globalThis.gc?.();
  // Each ratio compares two workloads that ran in alternation.
  const first = beside(own, () => plain(fixes), ROUNDS);
  const crossings = reported;
  const second = beside(own, fewer, ROUNDS);
  const third = beside(certain, own, ROUNDS);
  const rate = (seconds: number) => FIXES / 1e6 / seconds;
  const ratio = ({ ours, baseline }: { ours: number; baseline: number }) => baseline / ours;
  return [
    {
      what: '100 000 fences on 20 000 km², bare points along a walk',
      ours: `${rate(first.ours).toFixed(2)} M fixes/s, ${crossings} crossings of ${FIXES} fixes`,
      baseline: `flatbush and a plain point-in-polygon ${rate(first.baseline).toFixed(2)} M fixes/s`,
      ratio: `${ratio(first).toFixed(1)} ×`,
      goal: '≥ 1 M fixes/s, ≥ 3 ×',
      met: rate(first.ours) >= 1 && ratio(first) >= 3,
    },
    {
      what: 'its cost, beside 1000 fences as dense',
      ours: `${(1 / rate(second.ours)).toFixed(2)} µs a fix`,
      baseline: `${(1 / rate(second.baseline)).toFixed(2)} µs a fix`,
      ratio: `${(1 / ratio(second)).toFixed(2)} ×`,
      goal: '≤ 1.5 ×',
      met: 1 / ratio(second) <= 1.5,
    },
    {
      what: '100 000 fences, as certain as each fix allows',
      ours: `${rate(third.ours).toFixed(2)} M fixes/s`,
      baseline: `bare points ${rate(third.baseline).toFixed(2)} M fixes/s`,
      ratio: `${ratio(third).toFixed(2)} ×`,
      goal: '–',
      met: true,
    },
  ];
}

/** Which fences contain each fix: bounding boxes from a tree, then edge by edge. */
function plainly(fences: readonly Fence[]): (fixes: readonly Fix[]) => number {
  const tree = new Flatbush(fences.length);
  const rings = fences.map((fence) => {
    const ring: readonly Position[] =
      fence.kind === 'circle'
        ? Array.from({ length: 32 }, (_, k) => ahead(fence.centre, (360 * k) / 32, fence.radius))
        : fence.kind === 'polygon'
          ? ((fence.parts[0] as readonly (readonly Position[])[])[0] as readonly Position[])
          : [];
    const [lats, lons] = [ring.map(({ lat }) => lat), ring.map(({ lon }) => lon)];
    tree.add(Math.min(...lons), Math.min(...lats), Math.max(...lons), Math.max(...lats));
    return ring;
  });
  tree.finish();
  return (fixes) => {
    let inside = new Set<number>();
    let changes = 0;
    for (const { lat, lon } of fixes) {
      const now = new Set<number>();
      for (const i of tree.search(lon, lat, lon, lat)) {
        if (!holds(rings[i] as readonly Position[], lat, lon)) continue;
        now.add(i);
        if (!inside.has(i)) changes++;
      }
      for (const i of inside) if (!now.has(i)) changes++;
      inside = now;
    }
    return changes;
  };
}

function holds(ring: readonly Position[], lat: number, lon: number): boolean {
  let inside = false;
  for (let i = 0, j = ring.length - 1; i < ring.length; j = i++) {
    const [a, b] = [ring[i] as Position, ring[j] as Position];
    if (a.lat > lat !== b.lat > lat && lon < ((b.lon - a.lon) * (lat - a.lat)) / (b.lat - a.lat) + a.lon)
      inside = !inside;
  }
  return inside;
}

/** Reported crossings beside the true ones. */
export function crossingRows(): Row[] {
  const goals = { open: [1, 0], street: [0.98, 0.01] } as const;
  const rows = (['open', 'street'] as const).map((reception): Row => {
    const all = crossingsUnder(reception);
    const [min, max] = goals[reception];
    return {
      what: `crossings under \`${reception}\`, 30 walks past 24 fences`,
      ours: `${all.true - all.missed} of ${all.true} reported, ${all.false} false`,
      baseline: `the first fix on the other side ${all.plainFalse} false`,
      ratio: `${(all.false / all.plainFalse).toFixed(3)} × the false ones`,
      goal: reception === 'open' ? 'all, and none false' : '≥ 98 in 100, ≤ 1 in 100 false',
      met: all.true - all.missed >= min * all.true && all.false <= max * all.true,
    };
  });
  return [...rows, sparseRow(crossingsUnder('open', 20))];
}

function sparseRow({ time, place, plainTime, plainPlace }: Reported): Row {
  return {
    what: 'crossings at a fix every 20 s under `open`, median error',
    ours: `${time.toFixed(1)} s, ${place.toFixed(1)} m`,
    baseline: `the first fix on the other side ${plainTime.toFixed(1)} s, ${plainPlace.toFixed(1)} m`,
    ratio: `${(time / plainTime).toFixed(2)} ×, ${(place / plainPlace).toFixed(2)} ×`,
    goal: '≤ 0.5 ×',
    met: time <= plainTime / 2 && place <= plainPlace / 2,
  };
}
