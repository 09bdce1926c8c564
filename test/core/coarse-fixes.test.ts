import {
  FenceWatch,
  FixFilter,
  RunningSummary,
  ahead,
  distance,
  fixFrom,
  type Crossing,
  type Fence,
  type Fix,
} from 'aurelian-drift';
import { journey, standstill } from 'aurelian-drift/testing';
import { expect } from 'chai';

const hut = { lat: 44.2, lon: -33.6 };
const start = Date.UTC(2026, 4, 14, 8);
const seeds = [91_001, 91_002, 91_003, 91_004, 91_005];
const starts = [[1500], [1500, 300, 60], [5000, 2000, 900], [60, 60, 60]];
const circle: Fence = { kind: 'circle', id: 'yard', name: 'Yard', centre: hut, radius: 50 };

describe('coarse fixes', () => {
  it('before good ones add next to no distance, and the filter believes the second good fix', () => {
    for (const networkFirst of starts) {
      for (const statedSpeed of ['true', 'absent'] as const) {
        for (const seed of seeds) {
          const running = new RunningSummary();
          const filter = new FixFilter();
          let good = 0;
          for (const { truth, fix } of standstill(hut, { seed, networkFirst, statedSpeed })) {
            running.take(fix!);
            const filtered = filter.take(fix!).fix;
            if (fix!.altitude === undefined && fix!.accuracy! >= 60) continue;
            if (++good > 120) break;
            if (good >= 2) expect(distance(filtered, truth)).to.be.below(distance(fix!, truth) + 10);
          }
          running.breakSegment();
          expect(running.summary().distance, `${networkFirst.join()} ${statedSpeed} ${seed}`).to.be.below(12);
        }
      }
    }
  });

  it('between good ones change neither distance nor top speed', () => {
    const line = { parts: [[hut, ahead(hut, 20, 900)]] };
    for (const statedSpeed of ['true', 'absent'] as const) {
      const running = new RunningSummary();
      let [way, count] = [0, 0];
      let last: Fix | undefined;
      for (const { truth, fix } of journey(line, { seed: 91_011, statedSpeed })) {
        if (last !== undefined) way += distance(last, truth);
        last = truth;
        const coarse = { ...ahead(fix!, 120, 700), time: fix!.time, accuracy: 900 };
        running.take(++count % 40 === 0 ? fixFrom(coarse) : fix!);
      }
      running.breakSegment();
      const { distance: metres, topSpeed } = running.summary();
      expect(metres / way).to.be.within(0.97, 1.03);
      expect(topSpeed).to.be.below(2.2);
    }
  });

  it('decide no fence that lies within their spread: not outside, no exit, no enter', () => {
    const events: Crossing[] = [];
    const watch = new FenceWatch([circle]);
    const see = (seconds: number, metres: number, accuracy: number) =>
      events.push(
        ...watch.take(fixFrom({ time: start + seconds * 1000, ...ahead(hut, 90, metres), accuracy })),
      );
    see(0, 900, 1500);
    expect(watch.sideOf('yard')).to.equal('uncertain');
    see(1, 1100, 1500);
    expect(watch.sideOf('yard')).to.equal('uncertain');
    for (let i = 2; i < 8; i++) see(i, 2, 8);
    expect(watch.sideOf('yard')).to.equal('inside');
    expect(events.map(({ kind }) => kind)).to.deep.equal(['initial']);
    see(8, 800, 1200);
    see(9, 3, 8);
    expect(watch.sideOf('yard')).to.equal('inside');
    expect(events).to.have.length(1);
  });

  it('far beyond their spread from a fence are outside it', () => {
    const watch = new FenceWatch([circle]);
    watch.take(fixFrom({ time: start, ...ahead(hut, 90, 4000), accuracy: 1500 }));
    expect(watch.sideOf('yard')).to.equal('outside');
  });
});
