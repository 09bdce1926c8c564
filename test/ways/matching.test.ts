import { Trail, ahead, distance, type Position } from 'aurelian-drift';
import {
  LaneWatch,
  matchTrail,
  networkFrom,
  trailMatchOf,
  type LaneMatch,
  type MatchOptions,
} from 'aurelian-drift/ways';
import { journey, randomFrom, type JourneyOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';

const hut = { lat: 44.2, lon: -33.6 };
const lane = (points: readonly Position[], name: string, more: object = {}) => ({
  type: 'Feature',
  geometry: { type: 'LineString', coordinates: points.map(({ lat, lon }) => [lon, lat]) },
  properties: { name, ...more },
});
const networkOf = (features: readonly object[]) =>
  networkFrom({ type: 'FeatureCollection', features }).network;
const east = (metres: number, north = 0) => ahead(ahead(hut, 90, metres), 0, north);
const recorded = (points: readonly Position[], options: JourneyOptions) => {
  const trail = new Trail();
  for (const { fix } of journey({ parts: [points] }, options)) if (fix) trail.append(fix);
  return trail;
};
/** Two lanes 40 m apart, joined at both ends. */
const parallel = networkOf([
  lane([hut, east(800)], 'South Lane'),
  lane([east(0, 40), east(800, 40)], 'North Lane'),
  lane([hut, east(0, 40)], 'West End'),
  lane([east(800), east(800, 40)], 'East End'),
]);

describe('matching a trail to lanes', () => {
  for (const reception of ['trees', 'street'] as const)
    it(`tells the lane that was walked from the one 40 m beside it, under ${reception}`, () => {
      for (let seed = 1; seed <= 6; seed++) {
        const { parts, on, off } = matchTrail(recorded([hut, east(800)], { seed, reception }), parallel);
        const right = parts.flatMap(({ lanes }) => lanes).filter(({ name }) => name === 'South Lane');
        expect(right.reduce((sum, { metres }) => sum + metres, 0)).to.be.within(740, 830);
        expect(on + off).to.be.within(770, 830);
      }
    });

  it('counts out and back on one lane as twice its length, with one turn, and no noise', () => {
    const network = networkOf([lane([hut, east(600)], 'Long Lane')]);
    for (let seed = 1; seed <= 8; seed++) {
      const { on, parts } = matchTrail(
        recorded([hut, east(500), hut], { seed, reception: 'trees' }),
        network,
      );
      expect(on).to.be.closeTo(1000, 30);
      expect(parts[0]!.stretches).to.have.length(2);
    }
  });

  it('leaves what was off the network off it, with both lengths', () => {
    const network = networkOf([
      lane([hut, east(500)], 'West Lane'),
      lane([east(1500), east(2000)], 'East Lane'),
    ]);
    const { parts, on, off } = matchTrail(
      recorded([hut, east(2000)], { seed: 3, reception: 'open' }),
      network,
    );
    expect(parts.map(({ on: isOn }) => isOn)).to.deep.equal([true, false, true]);
    expect(on).to.be.closeTo(1000, 60);
    expect(off).to.be.closeTo(1000, 60);
    expect(parts[0]!.lanes).to.have.length(1);
    expect(parts[0]!.end).to.equal(parts[1]!.start);
  });

  it('takes no lane against its direction, if a kind of travel is given', () => {
    const features = [
      lane([hut, east(800)], 'One Way', { oneway: -1 }),
      lane([east(0, 45), east(800, 45)], 'Both Ways'),
      lane([hut, east(0, 45)], 'West End'),
      lane([east(800), east(800, 45)], 'East End'),
    ];
    const network = networkOf(features);
    const trail = recorded([east(0, 8), east(800, 8)], { seed: 5, reception: 'exact', gait: 'drive' });
    const names = (options: MatchOptions = {}) =>
      matchTrail(trail, network, options).parts.flatMap(({ lanes }) => lanes.map(({ name }) => name));
    expect(names()).to.include('One Way');
    expect(names({ by: 'drive' })).not.to.include('One Way');
    expect(names({ rule: ({ name }) => (name === 'One Way' ? 'closed' : 1) })).not.to.include('One Way');
    expect(() => names({ bye: 1 } as never)).to.throw('did you mean "by"?');
  });

  it('is the same live, after the lag, as far as the live filter sees', () => {
    for (const seed of [1, 2, 3]) {
      const trail = recorded([hut, east(800), east(800, 40), east(0, 40)], { seed, reception: 'trees' });
      const watch = new LaneWatch(parallel, { lag: 60 });
      const matches: LaneMatch[] = [];
      for (const fix of trail) {
        const final = watch.take(fix);
        for (const { sight } of final) expect(fix.time - sight.time).to.be.at.most(75_000);
        matches.push(...final);
      }
      matches.push(...watch.breakSegment());
      expect(matches.map(({ sight }) => sight.time)).to.deep.equal(
        matches.map(({ sight }) => sight.time).toSorted((a, b) => a - b),
      );
      const live = trailMatchOf(parallel, matches);
      const after = matchTrail(trail, parallel);
      expect(live.on).to.be.closeTo(after.on, 40);
      const names = ({ parts }: typeof live) => [
        ...new Set(
          parts.flatMap(({ lanes }) => lanes.filter(({ metres }) => metres > 50).map(({ name }) => name)),
        ),
      ];
      expect(names(live)).to.deep.equal(names(after));
    }
  });

  it('gives the very lanes that were travelled where fixes are exact, as an exhaustive search does', () => {
    let compared = 0;
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), fc.integer({ min: 2, max: 12 }), (seed, every) => {
        const random = randomFrom(seed);
        const corners = Array.from({ length: 16 }, (_, i) =>
          ahead(east((i % 4) * 150, Math.floor(i / 4) * 130), random.uniform() * 360, random.uniform() * 25),
        );
        const edges = corners.flatMap((_, i) =>
          [...(i % 4 < 3 ? [[i, i + 1]] : []), ...(i < 12 ? [[i, i + 4]] : [])].filter(
            () => random.uniform() < 0.85,
          ),
        ) as [number, number][];
        const network = networkOf(edges.map(([a, b], e) => lane([corners[a]!, corners[b]!], `Lane ${e}`)));
        // A walk that does not turn back.
        let at = edges[0]![0];
        const walked: number[] = [];
        while (walked.length < 6) {
          const open = edges.flatMap((edge, e) => (edge.includes(at) && e !== walked.at(-1) ? [e] : []));
          if (open.length === 0) return;
          const e = open[Math.floor(random.uniform() * open.length)]!;
          walked.push(e);
          at = edges[e]!.find((corner) => corner !== at)!;
        }
        const nodes = walked.reduceRight(
          (path, e) => [edges[e]!.find((corner) => corner !== path[0])!, ...path],
          [at],
        );
        const trail = recorded(
          nodes.map((corner) => corners[corner]!),
          { seed, every, reception: 'exact' },
        );
        // All walks of six lanes: the one whose lanes lie nearest to the fixes, in the order of time.
        const fixes = [...trail];
        const share = fixes.length / walked.length;
        const away = (from: number, to: number, k: number) => {
          const [a, b] = [corners[from]!, corners[to]!];
          const shareOf = (k % share) / share;
          return distance(fixes[Math.floor(k)]!, {
            lat: a.lat + (b.lat - a.lat) * shareOf,
            lon: a.lon + (b.lon - a.lon) * shareOf,
          });
        };
        let [best, least] = [[] as number[], Infinity];
        const search = (corner: number, path: number[], cost: number) => {
          if (cost >= least) return;
          if (path.length === 6) {
            [best, least] = [path, cost];
            return;
          }
          edges.forEach((edge, e) => {
            if (!edge.includes(corner) || e === path.at(-1)) return;
            const to = edge.find((other) => other !== corner)!;
            const middle = away(corner, to, (path.length + 0.5) * share);
            search(to, [...path, e], cost + middle * middle);
          });
        };
        for (let corner = 0; corner < 16; corner++) search(corner, [], 0);
        if (best.join() !== walked.join()) return; // the search is too coarse for lanes of very different length
        const { parts } = matchTrail(trail, network);
        const names = parts.flatMap(({ lanes }) =>
          lanes.filter(({ metres }) => metres > 30).map(({ name }) => name),
        );
        expect(names).to.deep.equal(
          best.map((e) => `Lane ${e}`).filter((name, i, all) => name !== all[i - 1]),
        );
        compared++;
      }),
      { numRuns: 60, seed: 5 },
    );
    expect(compared).to.be.above(30);
  });

  it('never throws, and its lengths are those of its lines, on any walk over any network', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 1e6 }), (seed) => {
        const random = randomFrom(seed);
        const any = () => east(random.uniform() * 600, random.uniform() * 600);
        const network = networkOf(
          Array.from({ length: 12 }, (_, i) => lane([any(), any(), any()], `Lane ${i}`)),
        );
        const trail = recorded([any(), any(), any()], {
          seed,
          reception: 'street',
          every: 1 + Math.floor(random.uniform() * 20),
        });
        const { parts, on, off } = matchTrail(trail, network);
        expect(parts.reduce((sum, part) => sum + part.metres, 0)).to.be.closeTo(on + off, 1e-6);
        for (const { line, metres, lanes, on: isOn, start, end } of parts) {
          const length = line.reduce((sum, at, i) => sum + (i === 0 ? 0 : distance(line[i - 1]!, at)), 0);
          expect(length).to.be.closeTo(metres, 0.5 + 0.001 * metres);
          if (isOn) expect(lanes.reduce((sum, each) => sum + each.metres, 0)).to.be.closeTo(metres, 1e-6);
          expect(end).to.be.at.least(start);
        }
      }),
      { numRuns: 60, seed: 4 },
    );
  });
});
