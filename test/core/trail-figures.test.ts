import {
  Trail,
  Veil,
  ahead,
  bearing,
  distance,
  fixFrom,
  readGpx,
  splitsOf,
  FenceTimes,
  timeInside,
  writeGpx,
  type CircleFence,
  type RawFix,
} from 'aurelian-drift';
import { GAIT_NAMES, journey } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { recordedTrail } from '../support/made.js';

const start = Date.UTC(2026, 4, 14, 8);
const hut = { lat: 44.2, lon: -33.6 };

/** Fixes due north of the hut at these distances in metres, one a second. */
function at(metres: readonly number[], more: object = {}): RawFix[] {
  return metres.map((m, i) => ({ time: start + i * 1000, ...ahead(hut, 0, m), ...more }));
}
const evenly = (count: number, step: number, from = 0) =>
  Array.from({ length: count }, (_, i) => from + i * step);

describe('the top speed', () => {
  it('is that of an even walk, and no wild fix makes another', () => {
    const even = evenly(60, 1.5);
    expect(Trail.from(at(even)).summary().topSpeed).to.be.closeTo(1.5, 1e-6);
    const outlier = even.map((m, i) => (i === 30 ? m + 400 : m));
    expect(Trail.from(at(outlier)).summary().topSpeed).to.be.closeTo(1.5, 1e-6);
  });

  it('is reported by two fixes in a row, not by one', () => {
    const reported = at(evenly(10, 2)).map((raw, i) => ({ ...raw, speed: i === 4 ? 44 : i === 7 ? 2.5 : 2 }));
    expect(Trail.from(reported).summary().topSpeed).to.equal(2);
    const twice = reported.map((raw, i) => ({ ...raw, speed: i === 5 ? 3 : raw.speed }));
    expect(Trail.from(twice).summary().topSpeed).to.equal(3);
  });

  it('is unknown when nothing can bear it out', () => {
    expect(Trail.from(at([0, 5])).summary()).not.to.have.property('topSpeed');
  });
});

describe('a silence', () => {
  it(
    'is a gap: its time is neither moving nor resting, its distance is not counted, and ' + 'it is reported',
    () => {
      const before = at(evenly(60, 1.5));
      const after = at(evenly(60, 1.5, 400)).map((raw) => ({ ...raw, time: raw.time + 180_000 }));
      const {
        gaps,
        duration,
        moving,
        resting,
        segments,
        distance: way,
      } = Trail.from([...before, ...after]).summary();
      expect(gaps).to.deep.equal([{ start: start + 59_000, end: start + 180_000 }]);
      expect([segments, duration, moving, resting]).to.deep.equal([1, 239, 118, 0]);
      expect(way).to.be.closeTo(2 * 59 * 1.5, 1e-3);
    },
  );

  it('is not reported where a writer keeps fixes only at turns', () => {
    const steps = [2, 30, 5, 44, 3, 25, 60, 8, 31, 55, 12, 40, 28];
    let time = start;
    let way = 0;
    const fixes = steps.map((seconds) => {
      time += seconds * 1000;
      way += seconds * 1.4;
      return { time, ...ahead(hut, 0, way) };
    });
    const summary = Trail.from(fixes).summary();
    expect(summary.gaps).to.deep.equal([]);
    expect(summary.distance).to.be.closeTo(way - 2 * 1.4, 1e-3);
  });

  it('is reported for each one of a journey, and the observed part is measured', () => {
    const route = { parts: [[hut, ahead(hut, 60, 4000)]] };
    for (const seed of [1, 2, 3]) {
      const seen = new Trail();
      let last: number | undefined;
      const silences: number[] = [];
      for (const { fix } of journey(route, { seed, reception: 'deep', gait: GAIT_NAMES[0]! })) {
        if (fix === undefined) continue;
        if (last !== undefined && fix.time - last > 25_000) silences.push(last);
        last = fix.time;
        seen.append(fix);
      }
      expect(silences.length).to.be.above(2);
      expect(seen.summary().gaps.map((gap) => gap.start)).to.deep.equal(silences);
    }
  });
});

