import {
  InputError,
  PlanWatch,
  Trail,
  ahead,
  distance,
  fixFrom,
  planContent,
  planFrom,
  plansOf,
  progressOf,
  readGeoJson,
  readGpx,
  readKml,
  writeGeoJson,
  writeGpx,
  writeKml,
  type Fix,
  type Plan,
  type PlanEvent,
  type PlanOptions,
  type Position,
} from 'aurelian-drift';
import { journey, randomFrom, type JourneyOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';

const hut = { lat: 44.2, lon: -33.6 };
/** A line of legs, each with its direction and length, from a place. */
const legs = (all: readonly (readonly [bearing: number, metres: number])[], from: Position = hut) =>
  all.reduce<Position[]>(
    (line, [bearing, metres]) => [...line, ahead(line.at(-1)!, bearing, metres)],
    [from],
  );
const planOf = (points: readonly Position[], options: PlanOptions = {}) =>
  planFrom({ parts: [points] }, options);

const there = legs([
  [90, 500],
  [0, 300],
  [60, 250],
]);
const lap = legs([
  [90, 250],
  [0, 250],
  [270, 250],
]);
const LINES = {
  'a way out and back': [...there, ...there.slice(0, -1).reverse()],
  'three laps': [...lap, ...lap, ...lap, hut],
  'a line that crosses itself': legs([
    [45, 400],
    [0, 200],
    [270, 400],
    [180, 200],
    [135, 500],
    [180, 200],
    [270, 500],
  ]),
  'parallel lanes 30 m apart': legs([
    [90, 400],
    [0, 30],
    [270, 400],
    [0, 30],
    [90, 400],
  ]),
} as const;

interface Walked {
  readonly fixes: Fix[];
  /** True place at each fix, and the true metres of the way to it. */
  readonly truth: Position[];
  readonly way: number[];
}

function walk(line: readonly Position[], options: JourneyOptions): Walked {
  const [fixes, truth, way]: [Fix[], Position[], number[]] = [[], [], []];
  let metres = 0;
  let last: Position | undefined;
  for (const { truth: at, fix } of journey({ parts: [line] }, options)) {
    if (last !== undefined) metres += distance(last, at);
    last = at;
    if (fix === undefined) continue;
    fixes.push(fixFrom(fix));
    truth.push(at);
    way.push(metres);
  }
  return { fixes, truth, way };
}

const eventsOf = (plan: Plan, fixes: readonly Fix[]) => {
  const watch = new PlanWatch(plan);
  return { watch, events: fixes.flatMap((fix) => watch.take(fix)) };
};
const named = (events: readonly PlanEvent[]) =>
  events.map((event) => ('name' in event ? `${event.kind} ${event.name}` : event.kind));

describe('the place on a plan', function () {
  this.timeout(60_000);

  for (const [what, line] of Object.entries(LINES))
    for (const statedSpeed of ['true', 'absent'] as const)
      it(`is right on ${what}, ${statedSpeed === 'true' ? 'with' : 'without'} speeds`, () => {
        const plan = planOf(line);
        let [right, all, far] = [0, 0, 0];
        for (const reception of ['open', 'trees', 'meadow'] as const) {
          const { fixes, way } = walk(line, { reception, seed: 70_001, statedSpeed });
          const watch = new PlanWatch(plan);
          fixes.forEach((fix, i) => {
            watch.take(fix);
            const off = Math.abs((watch.progress?.along ?? NaN) - way[i]!);
            all++;
            if (off <= (fix.accuracy ?? 0) + 5) right++;
            if (!(off <= 100)) far++;
          });
          expect(watch.progress!.share).to.be.above(0.99);
        }
        expect(right / all).to.be.above(0.985);
        expect(far).to.equal(0); // never on another lap
      });

  it('is found in the middle, and of a plan that is walked backwards', () => {
    const line = legs([
      [90, 600],
      [0, 500],
      [300, 400],
    ]);
    const plan = planOf(line, { stations: [{ ...line[1]!, name: 'Ford' }] });
    const middle = walk([ahead(line[0]!, 90, 400), ...line.slice(1)], { reception: 'open', seed: 3 });
    const forward = eventsOf(plan, middle.fixes).watch.progress!;
    expect(forward.direction).to.equal('forward');
    expect(forward.done).to.be.closeTo(1100, 15);
    const back = eventsOf(plan, walk([...line].reverse(), { reception: 'trees', seed: 4 }).fixes);
    expect(back.watch.progress!.direction).to.equal('backward');
    expect(back.watch.progress!.left).to.be.below(20);
    expect(named(back.events)).to.deep.equal(['reached Ford', 'finished']);
  });
});

describe('progress on a plan', () => {
  const line = legs([
    [90, 600],
    [0, 500],
    [270, 600],
  ]);
  const start = Date.UTC(2026, 4, 14, 8);
  const plan = planOf(line, {
    stations: [
      { ...line[1]!, name: 'Ford', time: start + 400_000 },
      { ...line[2]!, name: 'Mill' },
      { ...line[3]!, name: 'Tower', time: start + 1_300_000 },
    ],
  });
  const exact = (points: readonly Position[]) => walk(points, { reception: 'open', seed: 8 });

  it('counts done and left, names the next point, and expects the arrival at the pace of the user', () => {
    const { fixes, way } = exact(line);
    const watch = new PlanWatch(plan);
    let checked = 0;
    fixes.forEach((fix, i) => {
      watch.take(fix);
      const { along, left, done, share, next, arrival, pace } = watch.progress!;
      expect(along + left).to.be.closeTo(1700, 0.01);
      expect(share).to.be.closeTo(done / 1700, 1e-4);
      if (way[i]! < 700 || way[i]! > 1000) return;
      checked++;
      expect(next!.name).to.equal('Mill');
      expect(next!.distance).to.be.closeTo(1100 - way[i]!, 15);
      expect(Math.abs(((next!.bearing + 180) % 360) - 180)).to.be.below(6);
      const expected = fix.time + ((1700 - way[i]!) / pace!) * 1000;
      expect(Math.abs(arrival! - expected) / 1000).to.be.below(12);
    });
    expect(checked).to.be.above(100);
  });

  it('reports each point once, with its delay, and the end', () => {
    const { fixes, way } = exact(line);
    const { events } = eventsOf(plan, fixes);
    expect(named(events)).to.deep.equal(['reached Ford', 'reached Mill', 'reached Tower', 'finished']);
    const ford = events[0] as Extract<PlanEvent, { kind: 'reached' }>;
    const there = fixes[way.findIndex((metres) => metres >= 600)]!.time;
    expect(Math.abs(ford.time - there) / 1000).to.be.below(15);
    expect(ford.late).to.be.closeTo((ford.time - start) / 1000 - 400, 1e-9);
  });

  it('tells what was passed by, and what was done again', () => {
    // From 300 m straight across to the last leg, past Ford and Mill.
    const across = [line[0]!, ahead(line[0]!, 90, 300), ahead(line[3]!, 90, 300), line[3]!];
    const cut = eventsOf(plan, exact(across).fixes);
    expect(named(cut.events)).to.deep.equal([
      'left',
      'skipped Ford',
      'skipped Mill',
      'back', // it has to last
      'reached Tower',
      'finished',
    ]);
    const { skipped, share } = cut.watch.progress!;
    expect(skipped).to.have.length(1);
    expect(skipped[0]![0]).to.be.closeTo(300, 30);
    expect(skipped[0]![1]).to.be.closeTo(1400, 30);
    expect(share).to.be.closeTo(600 / 1700, 0.04);
    const again = [line[0]!, line[1]!, ahead(line[0]!, 90, 300), line[1]!, ...line.slice(2)];
    expect(eventsOf(plan, exact(again).fixes).watch.progress!.repeated).to.be.closeTo(600, 40); // back and forth
  });

  it('is the same live, of the recorded trail, and after a restart in the middle', () => {
    const { fixes } = exact(line);
    const live = eventsOf(plan, fixes);
    expect(progressOf(Trail.from(fixes), plan)).to.deep.equal({
      progress: live.watch.progress,
      events: live.events,
    });
    const first = new PlanWatch(plan);
    const before = fixes.slice(0, 700).flatMap((fix) => first.take(fix));
    const second = new PlanWatch(plan);
    second.restore(first.state);
    const after = fixes.slice(700).flatMap((fix) => second.take(fix));
    expect(named([...before, ...after])).to.deep.equal(named(live.events));
    expect(second.progress!.done).to.be.closeTo(live.watch.progress!.done, 5);
  });

  it('refuses a state that is damaged or of another plan, and stays as it was', () => {
    const watch = new PlanWatch(plan);
    const { fixes } = exact(line);
    for (const fix of fixes.slice(0, 100)) watch.take(fix);
    const { progress, state } = watch;
    for (const bad of [state.slice(0, -2), 'nonsense', state.replace('plan-watch', 'fence-watch')])
      expect(() => watch.restore(bad)).to.throw(InputError);
    const other = new PlanWatch(planOf(there));
    expect(() => other.restore(state)).to.throw('another plan');
    expect(watch.progress).to.equal(progress);
  });
});

describe('leaving the line', function () {
  this.timeout(60_000);
  const line = legs([
    [90, 500],
    [10, 500],
    [280, 400],
  ]);
  const plan = planOf(line);
  const corner = line[1]!;
  const detour = [
    line[0]!,
    corner,
    ...legs([[10, 150], [80, 80], [10, 180], [300, 80]], corner).slice(1), // prettier-ignore
    ahead(corner, 10, 400),
    ...line.slice(2),
  ];

  for (const reception of ['open', 'trees', 'street'] as const)
    it(`is told once under ${reception}, with its side, dated to when it happened, and so is coming back`, () => {
      for (const seed of [71_001, 71_002, 71_003]) {
        const { fixes, truth } = walk(detour, { reception, seed });
        const watch = new PlanWatch(plan);
        const left = truth.findIndex((at) => plan.line.nearest(at).distance > plan.corridor);
        const told: [event: PlanEvent, at: number][] = [];
        for (const fix of fixes) for (const event of watch.take(fix)) told.push([event, fix.time]);
        // An echo may be taken for leaving once in some hours, and one as long as the detour is deep for coming back.
        const kinds = named(told.map(([event]) => event));
        expect(kinds.length).to.be.at.most(reception === 'street' ? 5 : 3);
        expect(kinds.at(-1)).to.equal('finished');
        const lefts = told.filter(([{ kind }]) => kind === 'left');
        const first = lefts.find(([, at]) => at >= fixes[left]!.time);
        const second = told.filter(([{ kind }]) => kind === 'back').at(-1);
        const [event, at] = first!;
        expect(event).to.include({ kind: 'left', side: 'right' });
        expect((at - fixes[left]!.time) / 1000).to.be.within(0, 45);
        expect(Math.abs(event.time - fixes[left]!.time) / 1000).to.be.below(15);
        expect(distance(event as Extract<PlanEvent, { kind: 'left' }>, truth[left]!)).to.be.below(40);
        expect(second![0].time).to.be.above(event.time + 120_000);
        expect(watch.progress!.skipped[0]![1] - watch.progress!.skipped[0]![0]).to.be.within(80, 260);
      }
    });

  it('is not told of somebody who keeps to it, however bad the reception', () => {
    for (const reception of ['trees', 'street', 'deep'] as const)
      for (const seed of [72_001, 72_002, 72_003, 72_004]) {
        const { events } = eventsOf(plan, walk(line, { reception, seed }).fixes);
        expect(named(events)).not.to.include('left');
      }
  });
});

describe('the line of a plan', () => {
  it('finds the same places as a plain search of all steps, also across the date line', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.constantFrom(-33.6, 179.999), (seed, lon: number) => {
        const random = randomFrom(seed);
        const points: Position[] = [{ lat: 44.2, lon }];
        for (let i = 0; i < 120; i++)
          points.push(ahead(points.at(-1)!, 360 * random.uniform(), 60 * random.uniform() + 1));
        const { line } = planOf(points);
        const at = ahead(points[60]!, 360 * random.uniform(), 300 * random.uniform());
        // Every metre of the line, by its own place.
        let [least, where] = [Infinity, 0];
        for (let along = 0; along <= line.length; along += 1) {
          const away = distance(at, line.placeAt(along));
          if (away < least) [least, where] = [away, along];
        }
        const found = line.nearest(at);
        expect(found.distance).to.be.within(least - 1, least + 0.01);
        expect(distance(found, line.placeAt(found.along))).to.be.below(0.01);
        const near = line.near(at, least + 30);
        expect(near.map(({ along }) => along)).to.deep.equal(
          near.map(({ along }) => along).toSorted((a, b) => a - b),
        );
        expect(near.some(({ along }) => Math.abs(along - where) < 8)).to.equal(true);
      }),
      { numRuns: 60 },
    );
  });

  it('is refused without two different points, and stations that do not fit are named', () => {
    expect(() => planOf([hut])).to.throw('two different points');
    expect(() => planOf([hut, hut, hut])).to.throw('two different points');
    expect(() => planOf([hut, { lat: 133, lon: 4 }])).to.throw('latitude 133');
    expect(() => planOf(there, { stations: [{ ...ahead(hut, 180, 900), name: 'Far <b>' }] })).to.throw(
      'station "Far <b>" is not within 100 m',
    );
    const [first, second] = [there[0]!, there[2]!];
    const timed = [
      { ...first, name: 'A', time: 2000 },
      { ...second, name: 'B', time: 1000 },
    ];
    expect(() => planOf(there, { stations: timed })).to.throw('"B" is planned before');
    expect(() => planOf(there, { coridor: 5 } as never)).to.throw('did you mean "corridor"');
    // Doubled points and a jump are a line.
    const jump = planFrom({ parts: [[hut, hut, there[1]!], [ahead(hut, 0, 5000)]] });
    expect(jump.line.length).to.be.above(5000);
  });
});

