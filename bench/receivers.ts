import { RunningSummary, fixFrom, type Summary } from 'aurelian-drift';
import {
  journey,
  standstill,
  type AccuracyStatement,
  type Gait,
  type JourneyOptions,
  type Reception,
} from 'aurelian-drift/testing';
import { distance } from 'aurelian-drift';
import { ROUTE, medianOf } from './walks.js';
import type { Row } from './measure.js';

/*
 * Fixes without a speed, of receivers that smooth their positions and of others: distance, time in motion, stops and
 * top speed, beside the truth of the journey.
 */

const JOURNEYS = 30;
/** The first seed. No seed was used for tuning. */
const FIRST_SEED = 80_001;
/** Rests of one to ten minutes. */
const RESTS = { every: 700, for: 300 };
/** A stop is a rest of at least so many seconds. */
const STOP = 60;

export const KINDS = [
  'meadow',
  'wood',
  'town',
  'open',
  'trees',
  'street',
] as const satisfies readonly Reception[];
type Kind = (typeof KINDS)[number];

/** Seconds between fixes: regular, or irregular. */
export const STEPS = {
  '1 s': { every: 1 },
  '5 s': { every: 5 },
  '1 to 10 s': { every: 1, everyUpTo: 10 },
} as const satisfies Readonly<Record<string, JourneyOptions>>;

/** Journeys under one kind of reception. Shares of the truth, as medians over the journeys. */
export interface Figures {
  readonly distance: number;
  readonly distanceWorst: number;
  readonly raw: number;
  readonly moving: number;
  readonly top: number;
  /** Stops that were not found or not there, and stops that there were. */
  readonly wrongStops: number;
  readonly stops: number;
}

interface Journeyed {
  readonly summary: Summary;
  readonly way: number;
  readonly moving: number;
  readonly top: number;
  readonly stops: number;
}

function go(options: JourneyOptions): Journeyed {
  const running = new RunningSummary();
  let [way, moving, top, stops, resting] = [0, 0, 0, 0, 0];
  let last: { readonly lat: number; readonly lon: number; readonly time: number } | undefined;
  const endRest = () => {
    if (resting >= STOP) stops++;
    resting = 0;
  };
  for (const { truth, fix } of journey(ROUTE, options)) {
    const seconds = last === undefined ? 0 : (truth.time - last.time) / 1000;
    if (last !== undefined) way += distance(last, truth);
    const speed = truth.speed ?? 0;
    if (speed > 0.4) {
      moving += seconds;
      endRest();
    } else resting += seconds;
    top = Math.max(top, speed);
    last = truth;
    if (fix !== undefined) running.take(fixFrom(fix));
  }
  endRest();
  running.breakSegment();
  return { summary: running.summary(), way, moving, top, stops };
}

/** Journeys of each seed with the same options. */
export function figuresOf(options: JourneyOptions, stated: readonly AccuracyStatement[]): Figures {
  const all = Array.from({ length: JOURNEYS }, (_, i) =>
    go({
      ...options,
      seed: FIRST_SEED + i,
      statedSpeed: 'absent',
      statedAccuracy: stated[i % stated.length] ?? 'absent',
    }),
  );
  const off = (read: (each: Journeyed) => number) => medianOf(all.map((each) => Math.abs(read(each) - 1)));
  return {
    distance: off(({ summary, way }) => summary.distance / way),
    distanceWorst: Math.max(...all.map(({ summary, way }) => Math.abs(summary.distance / way - 1))),
    raw: medianOf(all.map(({ summary, way }) => summary.rawDistance / way - 1)),
    moving: off(({ summary, moving }) => (summary.moving ?? 0) / moving),
    top: off(({ summary, top }) => (summary.topSpeed ?? 0) / top),
    wrongStops: all.reduce((sum, { summary, stops }) => sum + Math.abs(summary.stops.length - stops), 0),
    stops: all.reduce((sum, { stops }) => sum + stops, 0),
  };
}

