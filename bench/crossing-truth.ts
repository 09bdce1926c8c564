import { FenceWatch, ahead, distance, type Fence, type Fix, type Position } from 'aurelian-drift';
import { journey, randomFrom, type Reception } from 'aurelian-drift/testing';
import { RESTS, ROUTE, medianOf } from './walks.js';

const WALKS = 30;
/** The first seed. No seed was used for tuning. */
const FIRST_SEED = 60_001;
/** Random fences along each walk. */
const FENCES = 24;
/** A visit or an absence that is shallower than this many 95 % radii is a graze: no fix can resolve it. */
const GRAZE = 2;
/**
 * Milliseconds of tolerance around the time in which the user was no deeper than a graze, within which a reported
 * crossing is matched.
 */
const SLACK = 10_000;

/** Results of all walks under one reception. */
export interface Reported {
  readonly reception: Reception;
  /** Seconds between fixes. */
  readonly every: number;
  /** True crossings, without grazes and without those that have no fix during the visit or the absence. */
  readonly true: number;
  readonly grazes: number;
  readonly unseen: number;
  readonly grazesReported: number;
  /** Number of true crossings that were not reported, and of reported ones that are false or repeated. */
  readonly missed: number;
  readonly false: number;
  /** The largest numbers of missed and of false crossings in one walk. */
  readonly worstMissed: number;
  readonly worstFalse: number;
  /** Median error of the reported crossings: seconds, and metres. */
  readonly time: number;
  readonly place: number;
  /** The same for the plain rule (the first fix on the other side), and its number of false crossings. */
  readonly plainTime: number;
  readonly plainPlace: number;
  readonly plainFalse: number;
  readonly plainMissed: number;
}

/** A true crossing. */
interface Event extends Position {
  readonly kind: 'enter' | 'exit';
  readonly time: number;
  readonly notBefore?: number | undefined;
}

interface TrueEvent extends Event {
  /** Time span in which the user was shallower than a graze around it, milliseconds. */
  readonly since: number;
  readonly until: number;
  readonly graze: boolean;
  /** Whether there is no fix during the visit or the absence, before or after it. */
  readonly unseen: boolean;
}

interface Compared {
  readonly errors: [seconds: number, metres: number][];
  readonly missed: number;
  /** Number of grazes that were reported all the same. */
  readonly grazes: number;
  readonly false: number;
}

export function crossingsUnder(reception: Reception, every = 1): Reported {
  const sums = {
    true: 0,
    grazes: 0,
    unseen: 0,
    grazesReported: 0,
    missed: 0,
    false: 0,
    plainFalse: 0,
    plainMissed: 0,
    worstMissed: 0,
    worstFalse: 0,
  };
  const errors: { readonly own: [number, number][]; readonly plain: [number, number][] } = {
    own: [],
    plain: [],
  };
  for (let seed = FIRST_SEED; seed < FIRST_SEED + WALKS; seed++) {
    const fences = strewn(seed);
    const { truth, fixes } = walked(seed, reception, every);
    const reported = reportedBy(fences, fixes);
    const plain = plainly(fences, fixes);
    let [missed, wrong] = [0, 0];
    for (const fence of fences) {
      const events = eventsOf(fence, truth, fixes, every);
      sums.true += events.filter(isReported).length;
      sums.grazes += events.filter(({ graze }) => graze).length;
      sums.unseen += events.filter(({ graze, unseen }) => unseen && !graze).length;
      const own = compare(events, reported.get(fence.id) ?? []);
      const other = compare(events, plain.get(fence.id) ?? []);
      errors.own.push(...own.errors);
      errors.plain.push(...other.errors);
      missed += own.missed;
      wrong += own.false;
      sums.grazesReported += own.grazes;
      sums.plainFalse += other.false;
      sums.plainMissed += other.missed;
    }
    sums.missed += missed;
    sums.false += wrong;
    sums.worstMissed = Math.max(sums.worstMissed, missed);
    sums.worstFalse = Math.max(sums.worstFalse, wrong);
  }
  const middle = (errors: readonly [number, number][], which: 0 | 1) =>
    medianOf(errors.map((error) => error[which]));
  return {
    reception,
    every,
    ...sums,
    time: middle(errors.own, 0),
    place: middle(errors.own, 1),
    plainTime: middle(errors.plain, 0),
    plainPlace: middle(errors.plain, 1),
  };
}