describe('a corner of a plan', () => {
  it('where laps close is not taken for the end, although the stated course turns late', () => {
    const points = [...lap, ...lap, ...lap, hut];
    const plan = planOf(points);
    const watch = new PlanWatch(plan);
    const course = (along: number) => plan.line.placeAt(Math.max(0, along)).course;
    for (let i = 0; i * 1.3 < plan.line.length; i++) {
      const { lat, lon } = plan.line.placeAt(1.3 * i);
      // A receiver that smooths its course states the old one for ten seconds.
      watch.take(
        fixFrom({
          time: 1_800_000_000_000 + i * 1000,
          lat,
          lon,
          accuracy: 12,
          speed: 1.3,
          course: course(1.3 * i - 13),
        }),
      );
      expect(Math.abs(watch.progress!.along - 1.3 * i), `${i}`).to.be.below(40);
    }
  });
});

describe('leaving a plan, across a restart', () => {
  it('is told once, also when the restart comes before it has lasted', () => {
    const plan = planOf(legs([[90, 900]]), { corridor: 20 });
    const points = legs([[90, 300], [180, 120], [90, 400]]); // prettier-ignore
    const fixes = [...journey({ parts: [points] }, { seed: 3, reception: 'exact' })].flatMap(
      ({ fix }) => fix ?? [],
    );
    const kinds = (restartAt: number) => {
      let watch = new PlanWatch(plan);
      return fixes.flatMap((fix, i) => {
        if (i === restartAt) {
          const { state } = watch;
          watch = new PlanWatch(plan);
          watch.restore(state);
        }
        return watch.take(fix).map(({ kind }) => kind);
      });
    };
    expect(kinds(-1)).to.deep.equal(['left']);
    // From before the line is left, at about the 230th second, until after it is told.
    for (let restartAt = 210; restartAt < 300; restartAt += 6)
      expect(kinds(restartAt), `${restartAt}`).to.deep.equal(['left']);
  });
});

