import { FenceWatch, RunningSummary, Trail, ahead, fixFrom, splitsOf, type Fence } from 'aurelian-drift';
import { expect } from 'chai';

const hut = { lat: 44.2, lon: -33.6 };
const start = Date.UTC(2026, 4, 14, 8);
const HOUR = 3_600_000;
/** A walk at 1.4 m/s whose clock is put right by some milliseconds after 600 of its 1200 s. */
const walk = (by: number, more: object = {}) =>
  Array.from({ length: 1200 }, (_, i) => ({
    time: start + i * 1000 + (i < 600 ? 0 : by),
    ...ahead(hut, 90, i * 1.4),
    ...more,
  }));
const kinds = [{}, { accuracy: 8 }, { accuracy: 8, speed: 1.4, course: 90 }];

describe('a clock that is put right in the middle', () => {
  it('back, leaves duration and distance those of what was walked', () => {
    for (const more of kinds) {
      const running = new RunningSummary();
      for (const fix of walk(-HOUR, more)) running.take(fixFrom(fix));
      running.breakSegment();
      const { duration, distance, moving, resting, segments } = running.summary();
      expect(duration).to.be.within(1190, 1200);
      expect(distance).to.be.within(1640, 1690);
      expect(moving).to.be.within(1170, 1200);
      expect(resting).to.be.within(0, 30);
      expect(segments).to.equal(2);
    }
    const splits = splitsOf(Trail.from(walk(-HOUR, kinds[2])), 500);
    for (const { duration, moving } of splits) {
      expect(moving).to.be.at.least(0);
      expect(duration).to.be.finite;
    }
  });

  it('forward, is a gap', () => {
    for (const more of kinds) {
      const { gaps, distance, moving } = Trail.from(walk(HOUR, more)).summary();
      expect(gaps).to.have.length(1);
      expect(distance).to.be.within(1640, 1690);
      expect(moving).to.be.within(1170, 1200);
    }
  });

  it('leaves no fence deaf: later crossings are reported, none with a negative duration', () => {
    const fences: Fence[] = [300, 1300].map((metres, i) => ({
      kind: 'circle',
      id: `f${i}`,
      name: `F ${i}`,
      centre: ahead(hut, 90, metres),
      radius: 60,
    }));
    for (const by of [-HOUR, HOUR]) {
      const watch = new FenceWatch(fences);
      const events = walk(by, { accuracy: 8 }).flatMap((fix) => watch.take(fixFrom(fix)));
      expect(events.map(({ kind, fence }) => `${kind} ${fence}`)).to.deep.equal([
        'enter f0',
        'exit f0',
        'enter f1',
        'exit f1',
      ]);
      for (const { duration = 0 } of events) expect(duration).to.be.within(0, 100);
    }
  });

  it('back while the user is inside, reports the exit without a made-up duration', () => {
    const watch = new FenceWatch([
      { kind: 'circle', id: 'f', name: 'F', centre: ahead(hut, 90, 840), radius: 60 },
    ]);
    const events = walk(-HOUR, { accuracy: 8 }).flatMap((fix) => watch.take(fixFrom(fix)));
    expect(events.map(({ kind }) => kind)).to.deep.equal(['enter', 'exit']);
    expect(events[1]!.duration).to.equal(undefined);
  });

  it('is not one late fix, which changes nothing', () => {
    const fixes = walk(0, { accuracy: 8 });
    const late = { ...fixes[700]!, time: fixes[700]!.time - 90_000 };
    const of = (all: readonly (typeof late)[]) => {
      const running = new RunningSummary();
      for (const fix of all) running.take(fixFrom(fix));
      return running.summary().distance;
    };
    expect(of([...fixes.slice(0, 700), late, ...fixes.slice(700)])).to.equal(of(fixes));
  });
});