/** Circles, outlines and corridors of all sizes along the round. */
function strewn(seed: number): Fence[] {
  const random = randomFrom(seed);
  const corners = ROUTE.parts[0] as readonly Position[];
  return Array.from({ length: FENCES }, (_, i): Fence => {
    const leg = Math.floor(random.uniform() * (corners.length - 1));
    const [from, to] = [corners[leg] as Position, corners[leg + 1] as Position];
    const share = random.uniform();
    const on = { lat: from.lat + (to.lat - from.lat) * share, lon: from.lon + (to.lon - from.lon) * share };
    const centre = ahead(on, 360 * random.uniform(), 120 * random.uniform());
    const labels = { id: `fence-${i}`, name: `Fence ${i}` };
    const size = 25 + 125 * random.uniform();
    if (i % 3 === 0) return { kind: 'circle', ...labels, centre, radius: size };
    const around = Array.from({ length: 7 }, (_, k) =>
      ahead(centre, (360 / 7) * (k + random.uniform() / 2), size * (0.6 + 0.8 * random.uniform())),
    );
    if (i % 3 === 1) return { kind: 'polygon', ...labels, parts: [[around]] };
    const course = 360 * random.uniform();
    const line = [
      ahead(centre, course, 2 * size),
      centre,
      ahead(centre, course + 150 + 60 * random.uniform(), 2 * size),
    ];
    return { kind: 'corridor', ...labels, lines: [line], halfWidth: 10 + 30 * random.uniform() };
  });
}

function walked(seed: number, reception: Reception, every: number): { truth: Fix[]; fixes: Fix[] } {
  const [truth, fixes]: [Fix[], Fix[]] = [[], []];
  let tick = 0;
  for (const { truth: at, fix } of journey(ROUTE, { seed, reception, rests: RESTS })) {
    truth.push(at);
    if (tick++ % every === 0 && fix !== undefined) fixes.push(fix);
  }
  return { truth, fixes };
}

function reportedBy(fences: readonly Fence[], fixes: readonly Fix[]): Map<string, Event[]> {
  const watch = new FenceWatch(fences, { passes: 'pair' });
  const reported = new Map<string, Event[]>(fences.map(({ id }) => [id, []]));
  for (const fix of fixes) {
    for (const crossing of watch.take(fix)) {
      const { kind, time, lat, lon, notBefore } = crossing;
      if (kind === 'enter' || kind === 'exit')
        reported.get(crossing.fence)?.push({ kind, time, lat, lon, notBefore });
    }
  }
  return reported;
}

/** The first fix on the other side. */
function plainly(fences: readonly Fence[], fixes: readonly Fix[]): Map<string, Event[]> {
  const reported = fences.map((fence) => {
    let inside: boolean | undefined;
    const events = fixes.flatMap(({ time, lat, lon }): Event[] => {
      const now = depthIn(fence, { lat, lon }) >= 0;
      const changed = inside !== undefined && now !== inside;
      inside = now;
      return changed ? [{ kind: now ? 'enter' : 'exit', time, lat, lon }] : [];
    });
    return [fence.id, events] as const;
  });
  return new Map(reported);
}

