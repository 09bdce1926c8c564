import { InputError, ahead, distance, fencesFrom, type CircleFence, type Position } from 'aurelian-drift';
import {
  NoWayError,
  TRAVEL_RULES,
  WayFinder,
  faultText,
  networkFrom,
  noWayText,
  stepText,
  waysFrom,
  waysToGeoJson,
  type LaneProperties,
  type TravelRule,
  type Way,
  type WayRequest,
} from 'aurelian-drift/ways';
import { randomFrom } from 'aurelian-drift/testing';
import { loadTexts } from 'aurelian-drift/texts';
import { expect } from 'chai';
import fc from 'fast-check';
import { readFileSync } from 'node:fs';

const hut = { lat: 44.2, lon: -33.6 };
const pair = ({ lat, lon }: Position) => [Number(lon.toFixed(7)), Number(lat.toFixed(7))] as const;
const at = ([lon, lat]: readonly [number, number]) => ({ lat, lon });
const lane = (points: readonly Position[], properties: LaneProperties = {}, id?: string) => ({
  type: 'Feature',
  ...(id !== undefined && { id }),
  geometry: { type: 'LineString', coordinates: points.map(pair) },
  properties,
});
const collection = (features: readonly object[]) => ({ type: 'FeatureCollection', features });
const finderOf = (features: readonly object[], rules?: Record<string, TravelRule>) =>
  new WayFinder(networkFrom(collection(features)).network, rules === undefined ? {} : { rules });
const demo = (name: string): unknown =>
  JSON.parse(readFileSync(new URL(`../../demo/${name}.geojson`, import.meta.url), 'utf8'));
const failureOf = (find: () => unknown): NoWayError => {
  try {
    find();
  } catch (error) {
    if (error instanceof NoWayError) return error;
    throw error;
  }
  throw new Error('there is a way');
};

/** A town of lanes on a crooked grid, some of one direction, some of other kinds, some missing. */
function town(seed: number, side: number) {
  const random = randomFrom(seed);
  const nodes = Array.from({ length: side * side }, (_, i) => {
    const corner = ahead(ahead(hut, 90, (i % side) * 120), 0, Math.floor(i / side) * 100);
    return at(pair(ahead(corner, random.uniform() * 360, random.uniform() * 40)));
  });
  const edges: { from: number; to: number; points: Position[]; properties: LaneProperties }[] = [];
  const add = (from: number, to: number) => {
    if (random.uniform() < 0.25) return;
    const [a, b] = [nodes[from]!, nodes[to]!];
    const bend = at(
      pair(ahead({ lat: (a.lat + b.lat) / 2, lon: (a.lon + b.lon) / 2 }, random.uniform() * 360, 15)),
    );
    const kind = ['road', 'lane', 'track', 'path'][Math.floor(random.uniform() * 4)]!;
    const oneway = random.uniform() < 0.3 ? (random.uniform() < 0.5 ? true : -1) : undefined;
    edges.push({
      from,
      to,
      points: [a, bend, b],
      properties: { kind, ...(oneway !== undefined && { oneway }) },
    });
  };
  for (let i = 0; i < nodes.length; i++) {
    if (i % side < side - 1) add(i, i + 1);
    if (i + side < nodes.length) add(i, i + side);
    if (random.uniform() < 0.1) add(i, Math.floor(random.uniform() * nodes.length));
  }
  return { nodes, edges, features: edges.map(({ points, properties }) => lane(points, properties)) };
}
const lengthOf = (points: readonly Position[]) =>
  points.reduce((sum, point, i) => sum + (i === 0 ? 0 : distance(points[i - 1]!, point)), 0);

