import { FenceWatch, Recorder, ahead, fixFrom, type FollowEvent } from 'aurelian-drift';
import { expect } from 'chai';
import { hut, played, route, setUp } from '../support/device.js';

const granted = { permission: 'granted', route } as const;

describe('how a follow stands', () => {
  it('is waiting, live, still since the last move, silent since the last fix, and live again', async () => {
    const { receiver, device, clock } = setUp(granted);
    const follow = receiver.follow();
    follow.onFix(() => {});
    const states: string[] = [];
    follow.$status.subscribe((state) => states.push(state.state));
    const start = clock.now();
    await clock.advance(20);
    device.moveTo({ lat: 44.21, lon: -33.61 });
    const stopped = clock.now();
    await clock.advance(60);
    expect(follow.$status.get()).to.deep.equal({ state: 'still', since: stopped });
    device.signal = false;
    await clock.advance(60);
    expect(follow.state).to.equal('silent');
    const silent = follow.$status.get() as { since: number };
    expect((silent.since - start) / 1000).to.be.within(79, 80);
    device.signal = true;
    device.walk(route);
    await clock.advance(30);
    follow.stop();
    expect(states).to.deep.equal(['waiting', 'live', 'still', 'silent', 'live', 'stopped']);
  });

  it('continues after an outage by itself, and reports its start and its end once', async () => {
    const { receiver, device, clock } = setUp(granted);
    const follow = receiver.follow({ silentAfter: 60 });
    const events: FollowEvent['kind'][] = [];
    follow.onFix(() => {});
    follow.onEvent(({ kind }) => kind !== 'visible-only' && events.push(kind));
    await clock.advance(5);
    device.signal = false;
    await clock.advance(20);
    device.signal = true;
    await clock.advance(5);
    expect([events, follow.running]).to.deep.equal([['outage', 'recovered'], true]);
  });

  it('is silent when no fix ever comes, and reports each silence once, while it lasts', async () => {
    const { receiver, device, clock } = setUp({ ...granted, warmUp: 40 });
    const follow = receiver.follow();
    const start = clock.now();
    const events: FollowEvent[] = [];
    follow.onFix(() => {});
    follow.onEvent((event) => event.kind !== 'visible-only' && events.push(event));
    await clock.advance(14);
    expect([follow.state, events]).to.deep.equal(['waiting', []]);
    await clock.advance(20);
    const silent = { kind: 'silent', since: start } as const;
    expect([follow.$status.get(), events]).to.deep.equal([{ state: 'silent', since: start }, [silent]]);
    await clock.advance(10);
    expect([follow.state, events]).to.deep.equal(['live', [silent, { kind: 'recovered' }]]);
    const last = follow.latest!.time;
    device.asleep = true; // fixes stay away, and nothing is said
    await clock.advance(120);
    expect(events.slice(2)).to.deep.equal([{ kind: 'silent', since: last }]);
  });

  it('reports a level and a precision that are lowered during the follow, once each', async () => {
    const { receiver, device, clock } = setUp({ ...granted, level: 'background', background: 'by-level' });
    const follow = receiver.follow({ background: true });
    const events: FollowEvent[] = [];
    follow.onFix(() => {});
    follow.onEvent((event) => events.push(event));
    await clock.advance(5);
    device.grant('foreground');
    await clock.advance(5);
    expect(events).to.deep.equal([{ kind: 'less-than-asked', granted: 'foreground' }]);
    device.grant('foreground', 'approximate');
    await clock.advance(5);
    expect(events.slice(1)).to.deep.equal([{ kind: 'approximate-only', radius: 3000 }]);
    device.grant('foreground', 'approximate');
    await clock.advance(5);
    expect(events).to.have.length(2);
  });

  it('marks fixes that miss its demand coarse, and flags the first that a map may begin with', async () => {
    const flagged = async (accuracies: readonly number[], demand?: number) => {
      const { receiver, clock, at, sink } = played();
      const follow = receiver.follow(demand === undefined ? {} : { accuracy: demand });
      const seen: string[] = [];
      follow.onFix(({ accuracy, marks }, { first }) =>
        seen.push([accuracy, ...(marks ?? []), ...(first ? ['first'] : [])].join(' ')),
      );
      await clock.advance(0);
      for (const accuracy of accuracies) {
        sink().fix(at(0, 0, { accuracy }));
        await clock.advance(5);
      }
      return seen;
    };
    expect(await flagged([1500, 300, 8], 80)).to.deep.equal(['1500 coarse', '300 coarse', '8 first']);
    expect(await flagged([1500, 300, 8])).to.deep.equal(['1500', '300 first', '8']);
    // Where nothing better comes, a map begins after 15 s.
    expect(await flagged([900, 901, 902, 903, 904])).to.deep.equal(['900', '901', '902', '903 first', '904']);
  });

  it(
    'reports whether anything is tracked, at which level and since when, and turns off at ' + 'the stop',
    async () => {
      const { receiver, clock } = setUp({ ...granted, level: 'background', background: 'by-level' });
      expect(receiver.$tracking.get()).to.deep.equal({ active: false });
      const since = clock.now();
      const front = receiver.follow();
      front.onFix(() => {});
      expect(receiver.$tracking.get()).to.deep.equal({ active: true, level: 'foreground', since });
      await clock.advance(3);
      const back = receiver.follow({ background: true });
      back.onFix(() => {});
      expect(receiver.$tracking.get()).to.deep.equal({ active: true, level: 'background', since });
      front.stop();
      back.stop();
      expect(receiver.$tracking.get()).to.deep.equal({ active: false });
    },
  );

  it('that has no listener is diagnosed once, after three fixes', async () => {
    const { receiver, clock, warnings } = setUp(granted);
    receiver.follow();
    await clock.advance(2.5);
    expect(warnings).to.deep.equal([]);
    await clock.advance(60);
    expect(warnings).to.have.length(1);
    expect(warnings[0]).to.include('nobody listens');
  });

  it('ends with its owner: an element that has left its document', async () => {
    const { receiver, device, clock, warnings } = setUp(granted);
    const owner = { isConnected: false };
    const follow = receiver.follow({ owner });
    follow.onFix(() => {});
    await clock.advance(1.5);
    owner.isConnected = true; // put there after the follow was begun
    await clock.advance(20);
    expect(follow.state).to.equal('live');
    owner.isConnected = false;
    await clock.advance(1.5);
    expect([follow.state, device.watches]).to.deep.equal(['stopped', 0]);
    expect(warnings.join()).to.include('its owner has left the document');
  });

  it(
    'with a name is the same follow when a screen is entered again: one watch, and the ' + 'list continues',
    async () => {
      const { receiver, device, clock } = setUp(granted);
      const recorder = new Recorder();
      const first = receiver.follow({ name: 'round' });
      recorder.start(first);
      for (let entered = 0; entered < 3; entered++) {
        await clock.advance(10);
        const again = receiver.follow({ name: 'round' });
        expect(again).to.equal(first);
        again.onFix(() => {})();
      }
      expect([device.watches, recorder.trail.length, receiver.follows.length]).to.deep.equal([1, 30, 1]);
      first.stop();
      expect(receiver.follow({ name: 'round' })).not.to.equal(first);
    },
  );
});

