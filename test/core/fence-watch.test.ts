import {
  FenceWatch,
  InputError,
  ahead,
  distance,
  fixFrom,
  fenceIndex,
  sharedFences,
  timetable,
  type CircleFence,
  type CorridorFence,
  type Crossing,
  type Fence,
  type FenceWatchOptions,
  type FenceWatchState,
  type Fix,
  type PolygonFence,
  type Position,
  type TimetableOptions,
} from 'aurelian-drift';
import { journey, randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { opened, sealed } from '../support/kept-text.js';

const start = Date.UTC(2026, 4, 14, 8);
const hut = { lat: 44.2, lon: -33.6 };
const circle: CircleFence = { kind: 'circle', id: 'hut', name: 'Hut', centre: hut, radius: 100 };
const polygon = (id: string, ...corners: (readonly [lat: number, lon: number])[]): PolygonFence => ({
  kind: 'polygon',
  id,
  name: id,
  parts: [[corners.map(([lat, lon]) => ({ lat, lon }))]],
});
const at = (seconds: number, where: Position, accuracy?: number): Fix =>
  fixFrom({ time: start + seconds * 1000, lat: where.lat, lon: where.lon, accuracy });
const east = (metres: number) => ahead(hut, 90, metres);
const run = (watch: FenceWatch, fixes: readonly Fix[]) => fixes.flatMap((fix) => watch.take(fix));
const kinds = (crossings: readonly Crossing[]) => crossings.map(({ kind }) => kind).join(' ');

/** Random fences of all kinds around the hut. */
function strewn(seed: number, count: number): Fence[] {
  const random = randomFrom(seed);
  return Array.from({ length: count }, (_, i): Fence => {
    const centre = ahead(hut, random.uniform() * 360, random.uniform() * 1500);
    const labels = { id: `f${i}`, name: `F ${i}`, ...(i % 4 === 0 && { linger: 20 }) };
    const star = (many: number) =>
      Array.from({ length: many }, (_, k) => ahead(centre, (k * 360) / many, 40 + 120 * random.uniform()));
    if (i % 3 === 0) return { kind: 'circle', ...labels, centre, radius: 20 + 100 * random.uniform() };
    if (i % 3 === 1) return { kind: 'polygon', ...labels, parts: [[star(7)]] };
    return { kind: 'corridor', ...labels, lines: [star(4)], halfWidth: 10 + 20 * random.uniform() };
  });
}

/** A random walk around the hut: steps of various lengths, some silences; with accuracies or without. */
function wandering(seed: number, count: number, accurate: boolean): Fix[] {
  const random = randomFrom(seed);
  let [where, time, course]: [Position, number, number] = [hut, 0, 0];
  return Array.from({ length: count }, () => {
    course += 60 * random.normal();
    const home = distance(where, hut) > 1500 ? 0.5 : 0;
    if (random.uniform() < home) course = 180 + course;
    where = ahead(where, course, random.uniform() < 0.1 ? 400 * random.uniform() : 15 * random.uniform());
    time += random.uniform() < 0.02 ? 300 : 5;
    return at(time, where, accurate ? 4 + 30 * random.uniform() ** 3 : undefined);
  });
}

describe('a timetable', () => {
  const isOn = (options: TimetableOptions, time: string) =>
    timetable({ timeZone: 'UTC', ...options }).isOn(Date.parse(time));

  it('knows times of day, also past midnight, days of the week, dates and time zones', () => {
    const reported = (options: TimetableOptions, ...times: string[]) =>
      times.map((time) => isOn(options, time));
    expect(
      reported(
        { hours: '08:00/18:00' },
        '2026-05-14T07:59:59Z',
        '2026-05-14T08:00Z',
        '2026-05-14T17:59:59Z',
        '2026-05-14T18:00Z',
      ),
    ).to.deep.equal([false, true, true, false]);
    // 14 May 2026 is a Thursday, day 4; a night belongs to the day on which it begins.
    const night = { hours: '22:00/06:00', weekdays: [4] };
    expect(
      reported(
        night,
        '2026-05-14T05:00Z',
        '2026-05-14T22:00Z',
        '2026-05-15T05:59Z',
        '2026-05-15T06:00Z',
        '2026-05-15T23:00Z',
      ),
    ).to.deep.equal([false, true, true, false, false]);
    expect(reported({ weekdays: [7] }, '2026-05-16T23:59Z', '2026-05-17T00:00Z')).to.deep.equal([
      false,
      true,
    ]);
    expect(
      reported(
        { dates: '2026-02-28/2026-03-01' },
        '2026-02-27T12:00Z',
        '2026-02-28T00:00Z',
        '2026-03-01T23:59Z',
        '2026-03-02T00:00Z',
      ),
    ).to.deep.equal([false, true, true, false]);
    // Two hours ahead of UTC all year.
    expect(
      reported({ hours: '08:00/09:00', timeZone: 'Etc/GMT-2' }, '2026-05-14T06:30Z', '2026-05-14T08:30Z'),
    ).to.deep.equal([true, false]);
    expect(isOn({}, '2026-05-14T06:30Z')).to.equal(true);
  });

  it('refuses an invalid fix', () => {
    const wrong: [object, string][] = [
      [{ hours: '8-18' }, 'timetable: hours must be two times of day, "08:00/18:00", got "8-18"'],
      [{ weekdays: [0] }, 'weekdays must be days of the week'],
      [{ dates: '2026-02-30/2026-03-01' }, 'dates must be two days'],
      [{ dates: '2026-03-02/2026-03-01' }, 'the first not after the second'],
      [{ timeZone: 'Vanesk' }, 'timeZone must be an IANA time zone'],
      [{ hour: '08:00/18:00' }, 'did you mean "hours"?'],
    ];
    for (const [options, message] of wrong) expect(() => timetable(options)).to.throw(InputError, message);
  });
});

describe('a watch', () => {
  it('reports lingering once, after the fence’s own time, and again after the next entry', () => {
    const fence = { ...circle, linger: 60 };
    const inside = (seconds: number) =>
      run(new FenceWatch([fence]), [
        at(0, east(150)),
        at(10, east(50)),
        ...Array.from({ length: seconds }, (_, i) => at(11 + i, east(50))),
      ]);
    // The edge was cut after 5 s.
    expect(kinds(inside(54))).to.equal('enter');
    const reported = inside(58);
    expect(kinds(reported)).to.equal('enter linger');
    expect(reported[1]).to.include({ time: start + 65_000, duration: 60 });
    expect(kinds(inside(500))).to.equal('enter linger');
    const twice = run(
      new FenceWatch([fence]),
      [0, 50, 120, 200]
        .flatMap((second, i) => [at(second, east(i % 2 ? 500 : 20)), at(second + 10, east(i % 2 ? 500 : 20))])
        .concat(at(280, east(20)), at(350, east(20))),
    );
    expect(kinds(twice)).to.equal('initial exit enter exit enter linger');
  });

  it('reports after a gap the state before and the state now, and invents no edge', () => {
    const watch = new FenceWatch([circle]);
    run(watch, [at(0, east(20)), at(10, east(30))]);
    watch.breakSegment();
    const [exit, ...others] = watch.take(at(1000, east(400)));
    expect(others).to.deep.equal([]);
    expect(exit).to.deep.equal({
      kind: 'exit',
      fence: 'hut',
      name: 'Hut',
      time: start + 1_000_000,
      notBefore: start + 10_000,
      ...pick(at(1000, east(400))),
      certainty: 1,
    });
    watch.breakSegment();
    expect(watch.take(at(1100, east(400)))).to.deep.equal([]);
    watch.breakSegment();
    expect(watch.take(at(1200, east(20)))[0]).to.include({
      kind: 'enter',
      notBefore: start + 1_100_000,
      time: start + 1_200_000,
    });
    // The entry was not observed, so the duration is unknown.
    expect(run(watch, [at(1210, east(120))])[0]).to.not.have.property('duration');
  });

  it('takes a long silence for a gap of its own accord, but not one that was planned', () => {
    const fixes = Array.from({ length: 30 }, (_, i) => at(i, east(150)));
    const after = { ...at(400, ahead(hut, 270, 150)) };
    expect(run(new FenceWatch([circle]), [...fixes, after])).to.deep.equal([]);
    const spared = fixFrom({ ...after, marks: ['planned-gap'] });
    expect(kinds(run(new FenceWatch([circle]), [...fixes, spared]))).to.equal('pass');
  });

  it('does not date a crossing by the coarse fixes that come first after a gap', () => {
    const watch = new FenceWatch([circle]);
    run(watch, [at(0, east(20), 8), at(10, east(30), 8)]);
    watch.breakSegment();
    // 30 m inside and 25 m outside, by fixes of 90 m and 45 m, is not significant yet.
    expect(run(watch, [at(300, east(70), 90), at(301, east(125), 45)])).to.deep.equal([]);
    expect(watch.sideOf('hut')).to.equal('uncertain');
    const reported = run(
      watch,
      Array.from({ length: 20 }, (_, i) => at(302 + i, east(180 + i), 8)),
    );
    expect(reported.map(({ kind, notBefore }) => [kind, notBefore])).to.deep.equal([
      ['exit', start + 10_000],
    ]);
    expect(reported[0]!.time).to.be.within(start + 302_000, start + 310_000);
  });

  it('closes a removed fence while the user is inside, and then reports no exit', () => {
    const watch = new FenceWatch([circle]);
    expect(kinds(run(watch, [at(0, east(150)), at(10, east(50)), at(20, east(40))]))).to.equal('enter');
    expect([watch.sideOf('hut'), watch.sideOf('bank')]).to.deep.equal(['inside', undefined]);
    const [closed] = watch.remove('hut');
    expect(closed).to.include({ kind: 'closed', fence: 'hut', duration: 15, time: start + 20_000 });
    expect([watch.remove('hut'), run(watch, [at(30, east(150))]), [...watch.inside]]).to.deep.equal([
      [],
      [],
      [],
    ]);
    expect(watch.add({ ...circle, radius: 300 })).to.deep.equal([]);
    expect(kinds(run(watch, [at(40, east(140))]))).to.equal('initial');
    expect(kinds(watch.add({ ...circle, radius: 20 }))).to.equal('closed'); // another of the same id takes its place
    expect(watch.remove('nobody')).to.deep.equal([]);
  });

  it('is uncertain on a fix too coarse for a fence; the certainty can be lowered or raised', () => {
    const coarse = [at(0, east(300), 500), at(10, east(0), 500), at(20, east(0), 500)];
    const certain = new FenceWatch([circle]);
    expect([kinds(run(certain, coarse)), certain.sideOf('hut')]).to.deep.equal(['', 'uncertain']);
    expect(kinds(run(new FenceWatch([circle], { mode: 'trusting' }), coarse))).to.equal('enter');
    const near = [at(0, east(96), 8)]; // 4 m inside, a deviation of 3.3 m: 0.89
    expect(kinds(run(new FenceWatch([{ ...circle, certainty: 0.8 }]), near))).to.equal('initial');
    expect(kinds(run(new FenceWatch([circle]), near))).to.equal('');
    expect(kinds(run(new FenceWatch([circle], { initial: 'enter' }), [at(0, hut)]))).to.equal('enter');
  });

  it(
    'watches a fence only in its timetable’s hours, closes it after them, and starts ' + 'again later',
    () => {
      const day = { ...circle, when: timetable({ hours: '08:00/08:02', timeZone: 'UTC' }) };
      const fixes = (from: number, count: number) =>
        Array.from({ length: count }, (_, i) => at(from + 10 * i, east(50)));
      const watch = new FenceWatch([day, { ...day, id: 'always', when: timetable({}) }]);
      const reported = run(watch, [at(0, east(150)), ...fixes(20, 20)]);
      expect(
        reported.map(({ kind, fence, time, duration }) => [kind, fence, (time - start) / 1000, duration]),
      ).to.deep.equal([
        ['enter', 'hut', 10, undefined],
        ['enter', 'always', 10, undefined],
        ['closed', 'hut', 120, 110],
      ]);
      expect([watch.sideOf('hut'), watch.sideOf('always'), watch.nearestEdge(east(50)) > 49]).to.deep.equal([
        undefined,
        'inside',
        true,
      ]);
      const kept = JSON.parse(JSON.stringify(watch.state)) as FenceWatchState;
      for (const next of [watch, new FenceWatch([day, { ...day, id: 'always', when: timetable({}) }])]) {
        if (next !== watch) expect(next.restore(kept)).to.deep.equal([]);
        const tomorrow = run(next, fixes(86_400, 3));
        expect(tomorrow.map(({ kind, fence }) => [kind, fence])).to.deep.equal([['initial', 'hut']]);
      }
    },
  );

  it('refuses an invalid fence, with its name and the problem', () => {
    const wrong: [object, string][] = [
      [{ ...circle, center: hut }, 'fence "hut" has no option "center", did you mean "centre"?'],
      [{ ...circle, radius: undefined }, 'fence "hut": radius must be a number of metres, got null'],
      [{ ...circle, radius: NaN }, 'fence "hut": radius must be 0.001 to 10000000 metres, got NaN'],
      [
        { ...circle, centre: { lat: 133, lon: 44 } },
        'fence "hut": centre has an impossible place: latitude 133 is outside −90…90; latitude and longitude swapped?',
      ],
      [{ ...circle, kind: 'square' }, 'fence "hut": kind got "square", known: circle, polygon, corridor'],
      [{ ...circle, name: '' }, 'fence "hut": name must be a text'],
      [{ ...circle, when: { hours: '08:00/18:00' } }, 'fence "hut": when must be timetable()'],
      [
        { kind: 'polygon', id: 'a', name: 'A', parts: [[[hut, east(5)]]] },
        'fence "a": parts must hold 3 places or more in a list',
      ],
      [
        { kind: 'corridor', id: 'a', name: 'A', lines: [], halfWidth: 5 },
        'fence "a": lines must hold 1 places or more in a list',
      ],
    ];
    for (const [fence, message] of wrong)
      expect(() => new FenceWatch([fence as Fence])).to.throw(InputError, message);
    const watch = new FenceWatch([circle]);
    expect(() => watch.add({ ...circle, radius: -1 })).to.throw('radius');
    expect(kinds(run(watch, [at(0, hut)]))).to.equal('initial'); // the earlier one is still watched
  });

  it('gives the course of a crossing, and metres to the nearest edge', () => {
    const [enter] = run(new FenceWatch([circle]), [at(0, east(150)), at(10, east(50))]);
    expect(enter!.course).to.be.closeTo(270, 0.1);
    const watch = new FenceWatch([circle, { ...circle, id: 'far', centre: east(40_000) }]);
    expect(watch.nearestEdge(hut)).to.be.closeTo(100, 0.01);
    expect(watch.nearestEdge(east(250))).to.be.closeTo(150, 0.01);
    expect(watch.nearestEdge(east(20_000))).to.be.closeTo(19_900, 1);
    expect(new FenceWatch([]).nearestEdge(hut)).to.equal(Infinity);
  });

  it('measures shapes from a metre to a thousand kilometres on the ground', () => {
    const side = (fence: Fence, where: Position) => {
      const watch = new FenceWatch([fence]);
      watch.take(at(0, where));
      return watch.sideOf(fence.id);
    };
    for (const size of [1, 1000, 1e6]) {
      const [within, beyond] = [size * (1 - 1e-4), size * (1 + 1e-4)];
      for (const course of [0, 77, 180, 260]) {
        const round: Fence = { ...circle, radius: size };
        expect([
          side(round, ahead(hut, course, within)),
          side(round, ahead(hut, course, beyond)),
        ]).to.deep.equal(['inside', 'outside']);
      }
      // A square in degrees: straight edges along meridians and parallels, whatever their length.
      const [north, wide] = [ahead(hut, 0, size).lat - hut.lat, ahead(hut, 90, size / 2).lon - hut.lon];
      const corner = (up: number, right: number) => [hut.lat + up * north, hut.lon + right * wide] as const;
      const square = polygon('square', corner(0, -1), corner(0, 1), corner(1, 1), corner(1, -1));
      const place = (up: number, right: number) => ({ lat: corner(up, right)[0], lon: corner(up, right)[1] });
      for (const [up, right] of [
        [0.001, 0],
        [0.999, 0.5],
        [0.5, 0.999],
        [0.3, -0.999],
      ] as const)
        expect(side(square, place(up, right))).to.equal('inside');
      for (const [up, right] of [
        [-0.001, 0],
        [1.001, 0.5],
        [0.5, 1.001],
        [0.3, -1.001],
      ] as const)
        expect(side(square, place(up, right))).to.equal('outside');
      const lane: CorridorFence = {
        kind: 'corridor',
        id: 'lane',
        name: 'Lane',
        lines: [[hut, { lat: hut.lat + north, lon: hut.lon }]],
        halfWidth: size / 100,
      };
      const beside = (metres: number) => ahead({ lat: hut.lat + north / 2, lon: hut.lon }, 90, metres);
      expect([side(lane, beside(size / 102)), side(lane, beside(size / 98))]).to.deep.equal([
        'inside',
        'outside',
      ]);
    }
  });

  it('has corridors of exactly the stated width, also around their ends and corners', () => {
    const corner = east(400);
    const corridor: CorridorFence = {
      kind: 'corridor',
      id: 'lane',
      name: 'Lane',
      lines: [[hut, corner, ahead(corner, 0, 300)]],
      halfWidth: 25,
    };
    const inside = (where: Position) => run(new FenceWatch([corridor]), [at(0, where)]).length === 1;
    for (const along of [0, 150, 399]) {
      expect(inside(ahead(east(along), 180, 24.8))).to.equal(true);
      expect(inside(ahead(east(along), 180, 25.2))).to.equal(false);
    }
    expect([
      inside(ahead(hut, 240, 24.8)),
      inside(ahead(hut, 240, 25.2)),
      inside(ahead(corner, 135, 24.8)),
      inside(ahead(corner, 135, 25.2)),
    ]).to.deep.equal([true, false, true, false]);
    const across = run(new FenceWatch([corridor]), [
      at(0, ahead(east(200), 180, 75)),
      at(10, ahead(east(200), 0, 75)),
    ]);
    expect(across[0]).to.include({ kind: 'pass' });
    expect(across[0]!.duration).to.be.closeTo(50 / 15, 0.01);
  });

  it('knows the inside of an outline around either pole, and across the date line', () => {
    const north = polygon('north', [80, 0], [80, 120], [80, -120]);
    const south = polygon('south', [-70, 170], [-75, -60], [-72, 60]);
    const pacific = polygon('pacific', [-10, 170], [-10, -170], [10, -170], [10, 170]);
    const inside = (fence: Fence, lat: number, lon: number) =>
      run(new FenceWatch([fence]), [at(0, { lat, lon })]).length === 1;
    expect([
      inside(north, 90, 0),
      inside(north, 85, 77),
      inside(north, 79, 77),
      inside(north, -85, 0),
    ]).to.deep.equal([true, true, false, false]);
    expect([
      inside(south, -90, 0),
      inside(south, -80, 120),
      inside(south, -60, 120),
      inside(south, 85, 0),
    ]).to.deep.equal([true, true, false, false]);
    expect([
      inside(pacific, 0, 180),
      inside(pacific, 0, -179.999),
      inside(pacific, 0, 165),
      inside(pacific, 0, 0),
    ]).to.deep.equal([true, true, false, false]);
    const [enter, exit] = run(new FenceWatch([north]), [
      at(0, { lat: 79, lon: 60 }),
      at(3600, { lat: 85, lon: 60 }),
      at(7200, { lat: 79, lon: 61 }),
    ]);
    expect([enter!.kind, exit!.kind]).to.deep.equal(['enter', 'exit']);
    expect(enter!.lat).to.be.closeTo(80, 1e-9);
  });

  it('finds on exact points the same as a plain reference that checks every step finely', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e6 }), (seed) => {
        const fences = strewn(seed, 3);
        const fixes = wandering(seed + 1, 40, false).map((fix, i) =>
          fixFrom({ ...fix, time: start + i * 5000 }),
        );
        const reported = run(new FenceWatch(fences, { mode: 'trusting', passes: 'pair' }), fixes).filter(
          ({ kind }) => kind === 'enter' || kind === 'exit',
        );
        for (const fence of fences) {
          const expected = oracle(fence, fixes);
          const seen = reported.filter((crossing) => crossing.fence === fence.id);
          // The oracle samples 200 points a step: it may miss a visit between two of them.
          const long = seen.filter(
            ({ time }, i) => ![i - 1, i + 1].some((j) => Math.abs((seen[j]?.time ?? Infinity) - time) < 120),
          );
          const found = (
            all: readonly { kind: string; time: number }[],
            one: { kind: string; time: number },
          ) => all.some(({ kind, time }) => kind === one.kind && Math.abs(time - one.time) <= 20);
          for (const one of long)
            expect(found(expected, one), `${seed}: ${fence.kind} ${one.kind}`).to.equal(true);
          for (const one of expected)
            expect(found(seen, one), `${seed}: ${fence.kind} ${one.kind} missed`).to.equal(true);
        }
      }),
      { numRuns: 8 },
    );
  }).timeout(240_000);

  it('continues after a restart as without one: no crossing twice, none lost', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 1e6 }),
        fc.array(fc.integer({ min: 1, max: 119 }), { maxLength: 6 }),
        (seed, stops) => {
          const fences = strewn(seed, 12);
          const fixes = wandering(seed + 7, 120, true);
          const whole = run(new FenceWatch(fences), fixes);
          let watch = new FenceWatch(fences);
          const parts = fixes.flatMap((fix, i) => {
            if (stops.includes(i)) {
              const kept = JSON.parse(JSON.stringify(watch.state)) as FenceWatchState;
              watch = new FenceWatch(fences);
              expect(watch.restore(kept)).to.deep.equal([]);
            }
            return watch.take(fix);
          });
          expect(parts).to.deep.equal(whole);
        },
      ),
      { numRuns: 100 },
    );
  }).timeout(240_000);

  it(
    'restores a state with other fences: new ones start unknown, missing ones are closed; ' +
      'refuses an invalid state',
    () => {
      const watch = new FenceWatch([circle]);
      run(watch, [at(0, east(150)), at(10, east(50))]);
      const { state } = watch;
      const { last, ...rest } = opened(state).value;
      const later = new FenceWatch([{ ...circle, id: 'new', name: 'New' }]);
      expect(later.restore(state)).to.deep.equal([
        {
          kind: 'closed',
          fence: 'hut',
          name: 'Hut',
          time: start + 10_000,
          lat: last.lat,
          lon: last.lon,
          certainty: 1,
          duration: 5,
        },
      ]);
      // A fence that is added while the user is inside reports no entry: its beginning is unknown.
      expect(kinds(run(later, [at(20, east(50))]))).to.equal('initial');
      for (const damaged of [{}, { last }, { ...rest, silences: undefined }])
        expect(() => new FenceWatch([circle]).restore(sealed('fence-watch', 1, damaged))).to.throw(
          'not a valid state of a FenceWatch',
        );
      expect(() => later.restore(state.replace('Hut', 'Hat'))).to.throw('its check sum is wrong');
      expect(() => later.restore(sealed('fence-watch', 2, {}))).to.throw(
        'in layout 2; this version reads up to 1. Update the library',
      );
      expect(() => later.restore('{"version":1,"fences":{}}')).to.throw('as version 0.1 kept it');
    },
  );

  it('reports the same with an index of many fences as without, while fences come and go', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e6 }), fc.boolean(), (seed, accurate) => {
        const random = randomFrom(seed);
        const fences = [
          ...strewn(seed, 400),
          polygon('north', [80, 0], [80, 120], [80, -120]),
          { ...circle, id: 'wide', radius: 90_000 },
        ];
        const options: FenceWatchOptions = accurate ? {} : { mode: 'trusting' };
        const [plain, many] = [
          new FenceWatch(fences, options),
          new FenceWatch(fences, { ...options, index: fenceIndex() }),
        ];
        const spare = strewn(seed + 3, 40).map((fence) => ({ ...fence, id: `extra-${fence.id}` }));
        for (const fix of wandering(seed + 5, 150, accurate)) {
          expect(byFence(many.take(fix))).to.deep.equal(byFence(plain.take(fix)));
          const chance = random.uniform();
          if (chance < 0.1) {
            const fence = spare[Math.floor(random.uniform() * spare.length)]!;
            expect(many.add(fence)).to.deep.equal(plain.add(fence));
          } else if (chance < 0.2) {
            const id = fences[Math.floor(random.uniform() * fences.length)]!.id;
            expect(many.remove(id)).to.deep.equal(plain.remove(id));
          }
        }
        expect(many.inside).to.deep.equal(plain.inside);
      }),
      { numRuns: 20 },
    );
  }).timeout(240_000);

  it(
    'reports the same for fences shared by many watches as a watch with its own, by the ' +
      'clock and after restarts too',
    () => {
      const evening = timetable({ hours: '08:05/08:10', timeZone: 'UTC' });
      fc.assert(
        fc.property(fc.integer({ min: 0, max: 1e6 }), fc.boolean(), (seed, indexed) => {
          const fences = strewn(seed, 60).map((fence, i) =>
            i % 5 === 0 ? { ...fence, when: evening } : fence,
          );
          const shared = sharedFences(fences, indexed ? { index: fenceIndex() } : {});
          expect(shared.size).to.equal(60);
          const users = [1, 2, 3].map((user) => ({
            walk: wandering(seed + user, 150, user !== 2),
            own: new FenceWatch(fences),
            sharing: new FenceWatch(shared),
          }));
          for (let i = 0; i < 150; i++)
            for (const user of users) {
              expect(byFence(user.sharing.take(user.walk[i]!))).to.deep.equal(
                byFence(user.own.take(user.walk[i]!)),
              );
              expect(user.sharing.inside).to.deep.equal(user.own.inside);
              if (i % 40 !== 39) continue;
              const kept = JSON.parse(JSON.stringify(user.sharing.state)) as FenceWatchState;
              user.sharing = new FenceWatch(shared);
              expect(user.sharing.restore(kept)).to.deep.equal([]);
            }
        }),
        { numRuns: 20 },
      );
      const one = new FenceWatch(sharedFences([circle]));
      expect(() => one.add({ ...circle, id: 'new' })).to.throw(InputError, 'shared with other watches');
      expect(() => one.remove('hut')).to.throw(InputError, 'shared with other watches');
      expect(() => new FenceWatch(sharedFences([circle]), { index: fenceIndex() })).to.throw(
        InputError,
        'where fences are not shared',
      );
      expect(() => sharedFences([circle, circle])).to.throw(InputError, 'two fences have the id "hut"');
    },
  ).timeout(240_000);

  it('reports an excursion once: a crossing that is certain only later has the earlier time', () => {
    // Around the pole, where a step that is straight in degrees leaves, enters again, and ends outside.
    let [here, time]: [Position, number] = [{ lat: 89.9995, lon: 0 }, start];
    const watch = new FenceWatch([{ ...circle, centre: here, radius: 100 }]);
    const reported = [
      [0, 90, undefined],
      [0, 90, 0],
      [-5, 5, undefined],
      [20, 90, 3],
      [20, 0, 1e6],
    ].flatMap(([seconds, metres, accuracy]) => {
      here = ahead(here, 0, metres!);
      time += seconds! * 1000;
      return watch.take(fixFrom({ time, ...here, accuracy }));
    });
    const kindsInTurn = reported.map(({ kind }) => kind).filter((kind) => kind !== 'initial');
    kindsInTurn.forEach((kind, i) => expect(kind).to.equal(i % 2 === 0 ? 'exit' : 'enter'));
    reported.forEach(({ time: at, duration = 0 }, i) =>
      expect([duration >= 0, at >= (reported[i - 1]?.time ?? 0)]).to.deep.equal([true, true]),
    );
  });

  it('continues from any state that it saved, also after the coarsest accepted fixes', () => {
    const step = fc.record({
      seconds: fc.constantFrom(0, 0.1, 1, 20, 4000),
      course: fc.double({ min: 0, max: 359, noNaN: true }),
      metres: fc.constantFrom(0, 1, 50, 400, 2e6),
      accuracy: fc.constantFrom(undefined, 0, 3, 40, 5000, 1e6, 1e9),
      speed: fc.option(fc.double({ min: 0, max: 300, noNaN: true }), { nil: undefined }),
    });
    fc.assert(
      fc.property(fc.array(step, { minLength: 10, maxLength: 60 }), (steps) => {
        const watch = new FenceWatch([circle]);
        let [here, time]: [Position, number] = [hut, start];
        for (const { seconds, course, metres, accuracy, speed } of steps) {
          here = ahead(here, course, metres);
          time += seconds * 1000;
          watch.take(fixFrom({ time, ...here, accuracy, speed, course }));
          expect(
            new FenceWatch([circle]).restore(JSON.parse(JSON.stringify(watch.state)) as FenceWatchState),
          ).to.deep.equal([]);
        }
      }),
      { numRuns: 300 },
    );
  });

  it('survives any sequence of fixes: in and out in turn, times in order, certainties as they must be', () => {
    const step = fc.record({
      seconds: fc.constantFrom(0, 1, 20, 4000, -5),
      course: fc.double({ min: 0, max: 360, noNaN: true }),
      metres: fc.constantFrom(0, 5, 90, 400, 2e6),
      accuracy: fc.constantFrom(undefined, 0, 3, 40, 1e6),
      broken: fc.boolean(),
    });
    fc.assert(
      fc.property(
        fc.constantFrom<Position>(hut, { lat: 89.9995, lon: 0 }, { lat: -12, lon: 179.9999 }),
        fc.array(step, { maxLength: 40 }),
        (from, steps) => {
          const fences: Fence[] = [
            { ...circle, centre: from, linger: 10 },
            {
              kind: 'corridor',
              id: 'lane',
              name: 'Lane',
              halfWidth: 30,
              lines: [[from, ahead(from, 200, 500)]],
            },
          ];
          const watch = new FenceWatch(fences);
          let [where, time] = [from, 0];
          const reported: Crossing[] = [];
          for (const { seconds, course, metres, accuracy, broken } of steps) {
            if (broken) watch.breakSegment();
            where = ahead(where, course, metres);
            time += seconds;
            reported.push(...watch.take(at(time, where, accuracy)));
          }
          for (const { id } of fences) {
            let inside: boolean | undefined;
            for (const { kind, certainty, lat, lon, duration = 0 } of reported.filter(
              ({ fence }) => fence === id,
            )) {
              if (kind === 'enter' || kind === 'initial') expect(inside).to.not.equal(true);
              if (kind === 'exit' || kind === 'linger') expect(inside).to.equal(true);
              if (kind !== 'pass') inside = kind !== 'exit';
              expect(certainty).to.be.within(0.9, 1);
              for (const number of [lat, lon]) expect(number).to.satisfy(Number.isFinite);
              expect(duration).to.be.at.least(0);
            }
          }
        },
      ),
      { numRuns: 300 },
    );
  }).timeout(240_000);

  it('reports every true crossing of noisy walks once, and no false one', () => {
    const line = { parts: [[ahead(hut, 250, 900), hut, ahead(hut, 110, 900)]] };
    const fences: Fence[] = [
      circle,
      { ...circle, id: 'gate', centre: ahead(hut, 250, 500), radius: 60 },
      { ...circle, id: 'barn', centre: ahead(ahead(hut, 110, 500), 20, 130), radius: 60 },
    ];
    for (let seed = 80_001; seed < 80_021; seed++) {
      const watch = new FenceWatch(fences);
      const reported = Array.from(journey(line, { seed, reception: 'open' })).flatMap(({ fix }) =>
        watch.take(fix!),
      );
      expect(reported.map(({ kind, fence }) => `${kind} ${fence}`).join(', '), String(seed)).to.equal(
        'enter gate, exit gate, enter hut, exit hut',
      );
    }
  });
});