/** Least costs from a node to all others by trying every edge again and again (Bellman and Ford). */
function leastCosts(
  { nodes, edges }: ReturnType<typeof town>,
  start: number,
  rule: TravelRule,
  prefer: 'fastest' | 'shortest',
  isOpen: (points: Position[]) => boolean = () => true,
): number[] {
  const cost = nodes.map((_, i) => (i === start ? 0 : Infinity));
  for (let changed = true; changed;) {
    changed = false;
    for (const { from, to, points, properties } of edges)
      for (const [a, b, direction] of [
        [from, to, 'forward'],
        [to, from, 'backward'],
      ] as const) {
        const speed = rule(properties, direction);
        if (speed === 'closed' || !isOpen(points)) continue;
        const total = cost[a]! + (prefer === 'fastest' ? lengthOf(points) / speed : lengthOf(points));
        if (total < cost[b]! - 1e-9) {
          cost[b] = total;
          changed = true;
        }
      }
  }
  return cost;
}

/** Whether a node is at the end of a lane that is open to a kind of travel. */
const isOnLane = ({ edges }: ReturnType<typeof town>, node: number, rule: TravelRule) =>
  edges.some(
    ({ from, to, properties }) =>
      (from === node || to === node) &&
      (['forward', 'backward'] as const).some((direction) => rule(properties, direction) !== 'closed'),
  );

describe('ways over a network', () => {
  it('are those of least cost, by an exhaustive search written apart, or none is found by either', () => {
    let [found, none] = [0, 0];
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 1e6 }),
        fc.integer({ min: 2, max: 7 }),
        fc.constantFrom('foot', 'cycle', 'drive'),
        fc.constantFrom('fastest', 'shortest'),
        (seed, side, by, prefer) => {
          const made = town(seed, side);
          if (made.edges.length === 0) return;
          const rule = TRAVEL_RULES[by];
          const finder = finderOf(made.features);
          for (const start of [0, Math.floor(side / 2), side * side - 1]) {
            const costs = leastCosts(made, start, rule, prefer);
            for (const end of [side - 1, side * side - 1, 1]) {
              if (start === end || ![start, end].every((node) => isOnLane(made, node, rule))) continue;
              const request = { from: made.nodes[start]!, to: made.nodes[end]!, by, prefer } as WayRequest;
              if (costs[end] === Infinity) {
                expect(failureOf(() => finder.find(request)).kind).to.equal('no-way');
                none++;
                continue;
              }
              const [way] = finder.find(request) as [Way];
              const cost = prefer === 'fastest' ? way.seconds : way.metres;
              expect(Math.abs(cost - costs[end]!)).to.be.below(1e-9 * costs[end]! + 1e-3);
              expect(lengthOf(way.line.parts.flat())).to.be.closeTo(way.metres, 0.05);
              const sums = way.steps.reduce(
                (sum, step) => [sum[0]! + step.metres, sum[1]! + step.seconds],
                [0, 0],
              );
              expect(sums[0]).to.be.closeTo(way.metres, 1e-6);
              expect(sums[1]).to.be.closeTo(way.seconds, 1e-6);
              found++;
            }
          }
        },
      ),
      { numRuns: 150, seed: 21 },
    );
    expect(found).to.be.above(300);
    expect(none).to.be.above(30);
  });

  it('never enter a closed area, and enter one to avoid only where there is no reasonable way around', () => {
    let around = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const made = town(seed, 6);
        const random = randomFrom(seed);
        const centre = made.nodes[7 + Math.floor(random.uniform() * 20)]!;
        const fence: CircleFence = { kind: 'circle', id: 'a', name: 'Tern Bank', centre, radius: 90 };
        /** Metres from the centre to the nearest of many places of a line. */
        const nearest = (points: readonly Position[]) =>
          points.slice(1).reduce((least, to, i) => {
            const from = points[i]!;
            return Array.from({ length: 200 }, (_, k) =>
              distance(centre, {
                lat: from.lat + ((to.lat - from.lat) * k) / 199,
                lon: from.lon + ((to.lon - from.lon) * k) / 199,
              }),
            ).reduce((a, b) => Math.min(a, b), least);
          }, Infinity);
        // A lane that only grazes the edge is open or closed by a hair.
        const away = new Map(made.edges.map(({ points }) => [points, nearest(points)]));
        if ([...away.values()].some((metres) => Math.abs(metres - 90) < 1)) return;
        const [start, end] = [0, 35];
        if (
          [start, end].some(
            (node) => distance(centre, made.nodes[node]!) < 200 || !isOnLane(made, node, TRAVEL_RULES.foot),
          )
        )
          return;
        const finder = finderOf(made.features);
        const request = { from: made.nodes[start]!, to: made.nodes[end]! };
        const cost = leastCosts(
          made,
          start,
          TRAVEL_RULES.foot,
          'fastest',
          (points) => away.get(points)! > 90,
        )[end]!;
        const free = leastCosts(made, start, TRAVEL_RULES.foot, 'fastest')[end]!;
        if (cost === Infinity) {
          const { nearest: place } = failureOf(() => finder.find({ ...request, closed: [fence] }));
          expect(place === undefined || distance(place, centre)).to.satisfy(
            (each: unknown) => each === true || (each as number) > 89,
          );
          if (free < Infinity)
            expect(finder.find({ ...request, avoid: [fence] })[0]!.enters).to.deep.equal(['Tern Bank']);
          return;
        }
        const [closed] = finder.find({ ...request, closed: [fence] }) as [Way];
        expect(closed.seconds).to.be.closeTo(cost, 1e-3);
        const [avoiding] = finder.find({ ...request, avoid: [fence] }) as [Way];
        expect(avoiding.seconds).to.be.within(free - 1e-3, cost + 1e-3);
        if (avoiding.enters.length === 0) expect(avoiding.seconds).to.be.closeTo(cost, 1e-3);
        if (cost > free + 1) around++;
      }),
      { numRuns: 80, seed: 22 },
    );
    expect(around).to.be.above(8);
  });

  it('pass the places in between, in order', () => {
    const made = town(5, 6);
    const finder = finderOf(made.features);
    const [a, b, c] = [0, 20, 35].map((i) => made.nodes[i]!) as [Position, Position, Position];
    const [whole] = finder.find({ from: a, via: [b], to: c }) as [Way];
    const parts = [finder.find({ from: a, to: b })[0]!, finder.find({ from: b, to: c })[0]!];
    expect(whole.seconds).to.be.closeTo(parts[0]!.seconds + parts[1]!.seconds, 1e-6);
    expect(whole.steps.filter(({ turn }) => turn === 'via')).to.have.length(1);
    expect(distance(whole.via[0]!, b)).to.be.below(0.1);
  });

  it('are several where they differ: none shares over 70 % with another or costs half as much again', () => {
    const finder = finderOf(town(9, 9).features);
    const { nodes } = town(9, 9);
    const ways = finder.find({ from: nodes[0]!, to: nodes[80]!, choices: 3 });
    expect(ways.length).to.be.above(1);
    const keys = ways.map(({ line }) => new Set(line.parts.flat().map((point) => pair(point).join())));
    ways.forEach(({ seconds }, i) => {
      expect(seconds).to.be.within(ways[0]!.seconds, 1.5 * ways[0]!.seconds);
      if (i > 0)
        expect([...keys[i]!].filter((key) => keys[0]!.has(key)).length).to.be.below(0.8 * keys[i]!.size);
    });
  });
});

