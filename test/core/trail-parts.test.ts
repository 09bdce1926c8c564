import {
  Trail,
  ahead,
  cutTrail,
  distance,
  fixFrom,
  joinTrails,
  nearestOnTrail,
  placeAt,
  resampleTrail,
  splitTrail,
  thinTrail,
  type Fix,
  type Position,
} from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { Geodesic } from 'geographiclib-geodesic';
import { fixes, recordedTrail } from '../support/made.js';

const START = Date.UTC(2026, 4, 14, 8);
const hut = { lat: 44.2, lon: -33.6 };
/** A trail of positions one second apart. */
const walked = (places: readonly Position[], name = 'Walk') =>
  Trail.from(
    places.map(({ lat, lon }, i) => ({ time: START + i * 1000, lat, lon })),
    { name },
  );
/** East from the hut, a metre a second. */
const straight = (seconds: number) =>
  walked(Array.from({ length: seconds + 1 }, (_, i) => ahead(hut, 90, i)));
const metres = (a: Position, b: Position) =>
  (Geodesic.WGS84.Inverse(a.lat, a.lon, b.lat, b.lon) as { s12: number }).s12;
const turned = (lon: number) => ((lon + 540) % 360) - 180;

/** A random trail from anywhere except close to the poles. */
const wandering = fc
  .record({
    lat: fc.double({ min: -85, max: 85, noNaN: true }),
    lon: fc.oneof(fc.double({ min: -180, max: 180, noNaN: true }), fc.constantFrom(179.9999, -179.9999)),
    seed: fc.integer({ min: 1, max: 1e6 }),
    step: fc.constantFrom(2, 30, 2000),
    count: fc.integer({ min: 1, max: 700 }),
  })
  .map(({ seed, step, count, ...from }) => {
    const random = randomFrom(seed);
    let [at, course] = [from as Position, random.uniform() * 360];
    return walked(
      Array.from({ length: count }, () => {
        course += random.normal() * 25;
        at = ahead(at, course, step * random.uniform());
        return at;
      }).filter(({ lat }) => Math.abs(lat) < 89),
    );
  });

describe('a trail, thinned', () => {
  /** Metres from a fix to the straight line in longitude and latitude between two others, by sampling the line. */
  const off = (fix: Fix, a: Fix, b: Fix) => {
    const place = (t: number) => ({
      lat: a.lat + t * (b.lat - a.lat),
      lon: turned(a.lon + t * turned(b.lon - a.lon)),
    });
    let [low, high] = [0, 1];
    for (let round = 0; round < 7; round++) {
      const tries = Array.from({ length: 11 }, (_, i) => low + (i / 10) * (high - low));
      const best = tries.reduce((min, t) => (metres(fix, place(t)) < metres(fix, place(min)) ? t : min));
      [low, high] = [Math.max(0, best - (high - low) / 10), Math.min(1, best + (high - low) / 10)];
    }
    return metres(fix, place((low + high) / 2));
  };

  it(
    'passes every fix it leaves out within the tolerance, anywhere on earth, and leaves the others ' +
      'as they were',
    () => {
      fc.assert(
        fc.property(wandering, fc.constantFrom(3, 40, 900), (trail, tolerance) => {
          const thin = thinTrail(trail, tolerance);
          const kept = [...thin];
          expect(kept[0]).to.deep.equal(trail.at(0));
          expect(kept.at(-1)).to.deep.equal(trail.at(-1));
          let k = 0;
          for (const fix of trail) {
            if (fix.time === kept[k + 1]?.time) k++;
            if (fix.time === kept[k]!.time) expect(fix).to.deep.equal(kept[k]);
            else expect(off(fix, kept[k]!, kept[k + 1]!)).to.be.at.most(tolerance * 1.0001);
          }
        }),
        { numRuns: 40 },
      );
    },
  ).timeout(240_000);

  it('keeps when one was where, on request: a rest in the middle of a straight line stays', () => {
    const places = [...Array(50).keys()].map((i) => ahead(hut, 90, i));
    const trail = walked([
      ...places,
      ...Array.from({ length: 100 }, () => places[49]!),
      ...places.map((_, i) => ahead(hut, 90, 50 + i)),
    ]);
    expect(thinTrail(trail, 5).length).to.equal(2);
    const timed = thinTrail(trail, 5, { timeAware: true });
    expect(timed.length).to.be.within(4, 8);
    for (const fix of trail) expect(metres(fix, placeAt(timed, fix.time)!)).to.be.at.most(5.001);
  });

  it('thins a straight part to two fixes, keeps segments, and refuses an invalid tolerance', () => {
    expect(thinTrail(straight(500), 1).length).to.equal(2);
    const two = joinTrails([straight(10), Trail.from([{ time: START + 1e6, ...hut }])]);
    expect(thinTrail(two, 1).segments).to.deep.equal([
      { start: 0, end: 2 },
      { start: 2, end: 3 },
    ]);
    expect(thinTrail(new Trail(), 1).length).to.equal(0);
    expect(() => thinTrail(two, 0)).to.throw('tolerance must be');
    expect(() => thinTrail(two, 1, { timeaware: true } as never)).to.throw('did you mean "timeAware"?');
  });
});

