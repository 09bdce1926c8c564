import { Recorder, type Follow, type Diagnostic } from 'aurelian-drift';
import { expect } from 'chai';
import { hut, route, setUp } from '../support/device.js';

const granted = { permission: 'granted', route } as const;
const slip = () => {
  throw new Error('a slip in the app');
};
const kinds = (diagnostics: readonly Diagnostic[]) => diagnostics.map(({ kind }) => kind);

describe('a listener that throws', () => {
  it(
    'on $fix, $status, an event or a tap costs the recorder no fix and stops no other listener; each ' +
      'is told once',
    async () => {
      const { receiver, clock } = setUp(granted);
      const recorder = new Recorder({ clock });
      const follow = receiver.follow();
      receiver.$fix.subscribe((fix) => fix !== undefined && slip());
      receiver.$status.listen(slip);
      follow.$status.listen(slip);
      follow.onFix(slip);
      follow.onEvent(slip);
      let shown = 0;
      receiver.$fix.subscribe((fix) => fix !== undefined && shown++);
      const events: string[] = [];
      follow.onEvent(({ kind }) => events.push(kind));
      recorder.start(follow);
      await clock.advance(5.5);
      follow.stop();
      expect([recorder.trail.length, shown]).to.deep.equal([5, 5]);
      const reported = receiver.$diagnostics.get();
      expect(new Set(kinds(reported))).to.deep.equal(new Set(['listener-error']));
      expect(reported.find(({ text }) => text.includes('of a follow'))!.text).to.include('a slip in the app');
    },
  );

  it(
    'in a promise, later, is reported like one that throws at once, and no rejection ' +
      'reaches the platform',
    async () => {
      const { receiver, clock, warnings } = setUp(granted);
      const late: () => unknown = () => Promise.resolve().then(slip);
      const follow = receiver.follow();
      follow.onFix(late);
      receiver.$fix.listen(late);
      await clock.advance(4.5);
      expect(warnings).to.deep.equal([
        'a listener of a receiver threw: Error: a slip in the app',
        'a listener of a follow threw: Error: a slip in the app',
      ]);
    },
  );

  it('as it subscribes is subscribed all the same, and can be taken off', () => {
    const { receiver, warnings } = setUp();
    const end = receiver.$status.subscribe(slip);
    end();
    expect(warnings).to.deep.equal(['a listener of a receiver threw: Error: a slip in the app']);
  });

  it('of the warnings themselves does no harm: the follow continues', async () => {
    const { receiver, clock } = setUp(granted, { warn: slip });
    const follow = receiver.follow();
    let received = 0;
    follow.onFix(slip);
    follow.onFix(() => received++);
    await clock.advance(3.5);
    expect([received, follow.running]).to.deep.equal([3, true]);
  });
});