describe('the ends of a way', () => {
  const [a, b] = [hut, ahead(hut, 90, 400)];
  const [c, d] = [ahead(b, 0, 300), ahead(hut, 0, 300)];
  const block = [
    lane([a, b], { name: 'South Lane', oneway: true }),
    lane([b, c], { name: 'East Lane' }),
    lane([c, d], { name: 'North Lane' }),
    lane([d, a], { name: 'West Lane' }),
  ];

  it('are on the nearest lane that is open to the kind of travel, with the walk to it', () => {
    const finder = finderOf([
      ...block,
      lane([ahead(a, 180, 20), ahead(b, 180, 20)], { kind: 'path', name: 'Foot Path' }),
    ]);
    const from = ahead(ahead(hut, 90, 100), 180, 12);
    const drive = finder.find({ from, to: c, by: 'drive' })[0]!;
    expect(drive.steps[0]!.name).to.equal('South Lane');
    expect(drive.walk[0]).to.be.closeTo(12, 0.1);
    expect(drive.metres).to.be.closeTo(600, 0.5);
    expect(failureOf(() => finder.find({ from, to: c, by: 'foot' }).map(({ steps }) => steps)).kind).to.equal(
      'no-way',
    );
  });

  it('may be on one lane: along it, and round the block against a lane of one direction', () => {
    const finder = finderOf(block);
    const [west, east] = [ahead(hut, 90, 100), ahead(hut, 90, 300)];
    expect(finder.find({ from: west, to: east, by: 'drive' })[0]!.metres).to.be.closeTo(200, 0.5);
    const back = finder.find({ from: east, to: west, by: 'drive' })[0]!;
    expect(back.metres).to.be.closeTo(100 + 300 + 400 + 300 + 100, 1);
    expect(back.steps.map((step) => stepText(step).split(',')[0])).to.deep.equal([
      'Set out on South Lane',
      'Turn left onto East Lane',
      'Turn left onto North Lane',
      'Turn left onto West Lane',
      'Turn left onto South Lane',
      'You have arrived',
    ]);
    expect(finder.find({ from: east, to: west, by: 'foot' })[0]!.metres).to.be.closeTo(200, 0.5);
    expect(finder.find({ from: west, to: west })[0]!).to.include({ metres: 0, seconds: 0 });
  });

  it('that cannot be reached are named with the nearest place that can', () => {
    const far = [lane([ahead(d, 0, 100), ahead(d, 0, 250)], { name: 'Far Lane' })];
    const finder = finderOf([...block, ...far]);
    const error = failureOf(() => finder.find({ from: a, to: ahead(d, 0, 200) }));
    expect(error.kind).to.equal('no-way');
    expect(distance(error.nearest!, d)).to.be.below(0.1);
    expect(error.metres).to.be.closeTo(200, 0.5);
    const sea = failureOf(() => finder.find({ from: a, to: ahead(a, 180, 5000) }));
    expect(sea.kind).to.equal('off-network');
    expect(sea.metres).to.be.closeTo(5000, 5);
    expect(sea.message).to.contain('no open lane within 1000 m of the target; the nearest is 5000 m away');
    expect(noWayText(sea)).to.equal('There is no lane near. The nearest is 5.00 km away.');
  });
});