describe('climb', () => {
  it('is not made of a coarse height before the sure ones', () => {
    const certain = at(evenly(40, 1.4)).map((raw) => ({ ...raw, altitude: 20, altitudeAccuracy: 6 }));
    const coarse = { ...certain[0]!, time: start - 1000, altitude: -90, altitudeAccuracy: 80 };
    const { climb, descent } = Trail.from([coarse, ...certain]).summary();
    expect([climb, descent]).to.deep.equal([0, 0]);
  });
});

describe('splits', () => {
  it('are of the length asked, with times between the fixes, and the rest last', () => {
    // 2 m/s for 500 s, then 1 m/s for 500 s: 1000 m in 500 s, 500 m in 500 s.
    const metres = Array.from({ length: 1001 }, (_, i) => (i <= 500 ? 2 * i : 1000 + (i - 500)));
    const splits = splitsOf(Trail.from(at(metres)), 700);
    expect(splits.map((split) => Math.round(split.distance))).to.deep.equal([700, 700, 100]);
    expect(splits[0]!.duration).to.be.closeTo(350, 0.01);
    // 300 m at 2 m/s and 400 m at 1 m/s.
    expect(splits[1]!.duration).to.be.closeTo(550, 0.01);
    expect(splits[1]!.start).to.equal(splits[0]!.end);
    expect(splits[2]!.movingSpeed).to.be.closeTo(1, 1e-3);
    expect(splits[2]!.end).to.equal(start + 1_000_000);
  });

  it('fall between two fixes far apart', () => {
    const splits = splitsOf(Trail.from(at([0, 250])), 100);
    expect(splits.map(({ end }) => end)).to.deep.equal([start + 400, start + 800, start + 1000]);
    expect(() => splitsOf(new Trail(), 0)).to.throw('the length of a split must be above 0 metres, got 0');
  });

  it('add up to the summary: distance, time in motion, climb', () => {
    fc.assert(
      fc.property(recordedTrail, fc.integer({ min: 1000, max: 3_000_000 }), (trail, length) => {
        const summary = trail.summary();
        if (summary.distance / length > 2000) return;
        const splits = splitsOf(trail, length);
        const sum = (of: (split: (typeof splits)[number]) => number | undefined) =>
          splits.reduce((total, split) => total + (of(split) ?? 0), 0);
        expect(sum((split) => split.distance)).to.be.closeTo(
          summary.distance,
          1e-3 + summary.distance * 1e-9,
        );
        expect(sum(({ moving }) => moving)).to.be.at.most((summary.moving ?? 0) + 1e-6);
        for (const split of splits.slice(0, -1)) expect(split.distance).to.be.closeTo(length, 1e-3);
      }),
    );
  });
});

describe('time in a fence', () => {
  const fence: CircleFence = {
    kind: 'circle',
    id: 'f',
    name: 'Meadow',
    centre: ahead(hut, 0, 100),
    radius: 50,
  };

  it('is from edge to edge, visit by visit', () => {
    // Through at 1 m/s, 50 to 150 m; back again.
    const there = [...evenly(201, 1), ...evenly(200, -1, 199)];
    const [time] = timeInside(Trail.from(at(there)), [fence]);
    expect(time!.visits).to.equal(2);
    expect(time!.duration).to.be.closeTo(200, 1);
  });

  it('counts nothing in a gap, and only the inside part at the end', () => {
    const trail = new Trail();
    for (const raw of at(evenly(101, 1))) trail.append(fixFrom(raw)); // ends in the middle, 50 s inside
    trail.breakSegment();
    // 20 s there
    for (const raw of at(evenly(21, 0, 100))) trail.append(fixFrom({ ...raw, time: raw.time + 1_000_000 }));
    const [time] = timeInside(trail, [fence]);
    expect(time!.visits).to.equal(1);
    expect(time!.duration).to.be.closeTo(70, 1);
    expect(timeInside(Trail.from(at([0, 1, 2])), [fence])).to.deep.equal([]);
  });

  it('counts nothing of a silence, though no gap was marked', () => {
    const there = at(evenly(101, 1)); // 50 s inside
    const after = at(evenly(21, 0, 100)).map((raw) => ({ ...raw, time: raw.time + 1_000_000 })); // 20 s more
    const [time] = timeInside(Trail.from([...there, ...after]), [fence]);
    expect(time!.duration).to.be.closeTo(70, 1);
    // The fence watch treats it as a gap too: the two agree.
    const times = new FenceTimes([fence]);
    for (const raw of [...there, ...after]) times.take(fixFrom(raw));
    expect(times.timeInside).to.deep.equal([time]);
  });
});

