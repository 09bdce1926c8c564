import {
  FenceWatch,
  Recorder,
  Trail,
  ahead,
  distance,
  dutyCycling,
  type Fence,
  type FollowEvent,
  type FollowOptions,
  type DutyCyclingOptions,
} from 'aurelian-drift';
import { journey, type SimulatedDeviceOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, setUp } from '../support/device.js';

const granted = { permission: 'granted' } as const;
const square = {
  parts: [[hut, ahead(hut, 90, 900), ahead(ahead(hut, 90, 900), 0, 900), ahead(hut, 0, 900), hut]],
};

/** Follows with duty cycling, and collects the events. */
function isDutyCycling(
  device: SimulatedDeviceOptions,
  options: DutyCyclingOptions = {},
  follow: FollowOptions = {},
) {
  const made = setUp({ ...granted, ...device });
  const spared: (FollowEvent & { kind: 'receiver-off' })[] = [];
  const following = made.receiver.follow({ dutyCycling: dutyCycling(options), ...follow });
  following.onEvent((event) => {
    if (event.kind === 'receiver-off') spared.push(event);
  });
  following.onFix(() => {});
  return { ...made, follow: following, spared };
}

describe('duty cycling', () => {
  it('leaves the receiver off at rest, the longer the longer it lasts, and back on in motion', async () => {
    const { clock, device, receiver, follow, spared } = isDutyCycling({ at: hut, reception: 'open' });
    await clock.advance(50);
    expect(receiver.usage.receiverOn).to.be.closeTo(50, 0.1);
    await clock.advance(250); // five minutes of rest
    const pauses = () => spared.map(({ until }, i) => (until - (spared[i - 1]?.until ?? 0)) / 1000).slice(1);
    expect(Math.max(...pauses())).to.be.within(30, 65);
    await clock.advance(1500);
    expect(pauses().at(-1)).to.be.within(115, 125); // the longest interval
    expect(spared.every(({ reason }) => reason === 'rest')).to.equal(true);
    expect(follow.state).to.equal('still'); // not silent: nothing was expected
    const before = receiver.usage.receiverOn;
    expect(before).to.be.below(200);
    device.walk(square);
    await clock.advance(600);
    expect(follow.state).to.equal('live');
    expect(receiver.usage.receiverOn - before).to.be.above(600 - 125);
    follow.stop();
    expect([receiver.receiving, device.watches]).to.deep.equal([false, 0]);
    const { receiverOn, fine, rough } = receiver.usage;
    expect([fine, rough]).to.deep.equal([receiverOn, 0]);
    await clock.advance(600);
    expect(receiver.usage.receiverOn).to.equal(receiverOn);
  });

  it(
    'uses well below 40 % of an always-on receiver for a day of rounds and rests, and ' + 'loses no distance',
    async () => {
      for (const reception of ['open', 'trees'] as const) {
        const rests = { every: 1800, for: 4200 };
        const { clock, receiver, follow } = isDutyCycling(
          { route: square, afterwards: 'again', reception, rests, seed: 90_001 },
          {},
          { profile: 'round' },
        );
        const recorder = new Recorder({ name: 'Day' });
        recorder.start(follow);
        const began = clock.now();
        await clock.advance(8 * 3600);
        follow.stop();
        const trail = await recorder.finish();
        let [way, walked, start, last] = [
          0,
          0,
          trail.at(0)!.time,
          undefined as { lat: number; lon: number } | undefined,
        ];
        for (let round = 0; start < clock.now(); round++) {
          for (const { truth } of journey(square, {
            seed: 90_001 + round,
            reception: 'exact',
            rests,
            start,
          })) {
            if (truth.time > clock.now()) break;
            if (last !== undefined) way += distance(last, truth);
            if (truth.speed! > 0.4) walked++;
            last = truth;
            start = truth.time + 1000;
          }
          if (start >= clock.now() - 1000) break;
        }
        expect(walked / 3600).to.be.within(1.5, 2.7);
        const summary = trail.summary();
        expect((receiver.usage.receiverOn * 1000) / (clock.now() - began)).to.be.below(0.38);
        expect(summary.distance / way).to.be.within(0.97, 1.03);
        expect(summary.gaps).to.deep.equal([]); // a planned pause is not a gap
        expect(trail.isMarked(0, 'planned-gap')).to.equal(false);
        expect(
          Array.from({ length: trail.length }, (_, i) => trail.isMarked(i, 'planned-gap')).filter(Boolean)
            .length,
        ).to.be.above(50);
        expect(summary.stops.length).to.be.within(3, 7);
      }
    },
  ).timeout(240_000);

  it('is never later at an edge than the bound, whoever sets off after a rest at any distance from it', async () => {
    for (const [lateness, topSpeed] of [
      [15, 3],
      [6, 2],
      [60, 8],
    ] as const) {
      const late: number[] = [];
      for (let i = 0; i < 12; i++) {
        const metres = 8 * 1.6 ** i;
        const fence: Fence = {
          kind: 'circle',
          id: 'bank',
          name: 'Bank',
          centre: ahead(hut, 90, metres + 200),
          radius: 200,
        };
        const watch = new FenceWatch([fence]);
        const { clock, device, follow } = isDutyCycling(
          { at: hut, reception: 'exact', seed: i },
          { nearestEdge: (at) => watch.nearestEdge(at), lateness, topSpeed },
        );
        let noticed = NaN;
        follow.onFix((fix) => {
          if (watch.take(fix).some(({ kind }) => kind === 'enter')) noticed = clock.now();
        });
        await clock.advance(1200 + 7 * i);
        const left = clock.now();
        device.walk({ parts: [[hut, ahead(hut, 90, metres + 200)]] });
        const entered = Array.from(
          journey(
            { parts: [[hut, ahead(hut, 90, metres + 200)]] },
            { seed: i, start: left, reception: 'exact' },
          ),
        ).find(({ truth }) => distance(truth, hut) >= metres)!;
        await clock.advance(metres + 240);
        follow.stop();
        late.push((noticed - entered.truth.time) / 1000);
      }
      for (const seconds of late) expect(seconds).to.be.within(0, lateness + 1); // fixes come once a second
    }
  }).timeout(240_000);

  it('sleeps in motion too between fixes that are asked for seldom, and wakes in time for an edge', async () => {
    const fence: Fence = {
      kind: 'circle',
      id: 'bank',
      name: 'Bank',
      centre: ahead(hut, 90, 700),
      radius: 60,
    };
    const watch = new FenceWatch([fence]);
    const { clock, receiver, follow, spared } = isDutyCycling(
      { route: { parts: [[hut, ahead(hut, 90, 1400)]] }, reception: 'open', seed: 5 },
      { nearestEdge: (at) => watch.nearestEdge(at) },
      { every: 60 },
    );
    const reported: string[] = [];
    follow.onFix((fix) => reported.push(...watch.take(fix).map(({ kind }) => kind)));
    await clock.advance(1000);
    expect(reported).to.deep.equal(['enter', 'exit']);
    expect(receiver.usage.receiverOn).to.be.below(400);
    expect(new Set(spared.map(({ reason }) => reason))).to.deep.equal(new Set(['interval', 'edge']));
    follow.stop();
  });

  it('spares more when the battery is low, but is no later at an edge for that', async () => {
    const pausesAt = async (battery: number | undefined, edge: number) => {
      const { clock, spared } = isDutyCycling(
        { at: hut, reception: 'exact' },
        { battery: () => battery, nearestEdge: () => edge },
      );
      await clock.advance(900);
      return spared.map(({ until }, i) => (until - (spared[i - 1]?.until ?? until)) / 1000);
    };
    const [full, low, unknown] = [
      await pausesAt(0.9, 1e5),
      await pausesAt(0.1, 1e5),
      await pausesAt(undefined, 1e5),
    ];
    expect(low.length).to.be.below(0.7 * full.length);
    expect(unknown).to.deep.equal(full);
    const near = await pausesAt(0.1, 60);
    expect(Math.max(...near)).to.be.below(60 / 3 + 16);
  });

  it('waits for a better fix after switching on, and leaves one that runs for somebody else alone', async () => {
    const { clock, receiver, follow, spared } = isDutyCycling({ at: hut, reception: 'open' });
    await clock.advance(400);
    const count = spared.length;
    expect(count).to.be.above(3);
    const other = receiver.follow();
    const seen: number[] = [];
    other.onFix((fix) => seen.push(fix.time));
    const tapped: boolean[] = [];
    follow.onFix((fix) => tapped.push(fix.marks?.includes('planned-gap') === true));
    await clock.advance(300);
    expect(seen.length).to.be.above(290); // its fixes are not delayed
    expect(tapped.length).to.be.above(290); // and the thrifty listener gets them for free
    expect(tapped.filter(Boolean).length).to.be.below(2);
    expect(spared.length).to.be.below(count + 2);
    other.stop();
    await clock.advance(300);
    expect(spared.length).to.be.above(count + 1);
    follow.stop();
  });

  it('continues through hiding and showing, and stops on request while the receiver is off', async () => {
    const { clock, device, receiver, follow, spared } = isDutyCycling({ at: hut, reception: 'open' });
    await clock.advance(400);
    device.hide();
    await clock.advance(300);
    expect([follow.state, receiver.receiving]).to.deep.equal(['paused', false]);
    device.show();
    await clock.advance(200);
    expect(follow.state).to.equal('still');
    const count = spared.length;
    while (receiver.receiving) await clock.advance(1);
    expect(follow.running).to.equal(true);
    follow.stop();
    await clock.advance(300);
    expect([receiver.receiving, spared.length]).to.deep.equal([false, Math.max(count, spared.length)]);
    expect(device.watches).to.equal(0);
  });

  it('names an unknown option', () => {
    expect(() => dutyCycling({ nearestEgde: () => 5 } as DutyCyclingOptions)).to.throw(
      'dutyCycling has no option "nearestEgde", did you mean "nearestEdge"?',
    );
    expect(() => dutyCycling({ lateness: 1 })).to.throw('lateness must be 5 to 3600 seconds');
    const { receiver } = setUp(granted);
    expect(() => receiver.follow({ dutyCycling: true as never })).to.throw('must be dutyCycling(');
  });

  it('leaves its remark in the trail, which takes it through files', () => {
    const trail = Trail.from([{ time: 1_800_000_000_000, ...hut, marks: ['planned-gap'] }]);
    expect([
      trail.isMarked(0, 'planned-gap'),
      trail.isMarked(0, 'outlier'),
      trail.isMarked(7, 'planned-gap'),
    ]).to.deep.equal([true, false, false]);
  });
});