/** The true crossings of a fence. */
function eventsOf(fence: Fence, truth: readonly Fix[], fixes: readonly Fix[], every: number): TrueEvent[] {
  // Between two fixes the time is uncertain by their distance in time.
  const slack = SLACK + every * 1000;
  const depths = truth.map((at) => depthIn(fence, at));
  const cuts = depths.flatMap((now, i) => (i > 0 && now >= 0 !== (depths[i - 1] as number) >= 0 ? [i] : []));
  let last = 0;
  const seen = truth.map(({ time }) => {
    const before = last;
    while ((fixes[last]?.time ?? Infinity) <= time) last++;
    return { radius: fixes[Math.max(0, last - 1)]?.accuracy ?? 0, fix: last > before };
  });
  const isDeep = (i: number) =>
    Math.abs(depths[i] as number) >= GRAZE * (seen[i] as { radius: number }).radius;
  return cuts.map((cut, n) => {
    const [before, after] = [cuts[n - 1] ?? 0, cuts[n + 1] ?? truth.length];
    const sides = [seen.slice(before, cut), seen.slice(cut, after)];
    let [start, end] = [cut - 1, cut];
    while (start > 0 && !isDeep(start)) start--;
    while (end + 1 < truth.length && !isDeep(end)) end++;
    const [from, to] = [truth[cut - 1] as Fix, truth[cut] as Fix];
    const depth = depths[cut - 1] as number;
    const share = depth / (depth - (depths[cut] as number));
    const mix = (key: 'time' | 'lat' | 'lon') => from[key] + (to[key] - from[key]) * share;
    return {
      kind: depth < 0 ? 'enter' : 'exit',
      time: mix('time'),
      lat: mix('lat'),
      lon: mix('lon'),
      since: (truth[start] as Fix).time - slack,
      until: (truth[end] as Fix).time + slack,
      graze: start < before || end >= after || !isDeep(start) || !isDeep(end),
      unseen: !sides.every((side) => side.some(({ fix }) => fix)),
    };
  });
}

/**
 * Each reported crossing is matched with the nearest free true one of its kind; one that matches a graze is not
 * counted.
 */
function compare(events: readonly TrueEvent[], reported: readonly Event[]): Compared {
  const free = new Set(reported);
  const errors: [seconds: number, metres: number][] = [];
  let [missed, grazes] = [0, 0];
  for (const event of events.toSorted((a, b) => Number(isReported(b)) - Number(isReported(a)))) {
    const near = [...free].filter(
      ({ kind, time, notBefore = time }) =>
        kind === event.kind && time >= event.since && notBefore <= event.until,
    );
    const [nearest] = near.toSorted((a, b) => Math.abs(a.time - event.time) - Math.abs(b.time - event.time));
    if (nearest !== undefined) free.delete(nearest);
    if (nearest !== undefined && event.graze) grazes++;
    if (!isReported(event)) continue;
    if (nearest === undefined) missed++;
    else if (nearest.notBefore === undefined)
      errors.push([Math.abs(nearest.time - event.time) / 1000, distance(nearest, event)]);
  }
  return { errors, missed, grazes, false: free.size };
}

/** Whether a true crossing can be resolved by fixes. */
function isReported({ graze, unseen }: TrueEvent): boolean {
  return !graze && !unseen;
}

/** Metres behind the edge, computed in a local plane. */
function depthIn(fence: Fence, at: Position): number {
  if (fence.kind === 'circle') return fence.radius - distance(fence.centre, at);
  const north = 111_200;
  const east = north * Math.cos((at.lat * Math.PI) / 180);
  const flat = ({ lat, lon }: Position) => [(lon - at.lon) * east, (lat - at.lat) * north] as const;
  const lines =
    fence.kind === 'corridor'
      ? fence.lines
      : fence.parts.flat().map((ring) => [...ring, ring[0] as Position]);
  let [min, turn] = [Infinity, 0];
  for (const line of lines) {
    for (let i = 1; i < line.length; i++) {
      const [[ax, ay], [bx, by]] = [flat(line[i - 1] as Position), flat(line[i] as Position)];
      const [dx, dy] = [bx - ax, by - ay];
      const t = Math.max(0, Math.min(1, -(ax * dx + ay * dy) / (dx * dx + dy * dy || 1)));
      min = Math.min(min, Math.hypot(ax + t * dx, ay + t * dy));
      turn += Math.atan2(ax * by - ay * bx, ax * bx + ay * by);
    }
  }
  if (fence.kind === 'corridor') return fence.halfWidth - min;
  return Math.abs(turn) > Math.PI ? min : -min;
}
