import {
  FenceWatch,
  InputError,
  PROFILES,
  fitness,
  fixFrom,
  keepAcrossReloads,
  oneFix,
  rounded,
  type Fix,
} from 'aurelian-drift';
import { SimulatedDevice, previewSource } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, route, setUp } from '../support/device.js';

describe('the demand on the device', () => {
  it('is the strictest of the present follows, and loosens when the strictest leaves', async () => {
    const { receiver, device, clock } = setUp({ route, permission: 'granted' });
    const join = (options: object) => {
      const follow = receiver.follow(options);
      follow.onFix(() => {});
      return follow;
    };
    const district = join({ profile: 'district' });
    await clock.advance(1);
    expect(device.demand).to.deep.equal({ maxAge: 0, accuracy: 1000, every: 60 });
    const round = join({ profile: 'round' });
    await clock.advance(1);
    expect(device.demand).to.deep.equal({ maxAge: 0, accuracy: 8, every: 1 });
    const plain = join({});
    await clock.advance(1);
    expect(device.demand).to.deep.equal({ maxAge: 0, accuracy: 8 });
    round.stop();
    await clock.advance(1);
    expect(device.demand).to.deep.equal({ maxAge: 0 }); // the device's own accuracy is better than any rough value
    plain.stop();
    expect(device.demand).to.deep.equal({ maxAge: 0, accuracy: 1000, every: 60 });
    expect(device.watches).to.equal(1);
    district.stop();
    expect([device.watches, receiver.usage.openWatches]).to.deep.equal([0, 0]);
  });

  it('is accounted for: ten minutes on and fifty off are 600 s, by level of demand', async () => {
    const { receiver, clock } = setUp({ route, permission: 'granted' });
    await clock.advance(1500);
    const fine = receiver.follow();
    fine.onFix(() => {});
    await clock.advance(400);
    fine.stop();
    const rough = receiver.follow({ accuracy: 1000 });
    rough.onFix(() => {});
    await clock.advance(200);
    rough.stop();
    await clock.advance(1500);
    expect(receiver.usage).to.deep.equal({
      receiverOn: 600,
      fine: 400,
      rough: 200,
      openWatches: 0,
      watchesOpened: 2,
    });
  });

  it('takes the metres and seconds of a profile, and values given beside one', async () => {
    expect(PROFILES).to.deep.include({ stroll: { accuracy: 20, every: 5, beyond: 5 } });
    expect(Object.keys(PROFILES)).to.deep.equal(['district', 'stroll', 'round']);
    const { receiver, device, clock } = setUp({ route, permission: 'granted' });
    const follow = receiver.follow({ profile: 'stroll', every: 10 });
    const times: number[] = [];
    follow.onFix((fix) => times.push(fix.time));
    await clock.advance(35);
    expect(device.demand).to.deep.equal({ maxAge: 0, accuracy: 20, every: 10 });
    expect(times.map((time) => (time - times[0]!) / 1000)).to.deep.equal([0, 10, 20, 30]);
  });

  it('beyond the possible or useful is warned about, with a better value', () => {
    const { receiver, warnings } = setUp({ every: 1 });
    receiver.follow({ every: 0.2 }).stop();
    receiver.follow({ profile: 'district', accuracy: 5 }).stop();
    receiver.follow({ profile: 'district', every: 1 }).stop();
    receiver.follow({ every: 5, accuracy: 10 }).stop();
    expect(warnings).to.have.length(3);
    expect(warnings[0]).to.include('every: 1 gives as much');
    expect(warnings[1]).to.include('1000 m');
    expect(warnings[2]).to.include('every: 60');
  });

  it('refuses misspelt, wrongly typed and out-of-range values, at the call', () => {
    const { receiver } = setUp();
    const tried: readonly [object, string][] = [
      [{ evry: 3 }, 'did you mean "every"?'],
      [{ profile: 'strol' }, 'did you mean "stroll"?'],
      [{ background: 'yes' }, 'background must be true or false, got "yes"'],
      [{ every: '3' }, 'every must be a number of seconds, got "3"'],
      [{ beyond: -1 }, 'beyond must be 0 to 1000000 metres, got -1'],
      [{ owner: 'div' }, 'isConnected'],
      [{ silentAfter: 100_000 }, 'must be 0 to 86400 seconds, got 100000; did you mean 100 s?'],
      [{ signal: 'now' }, 'signal must be an AbortSignal'],
    ];
    for (const [options, text] of tried) expect(() => receiver.follow(options), text).to.throw(text);
  });

  it('answers the words of the platform, and a common slip, with ours', async () => {
    const { receiver } = setUp();
    const words: readonly [object, string][] = [
      [{ timeout: 5000 }, 'fix has no option "timeout", here it is "patience", in seconds'],
      [{ maximumAge: 5000 }, 'fix has no option "maximumAge", here it is "maxAge", in seconds'],
      [
        { enableHighAccuracy: true },
        'fix has no option "enableHighAccuracy", here it is "accuracy", in metres',
      ],
    ];
    for (const [options, text] of words) {
      expect(((await receiver.fix(options).catch((error: unknown) => error)) as Error).message).to.equal(
        text,
      );
      if ('maximumAge' in options) continue; // that does not support it
      expect(((await oneFix(options).catch((error: unknown) => error)) as Error).message).to.include(
        text.slice(4),
      );
    }
    const theirs = { latitude: 44.2, longitude: -33.6 } as never;
    const slip = { lat: 44.2, lng: -33.6 } as never;
    const lat = 'a position has no "latitude", here it is "lat"';
    const lon = 'a position has no "lng", here it is "lon"';
    for (const call of [
      (at: never) => receiver.placeByHand(at),
      (at: never) => new SimulatedDevice({ at }),
      (at: never) => previewSource(at),
      (at: never) => rounded(at, 100),
    ]) {
      expect(() => call(theirs)).to.throw(InputError, lat);
      expect(() => call(slip)).to.throw(InputError, lon);
    }
    expect(() =>
      fixFrom({ time: Date.UTC(2026, 4, 14), latitude: 44.2, longitude: -33.6 } as never),
    ).to.throw('a fix has no "latitude", here it is "lat"');
    expect(() => new FenceWatch([{ kind: 'circle', id: 'a', name: 'A', centre: slip, radius: 5 }])).to.throw(
      lon,
    );
  });

  it('accepts long durations, and warns of those that look like milliseconds, naming seconds', async () => {
    const { receiver, clock, warnings } = setUp({ permission: 'granted' });
    await clock.settle(receiver.fix({ maxAge: 18_000 }));
    receiver.follow({ silentAfter: 9000, every: 3600 }).stop();
    expect(warnings).to.deep.equal([
      'fix: maxAge is in seconds: 18000 is 5 hours; were 18 s meant?',
      'follow: silentAfter is in seconds: 9000 is 2.5 hours; were 9 s meant?',
    ]);
  });
});