describe('the way back to a plan', () => {
  it('is told with the plan that was left: how far, which side, and the nearest point of the line', () => {
    const plan = planOf(legs([[90, 900]]), { corridor: 20 });
    const trail = new Trail();
    const points = [...legs([[90, 300], [180, 80], [90, 400]])]; // prettier-ignore
    for (const { fix } of journey({ parts: [points] }, { seed: 3, reception: 'exact' }))
      if (fix) trail.append(fix);
    const left = progressOf(trail, plan).events.find(({ kind }) => kind === 'left');
    if (left?.kind !== 'left') throw new Error('it was not told');
    expect(left.side).to.equal('right');
    expect(left.distance).to.be.within(20, 80);
    expect(distance(left.nearest, ahead(hut, 90, 300))).to.be.below(15);
  });
});

describe('a plan in a file', () => {
  const round = planOf([...there, ...there.slice(0, -1).reverse()], {
    name: 'Out & back <1>',
    corridor: 35,
    stations: [
      { ...there[1]!, name: 'Ford', time: Date.UTC(2026, 4, 14, 8) },
      { ...there[3]!, name: 'Tower' },
      { ...there[1]!, name: 'Ford again', time: Date.UTC(2026, 4, 14, 9, 30) },
    ],
  });

  for (const [format, write, read] of [
    ['GPX', writeGpx, readGpx],
    ['GeoJSON', writeGeoJson, readGeoJson],
    ['KML', writeKml, readKml],
  ] as const)
    it(`comes back from ${format} as it was: name, line, corridor, stations at their passage, and times`, () => {
      const [back] = plansOf(read(write(planContent(round)))) as [Plan];
      expect(back).to.deep.include({ name: round.name, corridor: 35 });
      expect(back.line.length).to.be.closeTo(round.line.length, 0.01);
      const labels = ({ stations }: Plan) => stations.map(({ name, time }) => [name, time]);
      expect(labels(back)).to.deep.equal(labels(round));
      back.stations.forEach(({ along }, i) => expect(along).to.be.closeTo(round.stations[i]!.along, 0.01));
    });

  it('may be a route, a line or a recorded track of others, with the waypoints near it as stations', () => {
    const trail = new Trail({ name: 'Recorded' });
    for (const { fix } of journey({ parts: [there] }, { seed: 2, reception: 'exact' }))
      if (fix) trail.append(fix);
    const waypoints = [
      { ...there[1]!, name: 'Ford' },
      { ...ahead(hut, 270, 5000), name: 'Elsewhere' },
    ];
    const plans = plansOf({ trails: [trail], routes: [{ name: 'Route', parts: [there] }], waypoints });
    expect(plans.map(({ name }) => name)).to.deep.equal(['Route', 'Recorded']);
    for (const { stations } of plans) expect(stations.map(({ name }) => name)).to.deep.equal(['Ford']);
    expect(() => plansOf({ waypoints })).to.throw('there is no route, track or line in it');
    expect(plansOf({ routes: [{ parts: [there] }] }, { corridor: 8 })[0]!.corridor).to.equal(8);
  });
});
