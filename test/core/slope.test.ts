import { Trail, ahead, lineSummary, slopeLength } from 'aurelian-drift';
import { journey } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut } from '../support/device.js';

const start = Date.UTC(2026, 4, 14, 8);
/** A walk of 2 km to the east at 1.4 m/s, which climbs by a share of its way. */
const climbing = (share: number) =>
  Trail.from(
    Array.from({ length: 1430 }, (_, i) => ({
      time: start + i * 1000,
      ...ahead(hut, 90, 1.4 * i),
      accuracy: 3,
      speed: 1.4,
      course: 90,
      altitude: 100 + share * 1.4 * i,
      altitudeAccuracy: 4,
    })),
  );

describe('the length along the slope', () => {
  it('is longer than the distance by what the slope makes it', () => {
    for (const [share, longer] of [
      [0, 1],
      [0.1, Math.hypot(1, 0.1)],
      [0.3, Math.hypot(1, 0.3)],
    ] as const) {
      const trail = climbing(share);
      expect(slopeLength(trail)! / trail.summary().distance).to.be.closeTo(longer, 0.0005);
    }
  });

  it('is not made longer by noise of the heights: on a flat walk it stays within a thousandth', () => {
    const route = {
      parts: [
        [
          { ...hut, altitude: 50 },
          { ...ahead(hut, 90, 3000), altitude: 50 },
        ],
      ],
    };
    for (const reception of ['meadow', 'wood'] as const) {
      const fixes = [...journey(route, { reception, seed: 5 })].flatMap(({ fix }) => fix ?? []);
      const trail = Trail.from(fixes);
      const raw = fixes.reduce((sum, { altitude = 0 }, i) => {
        const before = fixes[i - 1];
        return before === undefined ? 0 : sum + Math.hypot(1.4, altitude - (before.altitude ?? 0));
      }, 0);
      expect(slopeLength(trail)! / trail.summary().distance).to.be.within(1, 1.002);
      expect(raw / 3000).to.be.above(1.1);
    }
  });

  it('is unknown without heights, and known of lines that have them', () => {
    expect(slopeLength(Trail.from([{ ...hut, time: start }]))).to.equal(undefined);
    const up = { ...ahead(hut, 0, 400), altitude: 400 };
    const { distance, slopeDistance } = lineSummary({ parts: [[{ ...hut, altitude: 100 }, up]] });
    expect(distance).to.be.closeTo(400, 0.001);
    expect(slopeDistance).to.be.closeTo(500, 0.001);
    expect(lineSummary({ parts: [[hut, ahead(hut, 0, 400)]] })).not.to.have.property('slopeDistance');
  });
});
