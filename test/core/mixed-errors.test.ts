import {
  FenceWatch,
  MotionMeter,
  Receiver,
  RunningSummary,
  SlopeCounter,
  SplitCounter,
  ahead,
  type Fence,
  type Fix,
  type RawFix,
  type Source,
  type SourceSink,
} from 'aurelian-drift';
import { VirtualClock, journey, type Reception } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { hut } from '../support/device.js';

/** East from the hut, around a corner, and on. */
const route = {
  parts: [
    [
      { ...hut, altitude: 20 },
      { ...ahead(hut, 90, 400), altitude: 60 },
      { ...ahead(ahead(hut, 90, 400), 0, 300), altitude: 30 },
    ],
  ],
};
/** Beyond the end of the route: crossed by a clean walk afterwards. */
const START = ahead(ahead(hut, 90, 400), 0, 300);
const gate: Fence = { kind: 'circle', id: 'gate', name: 'Gate', centre: ahead(START, 0, 300), radius: 60 };
const onTheWay: Fence = { kind: 'circle', id: 'way', name: 'Way', centre: ahead(hut, 90, 200), radius: 40 };

/** What may happen to fixes, from a place in the stream on. */
type Trouble =
  | { kind: 'clock'; seconds: number }
  | { kind: 'coarse'; metres: number; count: number }
  | { kind: 'gap' }
  | { kind: 'silence'; seconds: number }
  | { kind: 'wild'; metres: number }
  | { kind: 'unknown'; value: number }
  | { kind: 'bundle'; count: number }
  | { kind: 'repeat' };

const trouble: fc.Arbitrary<Trouble> = fc.oneof(
  fc.record({
    kind: fc.constant('clock' as const),
    seconds: fc.constantFrom(3600, -3600, 18, -18, -86_400 * 7 * 1024, 86_400 * 365),
  }),
  fc.record({
    kind: fc.constant('coarse' as const),
    metres: fc.integer({ min: 60, max: 5000 }),
    count: fc.integer({ min: 1, max: 4 }),
  }),
  fc.record({ kind: fc.constant('gap' as const) }),
  fc.record({ kind: fc.constant('silence' as const), seconds: fc.integer({ min: 20, max: 900 }) }),
  fc.record({ kind: fc.constant('wild' as const), metres: fc.integer({ min: 500, max: 1e6 }) }),
  fc.record({ kind: fc.constant('unknown' as const), value: fc.constantFrom(-1, NaN, Infinity, -400) }),
  fc.record({ kind: fc.constant('bundle' as const), count: fc.integer({ min: 1, max: 20 }) }),
  fc.record({ kind: fc.constant('repeat' as const) }),
);

const journeys = fc.record({
  reception: fc.constantFrom<Reception>('meadow', 'wood', 'town', 'open', 'trees', 'street'),
  seed: fc.integer({ min: 1, max: 1e6 }),
  statedSpeed: fc.constantFrom('true' as const, 'absent' as const, 'zero' as const),
  statedAccuracy: fc.constantFrom(
    'true' as const,
    'absent' as const,
    'one-sigma' as const,
    'halved' as const,
    'doubled' as const,
  ),
  everyUpTo: fc.constantFrom(1, 5, 10),
  troubles: fc.array(fc.tuple(fc.integer({ min: 5, max: 400 }), trouble), { maxLength: 6 }),
});