describe('a listener that acts', () => {
  it('on a failure by stopping leaves the failure as it is, and the device is released once', async () => {
    const { receiver, device, clock } = setUp(granted);
    const follow = receiver.follow();
    const outcomes: unknown[] = [];
    follow.$status.subscribe(
      ({ state }) => state === 'failed' && outcomes.push(follow.stop(), receiver.receiving, device.watches),
    );
    follow.onEvent((event) => event.kind === 'failed' && outcomes.push(event.error.kind, follow.stop()));
    follow.onFix(() => {});
    await clock.advance(2.5);
    device.withdraw();
    expect(await clock.settle(follow.outcome)).to.equal('failed');
    expect([follow.state, follow.error!.kind]).to.deep.equal(['failed', 'withdrawn']);
    expect(outcomes).to.deep.equal([false, false, 0, 'withdrawn', false]);
  });

  it('sees the whole of a change: values and events agree with one another, whichever it hears', async () => {
    const { receiver, device, clock } = setUp(granted);
    const follow = receiver.follow();
    const seen: unknown[] = [];
    const look = () => {
      const status = receiver.$status.get();
      const fix = receiver.$fix.get();
      const agree =
        status.state === 'following'
          ? status.fix === fix && follow.latest === fix && follow.running
          : status.state === 'failed' &&
            follow.error === status.error &&
            !receiver.receiving &&
            !receiver.$tracking.get().active;
      seen.push(agree || status);
    };
    await clock.advance(0.5);
    for (const name of ['$fix', '$status', '$tracking'] as const) receiver[name].listen(look);
    follow.$status.listen(look);
    follow.onEvent(look);
    follow.onFix(look);
    await clock.advance(3);
    device.withdraw();
    await clock.settle(follow.outcome);
    expect(new Set(seen)).to.deep.equal(new Set([true]));
    expect(seen.length).to.be.above(9);
  });

  it('by stopping or starting on $fix changes nothing for the others', async () => {
    const { receiver, device, clock } = setUp(granted);
    const first = receiver.follow({ name: 'walk' });
    let second: Follow | undefined;
    const received = { first: 0, second: 0 };
    receiver.$fix.listen(() => {
      if (second !== undefined) return;
      first.stop();
      second = receiver.follow({ name: 'walk' });
      second.onFix(() => received.second++);
    });
    first.onFix(() => received.first++);
    await clock.advance(4.5);
    expect(second).not.to.equal(first);
    expect([received.first, first.state, second!.running, device.watches]).to.deep.equal([
      0,
      'stopped',
      true,
      1,
    ]);
    expect(received.second).to.be.at.least(2);
  });

  it(
    'through a live value of the receiver counts as a listener: no warning that there is ' + 'none',
    async () => {
      for (const name of ['$fix', '$status'] as const) {
        const { receiver, clock } = setUp(granted);
        receiver[name].subscribe(() => {});
        receiver.follow();
        await clock.advance(5.5);
        expect(receiver.$diagnostics.get()).to.deep.equal([]);
      }
    },
  );

  it(
    'in a loop that has ended receives no failure, which counts as unhandled; in a ' + 'running loop it does',
    async () => {
      const { receiver, device, clock, warnings } = setUp(granted);
      const follow = receiver.follow();
      const looped = (async () => {
        for await (const fix of follow) if (fix.time > 0) break;
      })();
      await clock.advance(2.5);
      await looped;
      device.withdraw();
      await clock.settle(follow.outcome);
      expect(kinds(receiver.$diagnostics.get())).to.deep.equal(['unhandled-failure']);
      expect(warnings).to.have.length(1);
    },
  );
});

describe('a signal that has aborted already', () => {
  it('gives a follow that is stopped, without asking anybody, opening the device or showing a sign', async () => {
    const { receiver, device, clock } = setUp({ at: hut });
    const active: boolean[] = [];
    receiver.$tracking.listen((tracking) => active.push(tracking.active));
    const follow = receiver.follow({ signal: AbortSignal.abort(), name: 'walk' });
    expect([follow.state, follow.running, await follow.outcome]).to.deep.equal(['stopped', false, 'stopped']);
    await clock.advance(5);
    expect([device.prompts, device.watches, receiver.follows, active]).to.deep.equal([0, 0, [], []]);
    const second = receiver.follow({ name: 'walk' });
    expect(second).not.to.equal(follow);
    second.stop();
  });

  it('in mid-course, at any moment of the way up, ends it once and leaves nothing open', async () => {
    for (const seconds of [0, 1, 4, 6]) {
      const { receiver, device, clock } = setUp({ at: hut, thinking: 3, switch: 'off', warmUp: 2 });
      const abort = new AbortController();
      const follow = receiver.follow({ signal: abort.signal });
      follow.onFix(() => {});
      await clock.advance(seconds);
      abort.abort();
      expect([follow.state, follow.stop()]).to.deep.equal(['stopped', false]);
      await clock.advance(30);
      expect([device.watches, receiver.receiving, receiver.$tracking.get().active]).to.deep.equal([
        0,
        false,
        false,
      ]);
    }
  });
});