describe('a fix put in by its time', () => {
  it('leaves the trail as one recorded in order, over chunks and segments', () => {
    fc.assert(
      fc.property(
        recordedTrail.filter((trail) => trail.length > 1),
        fc.nat(),
        (trail, which) => {
          const late = which % trail.length;
          const taken = trail.at(late)!;
          const run = trail.segments.find(({ start: from, end }) => late >= from && late < end)!;
          if (run.end - run.start < 2 || late === run.start) return;
          const without = new Trail();
          for (const segment of trail.segments) {
            for (let i = segment.start; i < segment.end; i++) if (i !== late) without.append(trail.at(i)!);
            without.breakSegment();
          }
          without.insert(taken);
          expect([...without]).to.deep.equal([...trail]);
          expect(without.segments).to.deep.equal(trail.segments);
        },
      ),
    );
  });

  it('shifts thousands of fixes behind it, with their foreign data', () => {
    const trail = Trail.from(evenly(10_000, 2).map((i) => ({ time: start + i * 1000, ...hut })));
    trail.setExtra(9000, '{urn:example:quill}pulse', '90');
    trail.insert(fixFrom({ time: start + 1000, ...hut, speed: 3 }));
    expect(trail.length).to.equal(10_001);
    expect(trail.at(1)!.speed).to.equal(3);
    expect(trail.at(-1)!.time).to.equal(start + 19_998_000);
    expect(trail.extra(9001, '{urn:example:quill}pulse')).to.equal('90');
    const empty = new Trail();
    empty.insert(fixFrom({ time: start, ...hut }));
    expect(empty.segments).to.deep.equal([{ start: 0, end: 1 }]);
  });
});