/** Plays a journey with its troubles into a receiver, and calls `after` before the clean walk at the end. */
async function play(
  { troubles, ...options }: { readonly troubles: readonly (readonly [number, Trouble])[] },
  onFix: (fix: Fix) => void,
  onGap: () => void,
) {
  const clock = new VirtualClock();
  let sink: SourceSink | undefined;
  const source: Source = {
    name: 'a troubled source',
    supported: true,
    readAccess: () => Promise.resolve({ permission: 'granted', level: 'foreground' }),
    prompt: () => Promise.resolve(),
    watch: (_demand, given) => {
      sink = given;
      return () => {};
    },
  };
  const receiver = new Receiver({ source, clock, purpose: 'Test.', warn() {} });
  const follow = receiver.follow();
  follow.onEvent(({ kind }) => kind === 'gap' && onGap());
  follow.onFix(onFix, { all: true, unsampled: true });
  await clock.advance(0);
  let offset = 0;
  let coarse = { left: 0, metres: 0 };
  let held: RawFix[] | undefined;
  let holding = 0;
  const give = (raw: RawFix) => {
    if (holding > 0) {
      (held ??= []).push(raw);
      if (--holding > 0) return;
      const all = held;
      held = undefined;
      sink!.bundle(all);
    } else sink!.fix(raw);
  };
  const due = new Map<number, Trouble>(troubles);
  let i = 0;
  for (const { truth, fix } of journey(route, { ...options, start: clock.now() })) {
    await clock.advance(Math.max(0, (truth.time - clock.now()) / 1000));
    if (fix === undefined) continue;
    let raw: RawFix = { ...fix, time: clock.now() + offset };
    const now = due.get(i++);
    if (now?.kind === 'clock') offset += now.seconds * 1000;
    else if (now?.kind === 'coarse') coarse = { left: now.count, metres: now.metres };
    else if (now?.kind === 'gap') sink!.gap();
    else if (now?.kind === 'silence') await clock.advance(now.seconds);
    else if (now?.kind === 'wild') raw = { ...raw, ...ahead(raw, 123, now.metres) };
    else if (now?.kind === 'unknown')
      raw = { ...raw, speed: now.value, accuracy: now.value, course: now.value, altitude: now.value };
    else if (now?.kind === 'bundle') holding = now.count;
    else if (now?.kind === 'repeat') give(raw);
    if (coarse.left-- > 0) {
      const { lat, lon } = ahead(raw, 77, coarse.metres * 0.6);
      raw = { time: raw.time, lat, lon, accuracy: coarse.metres, origin: 'network' };
    }
    give(raw);
  }
  holding = 0;
  // A clean walk of ten minutes through the gate.
  for (let second = 0; second < 600; second++) {
    await clock.advance(1);
    sink!.fix({ time: clock.now() + offset, ...ahead(START, 0, second), accuracy: 6, speed: 1, course: 0 });
  }
  follow.stop();
  return receiver;
}

/** All numbers in a value. */
const numbersIn = (value: unknown): number[] =>
  typeof value === 'number'
    ? [value]
    : typeof value === 'object' && value !== null
      ? Object.values(value).flatMap(numbersIn)
      : [];

describe('all kinds of errors, mixed', function () {
  this.timeout(120_000);

  it('make no figure impossible, no fence deaf, and no crossing without its fix', async () => {
    await fc.assert(
      fc.asyncProperty(journeys, async (given) => {
        const running = new RunningSummary();
        const [splits, slope, motion] = [new SplitCounter(100), new SlopeCounter(), new MotionMeter()];
        const watch = new FenceWatch([gate, onTheWay]);
        const crossings: [kind: string, fence: string][] = [];
        const times = new Set<number>();
        const take = (fix: Fix) => {
          times.add(fix.time);
          for (const each of [running, splits, slope]) each.take(fix);
          expect(numbersIn(motion.take(fix)).every((number) => number >= 0)).to.equal(true);
          for (const { kind, fence, time, duration = 0 } of watch.take(fix)) {
            crossings.push([kind, fence]);
            // Its time lies between two fixes, of which this is the later one.
            expect(time).to.be.at.most(fix.time);
            expect(time).to.be.at.least(Math.min(...times));
            expect(duration).to.be.at.least(0);
          }
        };
        const breakAll = () => {
          for (const each of [running, splits, slope, watch, motion]) each.breakSegment();
        };
        const receiver = await play(given, take, breakAll);
        breakAll();
        const summary = running.summary();
        for (const number of numbersIn({ ...summary, bounds: undefined, stops: [] }))
          expect(number).to.be.at.least(0);
        const { stops, bounds } = summary;
        expect(numbersIn({ ...summary, stops, bounds }).every(Number.isFinite)).to.equal(true);
        expect(summary.distance).to.be.at.most(summary.rawDistance * 1.15 + 60);
        expect(summary.moving!).to.be.at.most(summary.duration! + 1);
        expect(summary.resting!).to.be.at.least(0);
        for (const { distance, duration, moving } of splits.splits) {
          expect(distance).to.be.within(0, 100.001);
          expect(moving).to.be.at.least(0);
          expect(duration).to.be.finite;
        }
        expect(slope.metres ?? summary.distance).to.be.within(
          summary.distance - 0.01,
          summary.distance * 1.5 + 50,
        );
        // After all that, the gate is crossed like any other.
        expect(crossings.filter(([, fence]) => fence === 'gate').slice(-2)).to.deep.equal([
          ['enter', 'gate'],
          ['exit', 'gate'],
        ]);
        expect(receiver.$fix.get()!.lat).to.be.closeTo(ahead(START, 0, 599).lat, 1e-9);
      }),
      { numRuns: 20 },
    );
  });
});
