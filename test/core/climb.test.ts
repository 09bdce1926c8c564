import { RunningSummary, Trail, ahead, fixFrom, type Fix } from 'aurelian-drift';
import { journey, randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';

const hut = { lat: 44.2, lon: -33.6 };
const start = Date.UTC(2026, 4, 14, 8);
const seeds = [92_001, 92_002, 92_003, 92_004, 92_005, 92_006, 92_007];
const median = (values: readonly number[]) => values.toSorted((a, b) => a - b)[values.length >> 1]!;
/** Hills of 25, 40 and 30 m, over 5 km. */
const hills = [0, 25, 25, 0, 40, 10, 40, 40, 0].map((altitude, i) => ({
  ...ahead(hut, 70, i * 600),
  altitude: 30 + altitude,
}));
const CLIMB = 25 + 40 + 30;

function climbOf(fixes: Iterable<Fix>) {
  const running = new RunningSummary();
  for (const fix of fixes) running.take(fix);
  running.breakSegment();
  const { climb, descent } = running.summary();
  return [climb!, descent!] as const;
}
const along = (line: readonly (typeof hills)[number][], options: object) =>
  [...journey({ parts: [line] }, options)].flatMap(({ fix }) => (fix === undefined ? [] : [fix]));

describe('climb', function () {
  this.timeout(60_000);

  for (const [reception, max, flatMax] of [
    ['meadow', 0.08, 10],
    ['wood', 0.17, 60],
  ] as const) {
    it(`is that of the hills under ${reception}, and a flat hour climbs next to nothing`, () => {
      for (const step of [{}, { everyUpTo: 10 }]) {
        const climbs = seeds.map((seed) => climbOf(along(hills, { reception, seed, ...step })));
        expect(median(climbs.map(([climb]) => Math.abs(climb / CLIMB - 1)))).to.be.below(max);
        expect(median(climbs.map(([, descent]) => Math.abs(descent / CLIMB - 1)))).to.be.below(max);
        const level = hills.map((point) => ({ ...point, altitude: 30 }));
        const flat = seeds.map((seed) => climbOf(along(level, { reception, seed, ...step }))[0]);
        expect(median(flat)).to.be.at.most(flatMax);
      }
    });
  }

  it('bears noise of another kind: steps of a barometer, and a drift', () => {
    const random = randomFrom(92_011);
    const fixes = Array.from({ length: 3600 }, (_, i) => {
      const hill = 40 * Math.max(0, 1 - Math.abs((i % 1200) - 600) / 500);
      const step = Math.round((hill + 0.4 * random.normal()) * 2) / 2;
      return fixFrom({ time: start + i * 1000, ...ahead(hut, 70, i * 1.3), altitude: step + i / 1800 });
    });
    const [climb, descent] = climbOf(fixes);
    expect(climb).to.be.within(114, 126);
    expect(descent).to.be.within(112, 124);
  });

  it('is live what it is afterwards', () => {
    const fixes = along(hills, { reception: 'wood', seed: 92_021 });
    const running = new RunningSummary();
    fixes.forEach((fix, i) => {
      running.take(fix);
      if (i % 500 !== 0) return;
      const { climb, descent } = Trail.from(fixes.slice(0, i + 1)).summary();
      expect([running.summary().climb, running.summary().descent]).to.deep.equal([climb, descent]);
    });
  });

  it('takes few heights, and heights far apart, as they are', () => {
    const at = (altitudes: readonly number[], seconds: number) =>
      altitudes.map((altitude, i) =>
        fixFrom({ time: start + i * seconds * 1000, ...ahead(hut, 70, i * 50), altitude }),
      );
    expect(climbOf(at([10, 30, 20, 41], 10))).to.deep.equal([41, 10]);
    const far = Array.from({ length: 40 }, (_, i) => (i % 4) * 10);
    expect(climbOf(at(far, 60))).to.deep.equal([300, 270]);
  });
});