describe('a veil', () => {
  const home: CircleFence = { kind: 'circle', id: 'home', name: 'Home', centre: hut, radius: 150 };

  it(
    'leaks nothing of its areas, cuts the ends at random distances, and the summary ' + 'mentions it',
    () => {
      const cuts = new Set<number>();
      for (let day = 0; day < 40; day++) {
        const trail = Trail.from(
          at(evenly(900, 1)).map((raw) => ({ ...raw, time: raw.time + day * 86_400_000 })),
        );
        const veiled = new Veil([home], { margin: 300 }).trail(trail);
        expect(veiled.summary().veiled).to.equal(1);
        const first = distance(hut, veiled.at(0)!);
        expect(first).to.be.within(150, 452);
        cuts.add(Math.round(first / 20));
        expect([...veiled]).to.deep.equal([...trail].slice(trail.length - veiled.length));
        // The same trail is always trimmed at the same position.
        expect([...new Veil([home], { margin: 300 }).trail(trail)]).to.deep.equal([...veiled]);
      }
      expect(cuts.size).to.be.above(7);
    },
  );

  it(
    'cuts a path that crosses an area without a fix inside at an unpredictable but ' + 'constant distance',
    () => {
      // From 700 m west to 700 m east in steps of 40 m, with one step of 400 m across the area.
      const metres = [...evenly(13, 40, -700), ...evenly(13, 40, 220)];
      const across = (day: number) =>
        Trail.from(
          metres.map((east, i) => ({
            time: start + day * 86_400_000 + i * 30_000,
            ...ahead(hut, east < 0 ? 270 : 90, Math.abs(east)),
          })),
        );
      const lengths = (veil: Veil, day: number) =>
        veil
          .trail(across(day))
          .segments.map(({ start: from, end }) => end - from)
          .join('+');
      const areas = Array.from({ length: 30 }, (_, i) => ({ ...home, radius: 150 + i / 1000 }));
      const veilOf = (area: CircleFence, secret?: string) =>
        new Veil([area], { margin: 500, ...(secret !== undefined && { secret }) });
      // The areas of others differ by a millimetre, days by their times, devices by their secrets.
      expect(new Set(areas.map((area) => lengths(veilOf(area), 0))).size).to.be.above(12);
      expect(new Set(areas.map((_, day) => lengths(veilOf(home), day))).size).to.be.above(12);
      expect(new Set(areas.map((_, i) => lengths(veilOf(home, `secret ${i}`), 0))).size).to.be.above(12);
      // The same again after the trail has grown and returns home.
      const first = across(0);
      const once = veilOf(home).trail(first);
      const grown = Trail.from([...first, ...across(1)]);
      expect([...veilOf(home).trail(grown)].slice(0, once.length - 5)).to.deep.equal([...once].slice(0, -5));
    },
  );

  it('holds for any trail and any areas: no fix in one, no step across one', () => {
    const area = fc.record({
      east: fc.double({ min: -800, max: 800, noNaN: true }),
      north: fc.double({ min: -800, max: 800, noNaN: true }),
      radius: fc.integer({ min: 20, max: 400 }),
    });
    const step = fc.tuple(fc.double({ min: 0, max: 359, noNaN: true }), fc.integer({ min: 1, max: 300 }));
    fc.assert(
      fc.property(
        fc.array(area, { minLength: 1, maxLength: 3 }),
        fc.array(step, { minLength: 2, maxLength: 60 }),
        (areas, steps) => {
          const fences = areas.map(({ east, north, radius }, i): CircleFence => ({
            kind: 'circle',
            id: `a${i}`,
            name: 'A',
            centre: ahead(ahead(hut, 90, east), 0, north),
            radius,
          }));
          let here = hut;
          const trail = Trail.from(
            steps.map(([course, metres], i) => ({
              time: start + i * 60_000,
              ...(here = ahead(here, course, metres)),
            })),
          );
          const veil = new Veil(fences);
          const veiled = veil.trail(trail);
          for (const { start: from, end } of veiled.segments) {
            for (let i = from; i < end; i++) {
              expect(veil.hides(veiled.at(i)!)).to.equal(false);
              if (i + 1 === end) continue;
              const [a, b] = [veiled.at(i)!, veiled.at(i + 1)!];
              for (let share = 0.05; share < 1; share += 0.05) {
                const between = ahead(a, bearing(a, b), distance(a, b) * share);
                const deepest = Math.max(
                  ...fences.map(({ centre, radius }) => radius - distance(centre, between)),
                );
                expect(deepest).to.be.below(0.5);
              }
            }
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('leaves a trail that it does not touch unchanged, and a veiled one is marked in a file', () => {
    const far = Trail.from(at(evenly(50, 1, 2000)));
    expect(new Veil([home]).trail(far)).to.equal(far);
    const veiled = new Veil([home]).trail(Trail.from(at(evenly(900, 1)), { name: 'Out' }));
    const again = readGpx(writeGpx({ trails: [veiled] })).trails[0]!;
    expect([again.veiled, again.summary().veiled, again.name]).to.deep.equal([1, 1, 'Out']);
  });

  it('covers lines and waypoints too, and counts the hidden parts', () => {
    const line = { parts: [[ahead(hut, 0, 10), ahead(hut, 0, 900), ahead(hut, 0, 1800)]] };
    const waypoints = [
      { ...hut, name: 'Bed' },
      { ...ahead(hut, 0, 900), name: 'Gate' },
    ];
    const {
      content,
      points,
      waypoints: hidden,
      fixes,
    } = new Veil([home]).tracks({ routes: [line], waypoints, trails: [Trail.from(at([0, 1, 2]))] });
    expect(content.routes![0]!.parts[0]).to.have.length(2);
    expect(content.waypoints!.map(({ name }) => name)).to.deep.equal(['Gate']);
    expect([points, hidden, fixes, content.trails]).to.deep.equal([1, 1, 3, []]);
    expect(() => new Veil([home], { margn: 3 } as object)).to.throw(
      'Veil has no option "margn", did you mean',
    );
  });
});

describe('a late bundle', () => {
  it('gives, put in by its times, the summary of the walk as it was', () => {
    const walk = at(evenly(600, 1.4), { accuracy: 4 }).map((raw) => fixFrom(raw));
    const trail = new Trail();
    const [first, second, third] = [walk.slice(0, 200), walk.slice(200, 400), walk.slice(400)];
    for (const fix of [...first, ...third]) trail.append(fix);
    for (const fix of second) trail.insert(fix);
    expect(trail.summary()).to.deep.equal(Trail.from(walk).summary());
  });
});
