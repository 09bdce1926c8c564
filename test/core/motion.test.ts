import { Trail, distance, type Line } from 'aurelian-drift';
import {
  RECEPTION_NAMES,
  journey,
  standstill,
  type JourneyOptions,
  type Moment,
} from 'aurelian-drift/testing';
import { expect } from 'chai';

const line: Line = {
  parts: [
    [
      { lat: 44.2, lon: -33.6, altitude: 10 },
      { lat: 44.21, lon: -33.6, altitude: 30 },
      { lat: 44.21, lon: -33.59, altitude: 20 },
    ],
  ],
};
const first = <T>(items: Iterable<T>, count: number): T[] => {
  const taken: T[] = [];
  for (const item of items) {
    taken.push(item);
    if (taken.length === count) break;
  }
  return taken;
};
const errors = (moments: readonly Moment[]) =>
  moments.flatMap(({ truth, fix }) => (fix === undefined ? [] : [distance(truth, fix)]));

describe('a journey', () => {
  it('is the same for the same seed, and another for another', () => {
    for (const reception of RECEPTION_NAMES) {
      const options: JourneyOptions = { reception, seed: 4 };
      expect([...journey(line, options)]).to.deep.equal([...journey(line, options)]);
    }
    expect([...journey(line, { seed: 4 })]).not.to.deep.equal([...journey(line, { seed: 5 })]);
  });

  it('goes along its line from end to end, the same way under every reception', () => {
    const open = [...journey(line, { seed: 2 })];
    const truth = Trail.from(open.map((moment) => moment.truth));
    const whole =
      distance(line.parts[0]![0]!, line.parts[0]![1]!) + distance(line.parts[0]![1]!, line.parts[0]![2]!);
    expect(truth.summary().distance).to.be.closeTo(whole, 2); // the corner is cut by less than a step
    expect(distance(truth.at(-1)!, line.parts[0]![2]!)).to.be.below(1e-6);
    const deep = [...journey(line, { seed: 2, reception: 'deep' })];
    expect(deep.map((moment) => moment.truth)).to.deep.equal(open.map((moment) => moment.truth));
  });

  it('walks at the pace of its gait', () => {
    const pace = (gait: 'walk' | 'cycle') =>
      Trail.from([...journey(line, { gait, reception: 'exact' })].map(({ truth }) => truth)).summary()
        .averageSpeed!;
    expect(pace('walk')).to.be.closeTo(1.35, 0.12);
    expect(pace('cycle')).to.be.closeTo(4.8, 0.8);
  });

  it('rests as often and as long as asked, and slows down and speeds up around it', () => {
    for (const gait of ['walk', 'drive'] as const) {
      const truth = [...journey(line, { gait, rests: { every: 200, for: 60 }, seed: 6 })].map(
        (moment) => moment.truth,
      );
      const still = truth.filter(({ speed }) => speed === 0).length;
      // 1.9 km in steps of 100 to 300 m, each rest of 30 to 90 s.
      expect(still / 60).to.be.within(4, 16);
      for (let i = 1; i < truth.length - 1; i++) {
        const { speed } = truth[i]!;
        expect(distance(truth[i - 1]!, truth[i]!)).to.be.at.most(
          Math.max(speed!, truth[i - 1]!.speed!) * 1.3 + 1,
        );
        expect(speed! - truth[i - 1]!.speed!).to.be.below(gait === 'walk' ? 1.1 : 1.6);
      }
    }
  });

  it('takes corners as slowly as its gait needs: a car, not a walker', () => {
    const slowest = (gait: 'walk' | 'drive') => {
      const corner = line.parts[0]![1]!;
      const near = [...journey(line, { gait, seed: 8 })].filter(({ truth }) => distance(truth, corner) < 15);
      return Math.min(...near.map(({ truth }) => truth.speed!));
    };
    expect(slowest('drive')).to.be.within(3, 7.5); // of 12 m/s
    expect(slowest('walk')).to.be.above(0.9);
  });

  it('states an accuracy that holds the truth 95 times in a hundred', () => {
    for (const reception of ['open', 'trees'] as const) {
      // Thirty seeds, in effect an hour apart: the errors of a single walk are correlated for about a minute.
      const moments = Array.from({ length: 30 }, (_, seed) =>
        first(standstill({ lat: 44.2, lon: -33.6 }, { reception, seed: seed + 100 }), 900),
      ).flat();
      const within = moments.filter(
        ({ truth, fix }) => fix !== undefined && distance(truth, fix) <= fix.accuracy!,
      ).length;
      expect(within / moments.length, reception).to.be.within(0.94, 0.96);
    }
  });

  it('has bursts in the street that the accuracy does not own up to, and silences in the deep', () => {
    const at = { lat: 44.2, lon: -33.6 };
    const street = first(standstill(at, { reception: 'street', seed: 3 }), 3600);
    expect(errors(street).filter((metres) => metres > 40).length / 3600).to.be.within(0.08, 0.35);
    const deep = first(standstill(at, { reception: 'deep', seed: 3 }), 3600);
    const silent = deep.filter(({ fix }) => fix === undefined).length;
    expect(silent / 3600).to.be.within(0.1, 0.6);
    const after = deep.find(({ fix }, i) => fix !== undefined && i > 0 && deep[i - 1]!.fix === undefined)!;
    expect(after.fix!.accuracy).to.be.above(50);
  });

  it('refuses a route of one place and options it does not know', () => {
    expect(() => [
      ...journey({
        parts: [
          [
            { lat: 1, lon: 1 },
            { lat: 1, lon: 1 },
          ],
        ],
      }),
    ]).to.throw('two different points');
    expect(() => [...journey(line, { gait: 'wlak' as 'walk' })]).to.throw('did you mean "walk"?');
    expect(() => [...journey(line, { rests: { every: 100 } as { every: number; for: number } })]).to.throw(
      'needs both every',
    );
    expect(() => [...journey(line, { rests: { evry: 100, for: 5 } as never })]).to.throw(
      'did you mean "every"?',
    );
    expect(() => [...journey(line, { every: 0 })]).to.throw('every must be 0.05 to 3600 seconds');
  });
});