describe('a network', () => {
  const east = (metres: number, north = 0) => ahead(ahead(hut, 90, metres), 0, north);

  it('joins ends that nearly touch, and names gaps, doubles, lines without length and what is apart', () => {
    const lines = [
      lane([hut, east(100), east(200)], { name: 'Main' }),
      lane([east(50, 0.6), east(50, 80)], { name: 'Joined to a step' }),
      lane([east(100, 0.4), east(100, 80)], { name: 'Joined to a corner' }),
      lane([east(150, 3), east(150, 80)], { name: 'Gap' }),
      lane([east(200), east(100), hut], { name: 'Twin' }),
      lane([east(10), east(10)], { name: 'Dot' }),
      lane([east(5000), east(5100)], { name: 'Apart' }, 'x1'),
    ];
    const { network, faults } = networkFrom(collection(lines));
    expect(faults.map(({ kind, lane: name, other }) => [kind, name, other])).to.deep.include.members([
      ['short', 'Dot', undefined],
      ['joined', 'Joined to a step', 'Main'],
      ['joined', 'Joined to a corner', 'Main'],
      ['gap', 'Gap', 'Main'],
      ['duplicate', 'Twin', 'Main'],
      ['apart', 'Apart', undefined],
    ]);
    expect(faults.find(({ kind }) => kind === 'gap')!.metres).to.be.closeTo(3, 0.05);
    expect(faultText(faults.find(({ kind }) => kind === 'gap')!)).to.match(
      /^Gap ends 3\.00 m from (Main|Twin) without a connection, at 44\.2000\d, -33\.59812$/,
    );
    const finder = new WayFinder(network);
    expect(finder.find({ from: east(50, 80), to: east(100, 80) })[0]!.metres).to.be.closeTo(80 + 50 + 80, 2);
    expect(failureOf(() => finder.find({ from: east(150, 80), to: hut })).kind).to.equal('no-way');
    const wide = networkFrom(collection(lines), { join: 4 });
    expect(new WayFinder(wide.network).find({ from: east(150, 80), to: hut })[0]!.metres).to.be.closeTo(
      230,
      4,
    );
    const none = networkFrom(collection(lines), { join: 0 });
    expect(none.faults.filter(({ kind }) => kind === 'gap')).to.have.length(3);
  });

  it('takes very many lanes that meet in one place, end on one step, or end in a row', () => {
    const count = 20_000;
    const star = Array.from({ length: count }, (_, i) =>
      lane([hut, ahead(hut, (i * 360) / count, 5000 + (i % 7))]),
    );
    expect(
      finderOf(star).find({ from: ahead(hut, 10, 90), to: ahead(hut, 190, 90) })[0]!.metres,
    ).to.be.closeTo(180, 1);
    const teeth = 1500;
    const comb = Array.from({ length: teeth }, (_, i) => lane([east(6 + 2 * i, 0.3), east(6 + 2 * i, 60)]));
    const { network, faults } = networkFrom(
      collection([lane([hut, east(6 + 2 * teeth)], { name: 'Main' }), ...comb]),
    );
    expect(faults.filter(({ kind, other }) => kind === 'joined' && other === 'Main')).to.have.length(teeth);
    expect(network.nodeCount).to.equal(2 * teeth + 2);
    // Each end is nearest to the next: all become one.
    let at = 0;
    const row = Array.from({ length: count }, (_, i) =>
      lane([east((at += 0.95 - (0.4 * i) / count)), east(at, 60 + (i % 9))]),
    );
    expect(networkFrom(collection(row)).faults.filter(({ kind }) => kind === 'joined').length).to.be.above(
      count / 2,
    );
  });

  it('crosses the date line, and meets at it from both sides', () => {
    const [west, line, line2, over] = [
      { lat: -17, lon: 179.99 },
      { lat: -17, lon: 180 },
      { lat: -17, lon: -180 },
      { lat: -17, lon: -179.99 },
    ] as const;
    const finder = finderOf([
      lane([west, line]),
      lane([line2, over]),
      lane([{ lat: -17.01, lon: 179.995 }, { lat: -17.01, lon: -179.995 }, over]),
    ]);
    const [way] = finder.find({ from: west, to: over }) as [Way];
    expect(way.metres).to.be.closeTo(distance(west, over), 0.1);
    const [low] = finder.find({ from: { lat: -17.0101, lon: 179.9999 }, to: west }) as [Way];
    expect(low.walk[0]).to.be.closeTo(11.1, 0.2);
  });

  it('names the lane at which a rule throws, or gives NaN, a negative speed or nothing', () => {
    const lines = [lane([hut, east(50)], { name: 'Good' }), lane([east(50), east(90)], {}, 'l2')];
    const asked = (rule: TravelRule) => () =>
      finderOf(lines, { mine: rule }).find({ from: hut, to: east(90), by: 'mine' });
    const odd = (value: unknown) =>
      asked((properties) => (properties['name'] === 'Good' ? 1 : (value as number)));
    for (const value of [NaN, -3, 0, undefined, Infinity, '3'])
      expect(odd(value)).to.throw(
        InputError,
        /the travel rule on "l2", forward, gave .*Return metres per second, above 0/,
      );
    expect(asked((properties) => (properties as { a: { b: number } }).a.b)).to.throw(
      InputError,
      'the travel rule on "Good", forward, failed: Cannot read properties',
    );
    expect(asked((_, direction) => (direction === 'forward' ? 2 : 'closed'))()[0]!.seconds).to.be.closeTo(
      45,
      0.1,
    );
    expect(() => finderOf(lines).find({ from: hut, to: east(50), by: 'food' })).to.throw(
      'no kind of travel "food", did you mean "foot"?',
    );
  });

  it('refuses what is no network, and a question that is none', () => {
    expect(() => networkFrom({ type: 'FeatureCollection', features: [] })).to.throw('there is no line in it');
    expect(() =>
      networkFrom(
        collection([
          {
            type: 'Feature',
            properties: {},
            geometry: {
              type: 'LineString',
              coordinates: [
                [0, 0],
                [0, 99],
              ],
            },
          },
        ]),
      ),
    ).to.throw(InputError, 'features.0.geometry.coordinates.1: latitude 99');
    expect(() => networkFrom(collection([]), { joyn: 1 } as never)).to.throw('did you mean "join"?');
    const finder = finderOf([lane([hut, east(50)])]);
    const ask = (request: object) => () => finder.find(request as WayRequest);
    expect(ask({ from: hut })).to.throw('way: to is missing');
    expect(ask({ from: hut, to: { lat: 91, lon: 0 } })).to.throw('way: to latitude 91 is outside');
    expect(ask({ from: hut, to: hut, avoyd: [] })).to.throw('did you mean "avoid"?');
    expect(ask({ from: hut, to: hut, choices: 9 })).to.throw('must be 1 to 5');
  });
});