function pick({ lat, lon }: Position): Position {
  return { lat, lon };
}

/** Independent of the order in which the fences are checked. */
function byFence(crossings: readonly Crossing[]): Crossing[] {
  return crossings.toSorted((a, b) => a.time - b.time || (a.fence < b.fence ? -1 : 1));
}

/**
 * Entries and exits found by sampling 200 points of every step; inside is determined by the winding number or by
 * distances.
 */
function oracle(fence: Fence, fixes: readonly Fix[]): { kind: string; time: number }[] {
  const found: { kind: string; time: number }[] = [];
  let inside = holds(fence, fixes[0]!);
  for (let i = 1; i < fixes.length; i++) {
    const [from, to] = [fixes[i - 1]!, fixes[i]!];
    for (let k = 1; k <= 200; k++) {
      const share = k / 200;
      const now = holds(fence, {
        lat: from.lat + (to.lat - from.lat) * share,
        lon: from.lon + (to.lon - from.lon) * share,
      });
      if (now !== inside)
        found.push({
          kind: now ? 'enter' : 'exit',
          time: from.time + (to.time - from.time) * (share - 1 / 400),
        });
      inside = now;
    }
  }
  // A visit of a single sample may be a touched edge.
  return found.filter(
    ({ time }, i) => ![i - 1, i + 1].some((j) => Math.abs((found[j]?.time ?? Infinity) - time) < 120),
  );
}