describe('a trail, cut, joined and split', () => {
  it('is cut by time, both ends included, and joined again to the original', () => {
    fc.assert(
      fc.property(recordedTrail, fc.double({ min: 0, max: 1, noNaN: true }), (trail, share) => {
        const before = JSON.stringify([...trail]);
        const middle = trail.number(Math.floor(share * trail.length), 'time');
        const from = Number.isNaN(middle) ? START : middle;
        const [first, second] = [cutTrail(trail, { to: from - 1 }), cutTrail(trail, { from })];
        expect([...joinTrails([second, first])]).to.deep.equal([...trail]);
        expect(JSON.stringify([...trail])).to.equal(before);
      }),
    );
    expect(() => cutTrail(straight(3), { form: 5 } as never)).to.throw('did you mean "from"?');
  });

  it('counts nothing between joined parts, and refuses overlapping times', () => {
    const later = Trail.from(
      [0, 1, 2].map((i) => ({ time: START + 1e6 + i * 1000, ...ahead(hut, 0, 5000 + i) })),
    );
    const joined = joinTrails([later, straight(10)], { name: 'Both' });
    expect([joined.name, joined.segments.length]).to.deep.equal(['Both', 2]);
    expect(joined.summary().rawDistance).to.be.closeTo(12, 0.01);
    expect(() => joinTrails([straight(10), straight(5)])).to.throw('begins before the one before it ends');
    expect(joinTrails([]).length).to.equal(0);
  });

  it('is split by distance, by time and at times, without losing any of the way', () => {
    const trail = straight(1000);
    for (const [options, lengths] of [
      [{ beyond: 300 }, [300, 300, 300, 100]],
      [{ every: 250 }, [250, 250, 250, 250]],
      [{ at: [START + 400_500, START + 900_000] }, [401, 499, 100]],
    ] as const) {
      const parts = splitTrail(trail, options);
      parts.forEach((part, i) =>
        expect(part.summary().rawDistance, JSON.stringify(options)).to.be.closeTo(lengths[i]!, 1.01),
      );
      expect(parts).to.have.length(lengths.length);
      const all = parts.reduce((sum, part) => sum + part.summary().rawDistance, 0);
      expect(all).to.be.closeTo(trail.summary().rawDistance, 1e-6);
      expect(parts[1]!.name).to.equal('Walk, part 2');
    }
    expect(() => splitTrail(trail, {})).to.throw('one way at a time');
    expect(() => splitTrail(trail, { beyond: 5, every: 5 })).to.throw('got 2');
  });

  it('is split at the stops, and wandering during a stop is in no part', () => {
    const random = randomFrom(3);
    const go = (from: number) => Array.from({ length: 200 }, (_, i) => ahead(hut, 90, from + i));
    const rest = Array.from({ length: 300 }, () =>
      ahead(ahead(hut, 90, 199), random.uniform() * 360, 6 * random.uniform()),
    );
    const parts = splitTrail(walked([...go(0), ...rest, ...go(200)]), { stop: 120, within: 20 });
    // each ends or begins 20 m from the position of rest
    expect(parts.map((part) => Math.round(part.summary().rawDistance / 10) * 10)).to.deep.equal([180, 180]);
    expect(splitTrail(straight(300), { stop: 60 })).to.have.length(1);
  });
});

describe('along a trail', () => {
  it('has the place at a time between the fixes around it, and none in a gap', () => {
    const trail = joinTrails([straight(100), Trail.from([{ time: START + 500_000, ...hut }])]);
    expect(metres(placeAt(trail, START + 41_250)!, ahead(hut, 90, 41.25))).to.be.below(0.001);
    expect(placeAt(trail, START + 100_000)!.index).to.equal(100);
    for (const time of [START - 1, START + 300_000, START + 500_001])
      expect(placeAt(trail, time)).to.equal(undefined);
    expect(placeAt(trail, START + 500_000)!.index).to.equal(101);
  });

  it('the nearest point, its distance and its time are right, across the date line too', () => {
    const trail = walked(
      Array.from({ length: 100 }, (_, i) => ahead({ lat: -16.5, lon: 179.9995 }, 90, i * 2)),
    );
    const aside = ahead(ahead({ lat: -16.5, lon: 179.9995 }, 90, 121), 0, 30);
    const nearest = nearestOnTrail(trail, aside)!;
    expect(nearest.distance).to.be.closeTo(30, 0.01);
    expect((nearest.time - START) / 1000).to.be.closeTo(60.5, 0.01);
    expect(nearest.index).to.equal(60);
    expect(nearestOnTrail(new Trail(), hut)).to.equal(undefined);
  });

  it('is resampled at even times, with the measured values where a time falls on a fix', () => {
    const made = fixes(10);
    const even = resampleTrail(Trail.from(made), 0.5);
    expect(even.length).to.equal(19);
    made.forEach((fix, i) => expect(even.at(2 * i)).to.deep.equal(fix));
    const between = even.at(3)!;
    expect(between).to.have.all.keys('time', 'lat', 'lon', 'origin');
    expect(distance(between, made[1]!)).to.be.closeTo(distance(between, made[2]!), 0.01);
    expect(() => resampleTrail(even, 0)).to.throw('every must be');
    expect(resampleTrail(Trail.from([fixFrom({ time: START, ...hut })]), 5).length).to.equal(1);
  });

  it('a column holds the values of the fixes, chunk by chunk', () => {
    const trail = straight(9000);
    expect([...trail.column('lat', 4000, 4200)]).to.deep.equal(
      Array.from({ length: 200 }, (_, i) => trail.number(4000 + i, 'lat')),
    );
    expect(trail.column('accuracy'))
      .to.have.length(9001)
      .and.satisfy((all: Float64Array) => all.every(Number.isNaN));
    expect(trail.column('time', 9000, 99_999)).to.have.length(1);
  });
});
