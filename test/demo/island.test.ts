import {
  FenceWatch,
  bearing,
  boundsContain,
  distance,
  fencesFrom,
  fixFrom,
  tracksFrom,
  type Position,
} from 'aurelian-drift';
import { groundFrom } from 'aurelian-drift/map';
import { expect } from 'chai';
import { readFileSync } from 'node:fs';

interface Feature {
  geometry: { type: string; coordinates: unknown };
  properties: Record<string, unknown>;
}
const load = (name: string) =>
  JSON.parse(readFileSync(new URL(`../../demo/${name}.geojson`, import.meta.url), 'utf8')) as {
    features: Feature[];
  };
const [ground, sections, rounds, places] = ['vanesk', 'sections', 'rounds', 'places'].map(load) as [
  ReturnType<typeof load>,
  ReturnType<typeof load>,
  ReturnType<typeof load>,
  ReturnType<typeof load>,
];
const ofKind = (kind: string) => ground.features.filter(({ properties }) => properties['kind'] === kind);
const at = ([lon, lat]: number[]): Position => ({ lat: lat!, lon: lon! });

/** A ring or polygon as a fence, to test what it contains. */
function holds(outline: Feature, place: Position): boolean {
  const fences = fencesFrom({ ...outline, type: 'Feature' });
  return new FenceWatch(fences).take(fixFrom({ time: Date.UTC(2026, 0, 1), ...place })).length > 0;
}

describe('the island', () => {
  it('is about 9 by 6 km, in the open ocean near 44.2° N, 33.6° W', () => {
    const bounds = groundFrom(ground).bounds!;
    const [west, south, east, north] = bounds;
    expect(boundsContain(bounds, { lat: 44.2, lon: -33.6 })).to.equal(true);
    expect(distance({ lat: 44.2, lon: west }, { lat: 44.2, lon: east })).to.be.within(8500, 10_000);
    expect(distance({ lat: south, lon: -33.6 }, { lat: north, lon: -33.6 })).to.be.within(5000, 6800);
  });

  it('has coast, woods, heath, dunes, a lake, streams, lanes, paths, hamlets and houses', () => {
    for (const kind of [
      'land',
      'wood',
      'heath',
      'dune',
      'beach',
      'lake',
      'stream',
      'lane',
      'path',
      'hamlet',
      'hill',
    ]) {
      expect(ofKind(kind).length, kind).to.be.at.least(1);
    }
    expect(ofKind('building').length).to.be.above(150);
  });

  it('has lanes and paths that all hang together', () => {
    const ways = [...ofKind('lane'), ...ofKind('path')].map((way) => way.geometry.coordinates as number[][]);
    const joined = new Set([0]);
    const near = (a: number[][], b: number[][]) =>
      [a[0]!, a.at(-1)!].some((end) => b.some((point) => distance(at(end), at(point)) < 0.2));
    for (let grown = true; grown;) {
      grown = false;
      for (const [i, way] of ways.entries()) {
        if (joined.has(i) || ![...joined].some((j) => near(way, ways[j]!) || near(ways[j]!, way))) continue;
        joined.add(i);
        grown = true;
      }
    }
    expect(joined.size).to.equal(ways.length);
  });

  it('keeps its houses, hamlets and rounds on dry land', () => {
    const [main] = ofKind('land').sort((a, b) => JSON.stringify(b).length - JSON.stringify(a).length);
    const [lake] = ofKind('lake');
    const dry = [
      ...places.features
        .filter(({ properties }) =>
          ['house', 'hamlet', 'hut', 'shop', 'inn'].includes(String(properties['kind'])),
        )
        .map(({ geometry }) => geometry.coordinates as number[]),
      ...rounds.features.flatMap(({ geometry }) => geometry.coordinates as number[][]),
    ];
    for (const place of dry) {
      expect(holds(main!, at(place)), place.join()).to.equal(true);
      expect(holds(lake!, at(place)), place.join()).to.equal(false);
    }
  });

  it('gives every house an address of its own, with a Plover Lane in Wick Orrin', () => {
    const houses = places.features.filter(({ properties }) => properties['kind'] === 'house');
    const addresses = houses.map(({ properties: { houseNumber, street, locality } }) =>
      [houseNumber, street, locality].join(' '),
    );
    expect(new Set(addresses).size).to.equal(addresses.length);
    expect(addresses).to.include('14 Plover Lane Wick Orrin');
    for (const { properties } of houses)
      expect(properties).to.include.keys('houseNumber', 'street', 'locality', 'region', 'postalCode');
  });

  it('has at least 12 named sections and 2 closed banks, 4 rounds, and no two of one name', () => {
    const closed = sections.features.filter(({ properties }) => properties['closed'] === true);
    const names = sections.features.map(({ properties }) => properties['name']);
    expect(closed.length).to.be.at.least(2);
    expect(names.length - closed.length).to.be.at.least(12);
    expect(new Set(names).size).to.equal(names.length);
    expect(tracksFrom(rounds).lines.length).to.be.at.least(4);
  });

  it('has rounds that come home, pass through sections of their own, and keep off the closed banks', () => {
    const fences = fencesFrom(sections);
    const closed = new Set(
      sections.features
        .filter(({ properties }) => properties['closed'] === true)
        .map(({ properties }) => properties['name']),
    );
    for (const { name, parts } of tracksFrom(rounds).lines) {
      const points = parts[0]!;
      expect(distance(points[0]!, points.at(-1)!), name).to.be.below(1);
      const watch = new FenceWatch(fences);
      const entered = points.flatMap((point, i) =>
        watch.take(fixFrom({ time: Date.UTC(2026, 0, 1) + i * 1000, lat: point.lat, lon: point.lon })),
      );
      expect(new Set(entered.map((crossing) => crossing.fence)).size, name).to.be.at.least(2);
      expect(
        entered.filter((crossing) => closed.has(crossing.name)),
        name,
      ).to.deep.equal([]);
    }
  });

  it('turns no corner of a lane back on itself', () => {
    for (const lane of ofKind('lane')) {
      const points = (lane.geometry.coordinates as number[][]).map(at);
      for (let i = 2; i < points.length; i++) {
        const turn = Math.abs(bearing(points[i - 1]!, points[i]!) - bearing(points[i - 2]!, points[i - 1]!));
        expect(Math.min(turn, 360 - turn)).to.be.below(120);
      }
    }
  });
});
