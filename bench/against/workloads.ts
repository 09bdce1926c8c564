/*
 * Workloads that are timed in two commits. They use only long-standing names of the public interface, because this file
 * also runs against older sources. Each workload is made once and run many times; one run takes a few tenths of a
 * second.
 */
import {
  FenceWatch,
  Receiver,
  Recorder,
  Trail,
  ahead,
  distance,
  fixFrom,
  fenceIndex,
  readGpx,
  smoothTrail,
  thinTrail,
  writeGpx,
  type Fence,
  type Fix,
  type SourceSink,
} from 'aurelian-drift';
import { Gazetteer, type Place } from 'aurelian-drift/places';
import { VirtualClock, journey, randomFrom } from 'aurelian-drift/testing';

const HUT = { lat: 44.2, lon: -33.6 };
const FIXES = 20_000;

function walk(reception: 'trees' | 'street', count = FIXES): Fix[] {
  const fixes: Fix[] = [];
  const lane = [HUT, ahead(HUT, 40, 30_000), ahead(HUT, 110, 60_000)].map((at) => ({ ...at, altitude: 20 }));
  for (const { fix } of journey({ parts: [lane] }, { seed: 5, reception })) {
    if (fix !== undefined) fixes.push(fix);
    if (fixes.length === count) break;
  }
  return fixes;
}

/** One function a row; its return value shows that all the work was done. */
export const WORKLOADS: Readonly<Record<string, () => () => unknown>> = {
  distance() {
    const random = randomFrom(11);
    const steps = Array.from({ length: 500_000 }, () => {
      const from = { lat: 170 * random.uniform() - 85, lon: 360 * random.uniform() - 180 };
      return [from, ahead(from, 360 * random.uniform(), 30 * random.uniform())] as const;
    });
    return () => steps.reduce((sum, [from, to]) => sum + distance(from, to), 0);
  },
  gpx() {
    const text = writeGpx({ trails: [Trail.from(walk('trees'))] });
    return () => readGpx(text).trails[0]?.length;
  },
  summary() {
    const fixes = walk('street');
    return () => Trail.from(fixes).summary().distance;
  },
  smoothing() {
    const trail = Trail.from(walk('street'));
    return () => smoothTrail(trail).length;
  },
  fences() {
    const random = randomFrom(21);
    const fences = Array.from({ length: 5000 }, (_, i): Fence => {
      const centre = ahead(HUT, 360 * random.uniform(), 30_000 * Math.sqrt(random.uniform()));
      return { kind: 'circle', id: `${i}`, name: `Fence ${i}`, centre, radius: 20 + 100 * random.uniform() };
    });
    const fixes = walk('trees');
    return () => {
      const watch = new FenceWatch(fences, { index: fenceIndex() });
      return fixes.reduce((reported, fix) => reported + watch.take(fix).length, 0);
    };
  },
  /** From a source through a receiver to a recorder, three listeners and two live values. */
  following() {
    const fixes = walk('trees');
    return async () => {
      const clock = new VirtualClock(fixes[0]?.time);
      let sink: SourceSink | undefined;
      const source = {
        name: 'the bench',
        supported: true,
        readAccess: () => Promise.resolve({ permission: 'granted', level: 'foreground' } as const),
        onAccess: () => () => {}, // before version 0.2
        prompt: () => Promise.resolve(),
        watch(_demand: unknown, to: SourceSink) {
          sink = to;
          return () => {};
        },
      };
      const receiver = new Receiver({ source, clock, purpose: 'Bench.', warn: () => {} });
      const follow = receiver.follow();
      const recorder = new Recorder({ clock });
      recorder.start(follow);
      let reported = 0;
      for (let i = 0; i < 3; i++) follow.onFix(() => reported++);
      receiver.$fix.subscribe(() => reported++);
      receiver.$status.subscribe(() => reported++);
      await clock.advance(1);
      for (const fix of fixes) sink?.fix(fix);
      follow.stop();
      return [reported, recorder.trail.length];
    };
  },
  thinning() {
    const trail = Trail.from(walk('trees'));
    return () => Array.from({ length: 40 }, () => thinTrail(trail, 5).length).at(-1);
  },
  places() {
    const random = randomFrom(3);
    const places = Array.from({ length: 50_000 }, (_, i): Place => ({
      kind: 'house',
      houseNumber: String(1 + (i % 40)),
      street: `Plover Lane ${Math.floor(i / 40)}`,
      locality: 'Wick Orrin',
      ...ahead(HUT, 360 * random.uniform(), 20_000 * random.uniform()),
    }));
    const asked = Array.from({ length: 4000 }, () =>
      fixFrom({ time: 1.7e12, ...ahead(HUT, 360 * random.uniform(), 20_000 * random.uniform()) }),
    );
    const gazetteer = new Gazetteer(places);
    return () => asked.reduce((found, at) => found + gazetteer.at(at).length, 0);
  },
};
