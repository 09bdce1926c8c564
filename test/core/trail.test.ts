import { RunningSummary, Trail, ahead, fixFrom, type Fix, type RawFix } from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { fixes, recordedTrail } from '../support/made.js';

const start = Date.UTC(2026, 4, 14, 8);

/** Fixes due north at a constant speed, this many seconds apart. */
function northward(
  metresPerSecond: number,
  every: number,
  count: number,
  from = start,
  lat = 44.2,
): RawFix[] {
  return Array.from({ length: count }, (_, i) => ({
    time: from + i * every * 1000,
    ...ahead({ lat, lon: -33.6 }, 0, metresPerSecond * every * i),
  }));
}

describe('a trail', () => {
  it('gives every fix back as it was, over many chunks', () => {
    const made = fixes(10_000);
    const trail = Trail.from(made);
    expect([...trail]).to.deep.equal(made);
    expect(trail.at(-1)).to.deep.equal(made.at(-1));
    expect(trail.at(10_000)).to.equal(undefined);
    expect(trail.at(0.5)).to.equal(undefined);
  });

  it('keeps all a fix may hold', () => {
    fc.assert(
      fc.property(recordedTrail, (trail) => {
        const again = new Trail();
        for (const fix of trail) again.append(fix);
        expect([...again]).to.deep.equal([...trail]);
      }),
    );
  });

  it('breaks into segments once, however often a break is reported', () => {
    const trail = new Trail();
    const [a, b, c] = fixes(3) as [Fix, Fix, Fix];
    trail.breakSegment();
    trail.append(a);
    trail.append(b);
    trail.breakSegment();
    trail.breakSegment();
    trail.append(c);
    trail.breakSegment();
    expect(trail.segments).to.deep.equal([
      { start: 0, end: 2 },
      { start: 2, end: 3 },
    ]);
  });

  it('names the first impossible fix by its index', () => {
    expect(() => Trail.from([...northward(1, 1, 2), { time: start, lat: 91, lon: 0 }])).to.throw(
      'fixes.2: latitude 91',
    );
  });
});

describe('a summary', () => {
  it('of two places a degree of latitude apart is a degree long', () => {
    const { distance, rawDistance, path } = Trail.from([
      { time: start, lat: 44, lon: -33.6 },
      { time: start + 3_600_000, lat: 45, lon: -33.6 },
    ]).summary();
    expect(distance).to.be.closeTo(111_120, 20);
    expect([rawDistance, path]).to.deep.equal([distance, 'fixes']);
  });

  it('of 3 km in 15 minutes with a stop of 5 shows 12 km/h, and 18 km/h in motion', () => {
    // 5 m/s for five minutes, five minutes of rest, 5 m/s for five minutes.
    const half = northward(5, 10, 31);
    const stand = Array.from({ length: 29 }, (_, i) => ({
      ...half[30]!,
      time: start + (310 + i * 10) * 1000,
    }));
    const rest = northward(5, 10, 31, start + 600_000, half[30]!.lat);
    const summary = Trail.from([...half, ...stand, ...rest]).summary();
    expect(summary.distance).to.be.closeTo(3000, 0.1);
    expect(summary.duration).to.equal(900);
    expect(summary.moving).to.equal(600);
    expect(summary.averageSpeed! * 3.6).to.be.closeTo(12, 0.01);
    expect(summary.movingSpeed! * 3.6).to.be.closeTo(18, 0.01);
    expect(summary.topSpeed! * 3.6).to.be.closeTo(18, 0.01);
  });

  it(
    'of a user standing for ten minutes under noise of 30 m has no distance, and a short ' +
      'walk has its own',
    () => {
      for (let seed = 1; seed <= 20; seed++) {
        const random = randomFrom(seed);
        const noisy = (metres: number, i: number): RawFix => ({
          time: start + i * 1000,
          ...ahead(
            ahead({ lat: 44.2, lon: -33.6 }, 90, metres),
            random.uniform() * 360,
            random.uniform() * 30,
          ),
          accuracy: 30,
        });
        const still = Trail.from(Array.from({ length: 600 }, (_, i) => noisy(0, i))).summary();
        expect(still.distance).to.be.below(20);
        expect(still.rawDistance).to.be.above(5000);
        const there = Trail.from(Array.from({ length: 601 }, (_, i) => noisy(i * 1.4, i))).summary();
        expect(there.distance).to.be.closeTo(840, 0.1 * 840);
      }
      const certain = Trail.from(northward(1.4, 1, 101).map((raw) => ({ ...raw, accuracy: 5 }))).summary();
      expect(certain.distance).to.be.closeTo(140, 8);
      expect(certain.moving).to.be.within(90, 100);
    },
  );

  it('of altitudes 10, 30, 20 shows 20 m up and 10 m down; without altitudes, nothing', () => {
    const points = northward(1, 10, 3);
    const altitudes = [10, 30, 20];
    const summary = Trail.from(points.map((point, i) => ({ ...point, altitude: altitudes[i]! }))).summary();
    expect([summary.climb, summary.descent]).to.deep.equal([20, 10]);
    expect(Trail.from(points).summary()).not.to.have.any.keys('climb', 'descent');
  });

  it('never subtracts altitudes above different datums', () => {
    const points = northward(1, 10, 4);
    const raw = [
      { altitude: 10, altitudeDatum: 'sea' },
      { altitude: 14, altitudeDatum: 'sea' },
      { altitude: 60, altitudeDatum: 'ellipsoid' },
      { altitude: 65, altitudeDatum: 'ellipsoid' },
    ] as const;
    const summary = Trail.from(points.map((point, i) => ({ ...point, ...raw[i]! }))).summary();
    expect([summary.climb, summary.descent]).to.deep.equal([9, 0]);
  });

  it('counts nothing between segments, and reports the gap', () => {
    const trail = new Trail();
    for (const raw of northward(1, 1, 11)) trail.append(fixFrom(raw));
    trail.breakSegment();
    for (const raw of northward(1, 1, 11, start + 600_000, 44.3)) trail.append(fixFrom(raw));
    const { distance, gaps, segments, duration, moving } = trail.summary();
    expect(distance).to.be.closeTo(20, 0.001);
    expect(segments).to.equal(2);
    expect(gaps).to.deep.equal([{ start: start + 10_000, end: start + 600_000 }]);
    expect([duration, moving]).to.deep.equal([610, 20]);
  });

  it('of an empty trail is empty, without an invented number', () => {
    const summary = new Trail().summary();
    expect(summary).to.deep.equal({
      fixes: 0,
      segments: 0,
      distance: 0,
      rawDistance: 0,
      path: 'fixes',
      gaps: [],
      stops: [],
    });
  });

  it('in mid-course equals the summary of the part so far', () => {
    fc.assert(
      fc.property(recordedTrail, fc.nat(30), (trail, n) => {
        const running = new RunningSummary();
        const part = new Trail();
        for (const fix of [...trail].slice(0, n)) {
          running.take(fix);
          part.append(fix);
        }
        expect(running.summary()).to.deep.equal(part.summary());
      }),
    );
  });

  it('leaves marked fixes out of every figure but the count', () => {
    const good = northward(1, 1, 3);
    const outlier = { time: start + 2500, lat: 50, lon: 0, marks: ['outlier'] } as const;
    const summary = Trail.from([...good, outlier]).summary();
    expect(summary.fixes).to.equal(4);
    expect(summary.distance).to.be.closeTo(2, 0.001);
    expect(summary.bounds![3]).to.be.below(44.3);
  });
});
