import { Recorder, type Fix } from 'aurelian-drift';
import { expect } from 'chai';
import { route, setUp } from '../support/device.js';

/** Ten minutes of a walk, recorded from a device that delivers as its options say. */
async function recorded(bundle?: number) {
  const { clock, receiver } = setUp({
    permission: 'granted',
    route,
    reception: 'open',
    seed: 12,
    rests: { every: 200, for: 90 },
    ...(bundle !== undefined && { bundle }),
  });
  const recorder = new Recorder({ name: 'Walk' });
  const follow = receiver.follow({ silentAfter: 120 });
  const arrivals: { at: number; fix: Fix }[] = [];
  follow.onFix((fix) => arrivals.push({ at: clock.now(), fix }));
  recorder.start(follow);
  await clock.advance(600);
  follow.stop();
  return { arrivals, trail: await recorder.finish(), state: follow.state };
}

describe('a device that delivers in bundles, to spare the battery', () => {
  it('gives each fix with its own time, all of a bundle at once, late ones marked', async () => {
    const { arrivals } = await recorded(20);
    const times = new Set(arrivals.map(({ at }) => at));
    expect(arrivals.length).to.be.above(550);
    expect(times.size).to.be.within(25, 32); // one every 20 s and a little
    for (const { at, fix } of arrivals) {
      expect((at - fix.time) / 1000).to.be.within(0, 20);
      expect(fix.marks?.includes('late') === true).to.equal(at - fix.time > 2000);
    }
    const order = arrivals.map(({ fix }) => fix.time);
    expect(order).to.deep.equal(order.toSorted((a, b) => a - b));
  });

  it('comes to the same trail, figures and stops as one that delivers at once', async () => {
    const [bundled, single] = [await recorded(20), await recorded()];
    const common = bundled.trail.length; // the last bundle is still on its way
    expect(single.trail.length - common).to.be.within(0, 21);
    const plain = (fix: Fix) => ({ ...fix, marks: undefined });
    expect(Array.from(bundled.trail, plain)).to.deep.equal(Array.from(single.trail, plain).slice(0, common));
    const [a, b] = [bundled.trail.summary(), single.trail.summary()];
    expect(a.gaps).to.deep.equal([]);
    expect(a.stops.map(({ start }) => start)).to.deep.equal(
      b.stops.map(({ start }) => start).slice(0, a.stops.length),
    );
    expect(a.distance).to.be.within(b.distance - 40, b.distance);
  });

  it('is refused a bundle of no time', () => {
    expect(() => setUp({ bundle: 0 })).to.throw('bundle must be 1 to 3600 seconds');
  });
});