describe('one fix, read in both ways', () => {
  it(
    'is equal by binding and by action; the binding is empty, not an error, before permission and ' +
      'after a failure',
    async () => {
      const { receiver, device, clock } = setUp({ answer: 'refuse' });
      const targets: { lat?: number; accuracy?: number; marker?: string } = {};
      const reported: (string | undefined)[] = [];
      receiver.$fix.subscribe((fix) => {
        reported.push(fix === undefined ? undefined : 'fix');
        if (fix === undefined) return;
        Object.assign(targets, {
          lat: fix.lat,
          accuracy: fix.accuracy,
          marker: `${fix.lat}, ±${fix.accuracy ?? ''}`,
        });
      });
      await clock.settle(receiver.fix().catch(() => {}));
      expect([reported, targets]).to.deep.equal([[undefined], {}]);
      device.answer = 'grant';
      const fix = await clock.settle(receiver.fix());
      expect(receiver.$fix.get()).to.equal(fix);
      expect(targets).to.deep.equal({ lat: hut.lat, accuracy: 0, marker: '44.2, ±0' });
    },
  );
});

describe('fixes out of order', () => {
  it(
    'come as a bundle in the order of their times: all to the recorder, the newest to the readout, ' +
      'an empty one to nobody',
    async () => {
      const { receiver, clock, at, sink } = played();
      const follow = receiver.follow();
      const recorder = new Recorder();
      recorder.start(follow);
      const shown: number[] = [];
      receiver.$fix.listen((fix) => shown.push(fix!.lon));
      await clock.advance(0);
      sink().bundle([]);
      const three = [at(-20, 10), at(-40, 0), at(0, 20)];
      sink().bundle(three);
      expect(Array.from(recorder.trail, ({ time }) => time)).to.deep.equal([
        three[1]!.time,
        three[0]!.time,
        three[2]!.time,
      ]);
      expect(Array.from(recorder.trail, ({ marks }) => marks?.[0])).to.deep.equal([
        'late',
        'late',
        undefined,
      ]);
      expect(shown).to.deep.equal([three[2]!.lon]);
      expect(receiver.deliveries).to.include({ accepted: 3, late: 2 });
    },
  );

  it(
    'older than their predecessor, repeated, or faster than anything are marked and counted, and ' +
      'reach the recorder only',
    async () => {
      const { receiver, clock, at, sink } = played();
      const follow = receiver.follow();
      const recorder = new Recorder();
      recorder.start(follow);
      const watch = new FenceWatch([
        { kind: 'circle', id: 'far', name: 'Far', centre: ahead(hut, 90, 9000), radius: 500 },
      ]);
      const seen: number[] = [];
      const crossings: unknown[] = [];
      follow.onFix((fix) => {
        seen.push(fix.time);
        crossings.push(...watch.take(fix));
      });
      await clock.advance(0);
      const good = [at(0, 0), at(1, 1), at(2, 2), at(3, 3)];
      sink().fix(good[0]!);
      sink().fix(good[1]!);
      sink().fix(good[1]!);
      sink().fix(at(0.5, 0));
      sink().fix(at(1.5, 9000));
      sink().fix(good[2]!);
      sink().fix(good[3]!);
      expect(seen).to.deep.equal(good.map(({ time }) => time));
      expect(crossings).to.deep.equal([]);
      expect(Array.from(recorder.trail, ({ marks }) => marks?.[0])).to.deep.equal([
      undefined, undefined, 'duplicate', 'backwards', 'outlier', undefined, undefined,
    ]); // prettier-ignore
      expect(receiver.deliveries).to.include({ accepted: 4, duplicate: 1, backwards: 1, outlier: 1 });
      expect(recorder.$summary.get()).to.include({ fixes: 7, duration: 3 });
      expect(recorder.$summary.get().rawDistance).to.be.closeTo(3, 1e-6);
    },
  );

  it(
    'believes three wild fixes that agree, and one that nothing contradicts: the user has jumped, ' +
      'after a gap',
    async () => {
      for (const contested of [true, false]) {
        const { receiver, clock, at, sink } = played();
        const follow = receiver.follow();
        const events: string[] = [];
        follow.onEvent(({ kind }) => events.push(kind));
        const lons: number[] = [];
        follow.onFix(({ lon }) => lons.push(lon));
        await clock.advance(0);
        sink().fix(at(0, 0));
        for (let i = 1; i <= (contested ? 3 : 1); i++) {
          await clock.advance(1);
          sink().fix(at(0, 50_000 + i));
        }
        expect(lons.length).to.equal(contested ? 2 : 1);
        await clock.advance(4);
        expect(lons.length).to.equal(2);
        expect(events.filter((kind) => kind === 'gap')).to.have.length(1);
        expect(follow.latest!.lon).to.be.closeTo(at(0, 50_002).lon, 1e-4);
      }
    },
  );

  it('is not stuck for good on a predecessor from the future', async () => {
    const { receiver, clock, at, sink } = played();
    const follow = receiver.follow();
    follow.onFix(() => {});
    await clock.advance(0);
    sink().bundle([at(86_400, 0)]);
    for (let i = 0; i < 6; i++) {
      await clock.advance(1);
      sink().fix(at(0, i));
    }
    expect(receiver.deliveries.backwards).to.equal(2);
    expect(follow.latest!.time).to.equal(clock.now());
  });

  it('held back through a sleep give the same figures as fixes that came at once', async () => {
    const summaries = [];
    for (const asleep of [false, true]) {
      const { receiver, device, clock } = setUp({ ...granted, reception: 'open', seed: 4 });
      const recorder = new Recorder();
      const follow = receiver.follow();
      recorder.start(follow);
      await clock.advance(30);
      device.asleep = asleep;
      await clock.advance(20);
      device.asleep = false;
      await clock.advance(30);
      follow.stop();
      const late = [...recorder.trail].filter(({ marks }) => marks?.includes('late'));
      expect(late.length).to.be.within(asleep ? 17 : 0, asleep ? 20 : 0);
      summaries.push(recorder.trail.summary());
    }
    expect(summaries[1]).to.deep.equal(summaries[0]);
  });

  it('leaves fixes that are sound in themselves as they are', () => {
    const fix = fixFrom({ ...hut, time: Date.UTC(2026, 4, 14) });
    expect(Object.isFrozen(fix)).to.equal(true);
  });
});
