import { Receiver, Recorder, distance, dutyCycling, type Position } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, journey, type Reception } from 'aurelian-drift/testing';
import type { Row } from './measure.js';
import { ROUTE, medianOf } from './walks.js';

const HOURS = 8;
const DAYS = 10;
const FIRST_SEED = 60_001;
/** Twenty minutes of walking, an hour of rest. */
const RESTS = { every: 1620, for: 3600 };

/** A day of field work: how long the receiver is on, and which part of the distance is lost for it. */
export async function dutyCyclingRows(): Promise<Row[]> {
  const rows: Row[] = [];
  for (const reception of ['open', 'trees'] as const) rows.push(await dutyCyclingRow(reception));
  return rows;
}

async function dutyCyclingRow(reception: Reception): Promise<Row> {
  const days = [];
  for (let i = 0; i < DAYS; i++) days.push(await day(reception, FIRST_SEED + 10 * i));
  const on = medianOf(days.map((each) => each.on));
  const max = Math.max(...days.map((each) => each.on));
  const off = medianOf(days.map((each) => Math.abs(each.off)));
  const worst = Math.max(...days.map((each) => Math.abs(each.off)));
  const walked = medianOf(days.map((each) => each.walked));
  const percent = (share: number) => `${(100 * share).toFixed(1)} %`;
  return {
    what: `receiver-on time under \`${reception}\`, ${DAYS} days of ${HOURS} h with ${walked.toFixed(1)} h walked`,
    ours:
      `${percent(on)} of the day, at most ${percent(max)}; trail off by ${percent(off)}, at worst ` +
      percent(worst),
    baseline: 'always on 100 %',
    ratio: `${on.toFixed(2)} ×`,
    goal: '≤ 40 %, trail within 5 %',
    met: max <= 0.4 && worst <= 0.05,
  };
}

async function day(reception: Reception, seed: number) {
  const clock = new VirtualClock();
  const device = new SimulatedDevice({
    route: ROUTE,
    afterwards: 'again',
    rests: RESTS,
    reception,
    seed,
    clock,
    permission: 'granted',
  });
  const receiver = new Receiver({ source: device, clock, purpose: 'Record the day.' });
  const recorder = new Recorder({ name: 'Day' });
  const follow = receiver.follow({ profile: 'round', dutyCycling: dutyCycling() });
  recorder.start(follow);
  const began = clock.now();
  await clock.advance(HOURS * 3600);
  follow.stop();
  const trail = await recorder.finish();
  const { way, walked } = truthOf(seed, trail.at(0)?.time ?? began, clock.now());
  return {
    on: (receiver.usage.receiverOn * 1000) / (clock.now() - began),
    off: trail.summary().distance / way - 1,
    walked: walked / 3600,
  };
}

/** The true day: metres of the way, and seconds of walking. */
function truthOf(seed: number, from: number, to: number): { way: number; walked: number } {
  let [way, walked, start] = [0, 0, from];
  let last: Position | undefined;
  for (let round = 0; ; round++) {
    for (const { truth } of journey(ROUTE, { seed: seed + round, reception: 'exact', rests: RESTS, start })) {
      if (truth.time > to) return { way, walked };
      if (last !== undefined) way += distance(last, truth);
      if ((truth.speed ?? 0) > 0.4) walked++;
      last = truth;
      start = truth.time + 1000;
    }
  }
}
