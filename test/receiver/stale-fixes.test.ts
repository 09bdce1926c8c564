import { Receiver, Recorder, oneFix, ahead, type Fix, type FollowEvent, type RawFix } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, type SimulatedDeviceOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, kindOf, played, route, setUp } from '../support/device.js';

const far = ahead(hut, 0, 5000);
const HOUR = 3600;
const marksOf = (fixes: Iterable<Fix>) => Array.from(fixes, ({ marks = [] }) => marks.join('+'));

describe('a fix that the platform had stored', () => {
  for (const [what, age] of [
    ['a day ago', 24 * HOUR],
    ['an hour ago', HOUR],
    ['half a minute ago', 30],
    ['in the future', -HOUR],
  ] as const) {
    it(`${what} is never the answer to a request for a new one`, async () => {
      const { clock, receiver, warnings } = setUp({ storedFix: { age, at: far } });
      const asked = clock.now();
      const fix = await clock.settle(receiver.fix());
      expect([fix.lat, fix.marks]).to.deep.equal([hut.lat, undefined]);
      expect(fix.time).to.be.at.least(asked);
      expect(receiver.deliveries).to.include({ stale: 1, accepted: 1 });
      expect(warnings.join()).to.include(age > 0 ? 'from before it was asked for' : 'dated in the future');
    });
  }

  it('is believed after 5 s, marked cached, where the platform vouches for it and gives no other', async () => {
    const vouching = (warmUp: number) => {
      const { clock, device, start } = setUp({
        storedFix: { age: HOUR, at: far },
        permission: 'granted',
        warmUp,
      });
      Object.assign(device, { honoursMaxAge: true });
      return { clock, receiver: start(), one: () => oneFix({ source: device, clock }) };
    };
    for (const [warmUp, lat, marks] of [
      [4, hut.lat, undefined],
      [20, far.lat, ['cached']],
    ] as const) {
      const { clock, receiver, one } = vouching(warmUp);
      for (const asked of [() => receiver.fix(), one]) {
        const from = clock.now();
        const fix = await clock.settle(asked());
        expect([fix.lat, fix.marks]).to.deep.equal([lat, marks]);
        expect((clock.now() - from) / 1000).to.be.within(4, 5);
      }
    }
    // In a follow, what comes then does not continue it.
    const { clock, receiver } = vouching(20);
    const recorder = new Recorder();
    recorder.start(receiver.follow());
    await clock.advance(30);
    expect(marksOf(recorder.trail).slice(0, 3)).to.deep.equal(['stale', 'cached', 'clock-set']);
    expect(recorder.$summary.get().distance).to.be.below(1);
  });

  it('is an answer marked cached, within maxAge and the accuracy', async () => {
    const device = { storedFix: { age: 30, at: far } };
    const answer = async (options: { maxAge: number; accuracy?: number }) => {
      const { clock, receiver } = setUp(device);
      return clock.settle(receiver.fix(options));
    };
    expect(await answer({ maxAge: 60 })).to.deep.include({ lat: far.lat, marks: ['cached'] });
    expect((await answer({ maxAge: 20 })).lat).to.equal(hut.lat);
    expect((await answer({ maxAge: 60, accuracy: 5 })).lat).to.equal(hut.lat);
  });

  it('and nothing else: the request times out, and its note gives the age', async () => {
    const { clock, device, receiver } = setUp({ storedFix: { age: HOUR, at: far }, warmUp: 600 });
    const failure = await clock.settle(
      receiver.fix({ patience: 10 }).catch((error: unknown) => error as Error),
    );
    expect(failure).to.include({ kind: 'timed-out' });
    expect((failure as Error).message).to.include('only a stored fix came, 3610 s old');
    expect(device.watches).to.equal(0);
  });

  it('reaches the recorder of a follow, marked stale, and no readout or figure', async () => {
    const { clock, receiver } = setUp({ permission: 'granted', route, storedFix: { age: HOUR, at: far } });
    const recorder = new Recorder();
    const follow = receiver.follow();
    const shown: Fix[] = [];
    receiver.$fix.listen((fix) => shown.push(fix!));
    recorder.start(follow);
    await clock.advance(20);
    expect(marksOf(recorder.trail).slice(0, 3)).to.deep.equal(['stale', '', '']);
    expect(shown[0]!.lat).to.equal(hut.lat);
    expect(recorder.$summary.get().distance).to.be.below(40); // 5 km without the mark
    expect(recorder.$summary.get().duration).to.be.below(20);
  });

  it('is known by a device whose clock is wrong too: its third fix is believed, and all later ones', async () => {
    for (const wrong of [-HOUR, HOUR, -46 * 365.25 * 24 * HOUR]) {
      const { clock, receiver, at, sink } = played();
      const follow = receiver.follow();
      const recorder = new Recorder();
      recorder.start(follow);
      await clock.advance(0);
      for (let i = 0; i < 10; i++) {
        await clock.advance(1);
        sink().fix(at(wrong, i));
      }
      expect(marksOf(recorder.trail)).to.deep.equal([
        'stale',
        'stale',
        'clock-set',
        ...Array<string>(7).fill(''),
      ]);
      // The clock is put right: nothing is lost, after a gap.
      for (let i = 10; i < 15; i++) {
        await clock.advance(1);
        sink().fix(at(0, i));
      }
      expect(marksOf(recorder.trail).slice(10)).to.deep.equal(['clock-set', '', '', '', '']);
      expect(recorder.$summary.get().duration).to.be.within(10, 12);
    }
  });
});

