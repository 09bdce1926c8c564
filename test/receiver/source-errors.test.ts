import { Receiver, type Follow, type Source, type SourceSink } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { hut, kindOf, route, setUp, takesOn } from '../support/device.js';

const granted = { permission: 'granted', route } as const;

describe('a source that misbehaves', () => {
  it('by throwing as it starts: the follow fails as unknown, and it is counted and reported', async () => {
    const { receiver, device, clock, warnings } = setUp(granted);
    device.watch = () => {
      throw new Error('the driver has gone');
    };
    const follow = receiver.follow();
    follow.onEvent(takesOn);
    await clock.advance(1);
    expect([follow.error!.kind, (follow.error!.cause as Error).message]).to.deep.equal([
      'unknown',
      'the driver has gone',
    ]);
    expect(receiver.deliveries.problems).to.equal(1);
    expect(warnings.join()).to.include('threw on watch: Error: the driver has gone');
  });

  it('by throwing as it is released, or when it is read, or by never answering: the receiver stays whole', async () => {
    const { receiver, device, clock } = setUp(granted);
    const watch = device.watch.bind(device);
    device.watch = (demand, sink) => {
      const release = watch(demand, sink);
      return () => {
        release();
        throw new Error('no');
      };
    };
    expect(await clock.settle(receiver.fix())).to.include({ lat: hut.lat });
    device.readAccess = () => Promise.reject(new Error('not now'));
    expect(await receiver.readAccess()).to.include({
      support: 'yes',
      permission: 'unknown',
      switch: 'unknown',
    });
    device.watch = () => () => {};
    expect(await kindOf(clock.settle(receiver.fix({ patience: 9 })))).to.equal('timed-out');
    expect(receiver.deliveries.problems).to.equal(1);
    expect(receiver.$diagnostics.get().map(({ text }) => text)).to.have.length(2);
  });

  it('by answering after the stop, or with nonsense: left out and counted, each by its kind', async () => {
    const { receiver, device, clock } = setUp(granted);
    let sink: SourceSink | undefined;
    device.watch = (_demand, given) => {
      sink = given;
      return () => {};
    };
    const follow = receiver.follow();
    let received = 0;
    follow.onFix(() => received++, { all: true });
    await clock.advance(1);
    const time = clock.now();
    sink!.fix({ time, ...hut });
    for (const nonsense of [
      { time: NaN, ...hut },
      { time, lat: 144, lon: 0 },
      { time: time + 1, lat: NaN, lon: 0 },
      { time: 17, ...hut },
      { time, lat: '44', lon: 3 },
      { time: Infinity, ...hut },
      { time, ...hut, acuracy: 4 }, // the position is kept: a duplicate
    ]) {
      sink!.fix(nonsense as never);
    }
    follow.stop();
    sink!.fix({ time: time + 1000, ...hut });
    sink!.end();
    expect([received, follow.state]).to.deep.equal([2, 'stopped']);
    expect(receiver.deliveries).to.include({ accepted: 1, impossible: 6, afterStop: 2 });
    expect(
      receiver.$diagnostics
        .get()
        .map(({ text }) => text)
        .join(),
    ).to.include('did you mean "accuracy"?');
  });

  it('reports each problem once, and counts how often it happened', async () => {
    const { receiver, device, clock, warnings } = setUp(granted);
    device.watch = (_demand, sink) => {
      for (let i = 0; i < 100; i++) sink.fix({ time: clock.now(), lat: 100, lon: 0 });
      return () => {};
    };
    receiver.follow().onFix(() => {});
    await clock.advance(1);
    expect([warnings.length, receiver.$diagnostics.get()[0]!.count]).to.deep.equal([1, 100]);
  });

  it('a listener that throws takes no fix from the others', async () => {
    const { receiver, clock, warnings } = setUp(granted);
    const follow = receiver.follow();
    let received = 0;
    follow.onFix(() => {
      throw new Error('a slip in the app');
    });
    follow.onFix(() => received++);
    await clock.advance(5.5);
    expect(received).to.equal(5);
    expect(warnings).to.deep.equal(['a listener of a follow threw: Error: a slip in the app']);
  });
});

/** Counts what is open on a device, and checks that nothing is opened twice. */
function counting(device: SimulatedDevice): { source: Source; open: () => number; max: () => number } {
  let open = 0;
  let max = 0;
  const watch = device.watch.bind(device);
  device.watch = (demand, sink) => {
    open++;
    max = Math.max(max, open);
    const release = watch(demand, sink);
    return () => {
      open--;
      release();
    };
  };
  return { source: device, open: () => open, max: () => max };
}

describe('fifty follows, opened and closed at random', () => {
  it('leave no watch open, and none of them gets a fix after its stop or one twice', async () => {
    const action = fc.record({
      kind: fc.constantFrom('open', 'open', 'stop', 'stop twice', 'wait', 'hide', 'show', 'outage', 'signal'),
      which: fc.nat(49),
      seconds: fc.integer({ min: 0, max: 8 }),
      accuracy: fc.option(fc.integer({ min: 1, max: 2000 }), { nil: undefined }),
      background: fc.boolean(),
    });
    await fc.assert(
      fc.asyncProperty(fc.array(action, { minLength: 50, maxLength: 150 }), async (actions) => {
        const clock = new VirtualClock();
        const device = new SimulatedDevice({
          route,
          clock,
          permission: 'granted',
          level: 'background',
          background: 'by-level',
        });
        const { source, open, max } = counting(device);
        const receiver = new Receiver({ source, clock, purpose: 'Test.', warn: () => {} });
        const follows: { follow: Follow; times: number[]; stopped: boolean; late: number }[] = [];
        const pick = (which: number) => follows[which % Math.max(1, follows.length)];
        for (const { kind, which, seconds, accuracy, background } of actions) {
          if (kind === 'open' && follows.length < 50) {
            const follow = receiver.follow({ background, ...(accuracy !== undefined && { accuracy }) });
            const entry = { follow, times: [] as number[], stopped: false, late: 0 };
            follow.onFix((fix) => (entry.stopped ? entry.late++ : entry.times.push(fix.time)));
            follows.push(entry);
          } else if (kind === 'stop' || kind === 'stop twice') {
            const entry = pick(which);
            if (entry !== undefined) {
              const wasRunning = entry.follow.running;
              expect(entry.follow.stop()).to.equal(wasRunning);
              entry.stopped = true;
              if (kind === 'stop twice') expect(entry.follow.stop()).to.equal(false);
            }
          } else if (kind === 'hide') device.hide();
          else if (kind === 'show') device.show();
          else if (kind === 'outage') device.signal = false;
          else if (kind === 'signal') device.signal = true;
          await clock.advance(seconds);
          expect(open()).to.be.at.most(1);
        }
        for (const entry of follows) {
          entry.follow.stop();
          entry.stopped = true;
        }
        await clock.advance(10);
        expect([open(), device.watches, receiver.usage.openWatches, receiver.follows.length]).to.deep.equal([
          0, 0, 0, 0,
        ]);
        expect(max()).to.be.at.most(1);
        expect(receiver.$tracking.get()).to.deep.equal({ active: false });
        for (const { times, late } of follows) {
          expect(late).to.equal(0);
          expect(new Set(times).size).to.equal(times.length);
          expect(times).to.deep.equal(times.toSorted((a, b) => a - b));
        }
      }),
      { numRuns: 40 },
    );
  });
});