function holds(fence: Fence, { lat, lon }: Position): boolean {
  if (fence.kind === 'circle') return distance(fence.centre, { lat, lon }) <= fence.radius;
  if (fence.kind === 'corridor') {
    return fence.lines.some((line) =>
      line.slice(1).some((to, i) => {
        // The nearest point of the line, by golden-section search on true distances.
        let [low, high] = [0, 1];
        const away = (t: number) =>
          distance(
            { lat, lon },
            {
              lat: line[i]!.lat + (to.lat - line[i]!.lat) * t,
              lon: line[i]!.lon + (to.lon - line[i]!.lon) * t,
            },
          );
        for (let n = 0; n < 25; n++) {
          const [a, b] = [high - (high - low) * 0.618, low + (high - low) * 0.618];
          if (away(a) < away(b)) high = b;
          else low = a;
        }
        return away((low + high) / 2) <= fence.halfWidth;
      }),
    );
  }
  const ring = fence.parts[0]![0]!;
  const winding = ring.reduce((sum, a, i) => {
    const b = ring[(i + 1) % ring.length]!;
    const turn = Math.atan2(b.lat - lat, b.lon - lon) - Math.atan2(a.lat - lat, a.lon - lon);
    return sum + (turn > Math.PI ? turn - 2 * Math.PI : turn < -Math.PI ? turn + 2 * Math.PI : turn);
  }, 0);
  return Math.abs(winding) > Math.PI;
}