describe('a clock that is put right during a follow', () => {
  for (const seconds of [HOUR, -HOUR, -1024 * 7 * 24 * HOUR, 18, -18])
    it(`by ${seconds} s: no more than two fixes are lost, and the durations are those that passed`, async () => {
      const { clock, device, receiver } = setUp({ permission: 'granted', route });
      const recorder = new Recorder();
      const follow = receiver.follow();
      recorder.start(follow);
      const passed: Fix[] = [];
      follow.onFix((fix) => passed.push(fix));
      await clock.advance(7260);
      const before = passed.length;
      device.putClock(seconds);
      await clock.advance(60);
      expect(passed.length - before).to.be.within(58, 60);
      const { duration = NaN, distance } = recorder.$summary.get();
      expect(duration).to.be.within(7250, 7320);
      expect(distance).to.be.within(1990, 2010);
    }).timeout(60_000);

  it('is known at once by a steady clock', async () => {
    const { clock: base, device } = setUp({ permission: 'granted', route });
    let ahead = 0;
    const clock = {
      now: () => base.now() + ahead,
      steady: () => base.now(),
      after: (seconds: number, action: () => void) => base.after(seconds, action),
    };
    const receiver = new Receiver({ source: device, clock, purpose: 'Test.', warn() {} });
    const events: FollowEvent['kind'][] = [];
    const follow = receiver.follow();
    const passed: Fix[] = [];
    follow.onFix((fix) => passed.push(fix));
    follow.onEvent(({ kind }) => events.push(kind));
    await base.advance(30);
    for (const seconds of [-HOUR, HOUR]) {
      ahead += seconds * 1000;
      device.putClock(seconds);
      await base.advance(30);
    }
    expect(passed.length).to.be.within(89, 90);
    expect(events.filter((kind) => kind === 'gap')).to.have.length(2);
  });
});

describe('a watch that is opened again for another demand', () => {
  it('delivers nothing twice, and remembers what it has seen', async () => {
    const { clock, receiver, at, sink } = played();
    const recorder = new Recorder();
    recorder.start(receiver.follow());
    await clock.advance(0);
    sink().fix(at(0, 0));
    await clock.advance(1);
    const last = at(0, 1);
    sink().fix(last);
    const before = sink();
    receiver.follow({ accuracy: 3 }).onFix(() => {});
    await clock.advance(0);
    expect(sink()).not.to.equal(before);
    sink().fix(last); // the platform begins with what it has
    await clock.advance(1);
    sink().fix(at(0, 9000)); // a wild fix is still one
    expect(marksOf(recorder.trail)).to.deep.equal(['', '', 'duplicate', 'outlier']);
    expect(receiver.usage.watchesOpened).to.equal(2);
  });
});

describe('a request beside a running follow', () => {
  it('takes the newest fix of the follow when it is accurate enough: a second watch would give none', async () => {
    const { clock, receiver, at, sink } = played();
    receiver.follow().onFix(() => {});
    await clock.advance(0);
    sink().fix(at(0, 0));
    await clock.advance(14);
    const fix = await receiver.fix();
    expect(fix).to.equal(receiver.$fix.get());
    const better = receiver.fix({ accuracy: 3, patience: 20 });
    await clock.advance(5);
    sink().fix(at(0, 1, { accuracy: 2 }));
    expect((await better).accuracy).to.equal(2);
    // A still device says nothing more: the last word counts, as such.
    await clock.advance(100);
    expect((await clock.settle(receiver.fix({ patience: 5 }))).marks).to.deep.equal(['cached']);
  });

  it('gives no fix from before an outage', async () => {
    const { clock, device, receiver } = setUp({ permission: 'granted' });
    receiver.follow().onFix(() => {});
    await clock.advance(5);
    device.signal = false;
    expect(await kindOf(clock.settle(receiver.fix({ patience: 10 })))).to.equal('timed-out');
  });
});

describe('a device with several watches', () => {
  it('gives every fix to each, whichever receiver they belong to', async () => {
    const clock = new VirtualClock();
    const options: SimulatedDeviceOptions = { clock, route, permission: 'granted', reception: 'exact' };
    const device = new SimulatedDevice(options);
    const times: number[][] = [];
    for (const delay of [0, 3.4, 7]) {
      await clock.advance(delay);
      const receiver = new Receiver({ source: device, clock, purpose: 'Test.' });
      const own: number[] = [];
      times.push(own);
      receiver.follow().onFix((fix) => own.push(fix.time));
    }
    await clock.advance(30);
    const [first, second, third] = times as [number[], number[], number[]];
    expect(first).to.have.length.within(40, 41);
    expect(second).to.deep.equal(first.slice(-second.length));
    expect(third).to.deep.equal(first.slice(-third.length));
    expect([second.length, third.length]).to.satisfy(([a, b]: number[]) => a! >= 36 && b! >= 29);
  });
});

it('a bundle of one that comes late is late', async () => {
  const { clock, receiver, at, sink } = played();
  const follow = receiver.follow();
  follow.onFix(() => {});
  await clock.advance(30);
  const one: RawFix = at(-20, 0);
  sink().bundle([one]);
  expect(follow.latest!.marks).to.deep.equal(['late']);
});