describe('a verdict on a fix', () => {
  const fix = fixFrom({ ...hut, time: Date.UTC(2026, 4, 14, 8), accuracy: 900 });

  it('states its fitness for a use, with the reason', () => {
    expect(fitness(fix, { purpose: 'which section', accuracy: 60 })).to.deep.equal({
      fit: false,
      reason: '±900 m is too coarse for which section, which needs ±60 m',
    });
    expect(fitness(fix, { purpose: 'which end of the island', accuracy: 2000 })).to.deep.equal({ fit: true });
  });

  it('looks at its age where that matters, and takes no unknown accuracy for a good one', () => {
    const need = { purpose: 'a meeting', accuracy: 1000, maxAge: 60 };
    expect(fitness(fix, need, fix.time + 45_000)).to.deep.equal({ fit: true });
    expect(fitness(fix, need, fix.time + 75_000)).to.deep.equal({
      fit: false,
      reason: 'it is from 1 min 15 s ago, too old for a meeting',
    });
    expect(() => fitness(fix, need)).to.throw('pass now');
    const vague = fixFrom({ ...hut, time: fix.time });
    expect(fitness(vague, { purpose: 'anything', accuracy: 1e6 }).fit).to.equal(false);
  });
});

describe('the kept fixes', () => {
  it('is made once however often a module is loaded: one receiver, one follow, one prompt', async () => {
    const { start, device, clock } = setUp({ route });
    const follows = new Set();
    for (let load = 0; load < 10; load++) {
      const receiver = keepAcrossReloads('the receiver of this test', start);
      const follow = receiver.follow({ name: 'round' });
      follow.onFix(() => {});
      follows.add(follow);
      await clock.advance(2);
    }
    expect([follows.size, device.watches, device.prompts]).to.deep.equal([1, 1, 1]);
  });
});

describe('quick, then fresh', () => {
  it('gives the last fix marked cached, however old, and then a new one', async () => {
    const { receiver, clock } = setUp();
    const first = await clock.settle(receiver.fix());
    await clock.advance(600);
    const both: Fix[] = [];
    const reading = (async () => {
      for await (const fix of receiver.quickThenFresh()) both.push(fix);
    })();
    await clock.settle(reading);
    expect(both).to.have.length(2);
    expect(both[0]).to.deep.equal({ ...first, marks: ['cached'] });
    expect((both[1]!.time - first.time) / 1000).to.be.within(600, 603);
    expect(both[1]).not.to.have.property('marks');
  });

  it('gives only the fresh one when there is no last', async () => {
    const { receiver, clock } = setUp();
    const fixes: Fix[] = [];
    await clock.settle(
      (async () => {
        for await (const fix of receiver.quickThenFresh()) fixes.push(fix);
      })(),
    );
    expect(fixes).to.have.length(1);
  });
});