/** Half an hour of standing: median and greatest metres that are counted, the raw sum, and the stops found. */
export function standingOf(reception: Reception, options: JourneyOptions) {
  const all = Array.from({ length: JOURNEYS }, (_, i) => {
    const running = new RunningSummary();
    const place = { lat: 44.19, lon: -33.6 };
    const moments = standstill(place, {
      ...options,
      reception,
      seed: FIRST_SEED + i,
      statedSpeed: 'absent',
      statedAccuracy: 'absent',
    });
    let start: number | undefined;
    for (const { truth, fix } of moments) {
      start ??= truth.time;
      if (truth.time - start > 1_800_000) break;
      if (fix !== undefined) running.take(fixFrom(fix));
    }
    running.breakSegment();
    return running.summary();
  });
  return {
    metres: medianOf(all.map((summary) => summary.distance)),
    most: Math.max(...all.map((summary) => summary.distance)),
    raw: medianOf(all.map(({ rawDistance }) => rawDistance)),
    stops: medianOf(all.map(({ stops }) => stops.length)),
  };
}

export const NOTHING: readonly AccuracyStatement[] = ['absent'];
const ACCURACY: readonly AccuracyStatement[] = ['true', 'one-sigma', 'halved', 'doubled'];

const percent = (share: number) => `${(100 * share).toFixed(1)} %`;

/** Greatest errors of the distance on foot: with positions and times only, and with an accuracy. */
const ON_FOOT: Readonly<Record<Kind, readonly [number, number]>> = {
  meadow: [0.01, 0.01],
  open: [0.01, 0.01],
  wood: [0.02, 0.015],
  trees: [0.02, 0.015],
  town: [0.04, 0.03],
  street: [0.04, 0.03],
};
const FASTER: readonly (readonly [Gait, goal: number])[] = [
  ['cycle', 0.01],
  ['drive', 0.015],
];

/** Distance, time in motion and stops of fixes without a speed. */
export function receiverRows(): Row[] {
  return KINDS.flatMap((reception) => [
    ...([NOTHING, ACCURACY] as const).map((stated, i) =>
      footRow(reception, stated, ON_FOOT[reception][i] ?? 0),
    ),
    ...(reception === 'meadow' || reception === 'open'
      ? FASTER.map(([gait, goal]) => fasterRow(reception, gait, goal))
      : []),
    standingRow(reception),
  ]);
}

function footRow(reception: Kind, stated: readonly AccuracyStatement[], goal: number): Row {
  const seen = figuresOf({ reception, rests: RESTS }, stated);
  return {
    what:
      `distance without speeds under \`${reception}\`, ` +
      (stated === NOTHING ? 'positions and times only' : 'with an accuracy'),
    ours:
      `off by ${percent(seen.distance)}, at worst ${percent(seen.distanceWorst)}; moving off by ` +
      `${percent(seen.moving)}, top speed by ${percent(seen.top)}, ${seen.wrongStops} of ${seen.stops} stops wrong`,
    baseline: `raw sum +${percent(seen.raw)}`,
    ratio: `${(seen.distance / seen.raw).toFixed(3)} × the raw error`,
    goal: `≤ ${percent(goal)}`,
    met: seen.distance <= goal,
  };
}

function fasterRow(reception: Kind, gait: Gait, goal: number): Row {
  const seen = figuresOf({ reception, gait, rests: RESTS }, NOTHING);
  return {
    what: `the same, gait \`${gait}\`, under \`${reception}\``,
    ours: `off by ${percent(seen.distance)}, at worst ${percent(seen.distanceWorst)}`,
    baseline: `raw sum ${seen.raw < 0 ? '' : '+'}${percent(seen.raw)}`,
    ratio: `${(seen.distance / Math.abs(seen.raw)).toFixed(3)} × the raw error`,
    goal: `≤ ${percent(goal)}`,
    met: seen.distance <= goal,
  };
}

function standingRow(reception: Kind): Row {
  const { metres, most, raw, stops } = standingOf(reception, {});
  return {
    what: `standing for half an hour without speeds under \`${reception}\``,
    ours: `${metres.toFixed(0)} m, at most ${most.toFixed(0)} m, ${stops} stop`,
    baseline: `raw sum ${raw.toFixed(0)} m`,
    ratio: `${(metres / raw).toFixed(3)} ×`,
    goal: '< 20 m, 1 stop',
    met: metres < 20 && stops === 1,
  };
}