describe('ways on the island', () => {
  const finder = new WayFinder(networkFrom(demo('lanes')).network);
  const hamlets = Object.fromEntries(
    (
      demo('vanesk') as {
        features: {
          geometry: { coordinates: [number, number] };
          properties: { kind: string; name: string };
        }[];
      }
    ).features
      .filter(({ properties }) => properties.kind === 'hamlet')
      .map(({ geometry, properties }) => [properties.name, at(geometry.coordinates)]),
  );
  const between = (from: string, to: string, by: string, more: Partial<WayRequest> = {}) =>
    finder.find({ from: hamlets[from]!, to: hamlets[to]!, by, ...more });

  it('lead through the ford on foot, and not on wheels', () => {
    const [foot] = between('Wick Orrin', 'Nethery', 'foot') as [Way];
    expect(foot.metres).to.be.within(2300, 2700);
    expect(foot.steps.map(({ name }) => name)).to.include('Shore Lane');
    const error = failureOf(() => between('Wick Orrin', 'Nethery', 'drive'));
    expect(error.metres).to.be.above(100);
  });

  it('lead over the old path on the bank, and around it when the bank is closed', () => {
    const [from, , to] = (
      demo('lanes') as {
        features: { geometry: { coordinates: [number, number][] }; properties: LaneProperties }[];
      }
    ).features
      .find(({ properties }) => properties['name'] === 'Old Bank Path')!
      .geometry.coordinates.map(at) as [Position, Position, Position];
    const banks = fencesFrom(demo('banks'));
    const [over] = finder.find({ from, to }) as [Way];
    expect(over.steps.map(({ name }) => name)).to.include('Old Bank Path');
    const [around] = finder.find({ from, to, closed: banks }) as [Way];
    expect(around.metres).to.be.above(over.metres + 20);
    expect(around.steps.map(({ name }) => name)).not.to.include('Old Bank Path');
    expect(finder.find({ from, to, avoid: banks })[0]).to.deep.include({ metres: around.metres, enters: [] });
  });

  it('are told in steps, in the languages of the library, and go through GeoJSON unchanged', async () => {
    const ways = between('Tolvay', 'Skerrin', 'foot');
    const words = ways[0]!.steps.map((step) => stepText(step));
    expect(words[0]).to.match(/^Set out on (Sandy|Long|Saddle|Thistle) Lane, /);
    expect(words.at(-1)).to.equal('You have arrived');
    for (const language of ['de', 'fr', 'es']) {
      const texts = await loadTexts(language);
      for (const step of ways[0]!.steps) {
        const text = stepText(step, { texts });
        expect(text).not.to.match(/[{}]|undefined/);
        if (step.turn !== 'arrive') expect(text).not.to.equal(stepText(step));
      }
    }
    const [back] = waysFrom(JSON.parse(JSON.stringify(waysToGeoJson(ways)))) as [Way];
    expect(back.steps).to.have.length(ways[0]!.steps.length);
    expect(back.seconds).to.equal(ways[0]!.seconds);
    expect(lengthOf(back.line.parts.flat())).to.be.closeTo(lengthOf(ways[0]!.line.parts.flat()), 0.01);
  });
});
