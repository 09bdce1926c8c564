import { ahead, bearing, boundsContain, boundsOf, distance, position, type Position } from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import geographiclib from 'geographiclib-geodesic';
import { metresPerDegree } from '../../packages/aurelian-drift/src/core/geodesy/local-scale.js';
import { nearestOnLine } from '../../packages/aurelian-drift/src/core/geodesy/nearest-on-line.js';
import { alongStraight } from '../../packages/aurelian-drift/src/core/geodesy/straight.js';

/** An independent solver of the exact geodesic, good to nanometres. */
const exact = geographiclib.Geodesic.WGS84;

const latitude = fc.double({ min: -90, max: 90, noNaN: true });
const longitude = fc.double({ min: -180, max: 180, noNaN: true });
const anywhere = fc.record({ lat: latitude, lon: longitude });
const reached = (from: Position, azimuth: number, metres: number): Position => {
  const { lat2 = NaN, lon2 = NaN } = exact.Direct(from.lat, from.lon, azimuth, metres);
  return { lat: lat2, lon: lon2 };
};
const exactDistance = (a: Position, b: Position) => exact.Inverse(a.lat, a.lon, b.lat, b.lon).s12 as number;

describe('distance', () => {
  it('is within a millimetre of the exact geodesic up to 50 km, at every latitude and bearing', () => {
    const legs = fc.tuple(
      anywhere,
      fc.double({ min: 0, max: 360, noNaN: true }),
      fc.double({ min: 0, max: 50_000, noNaN: true }),
    );
    fc.assert(
      fc.property(legs, ([from, azimuth, metres]) => {
        expect(distance(from, reached(from, azimuth, metres))).to.be.closeTo(metres, 0.001);
      }),
      { numRuns: 2000 },
    );
  });

  it('is within a metre anywhere, nearly antipodal points included', () => {
    const nearlyAntipodal = fc
      .tuple(
        anywhere,
        fc.double({ min: -1, max: 1, noNaN: true }),
        fc.double({ min: -1, max: 1, noNaN: true }),
      )
      .map(
        ([a, north, east]) =>
          [a, { lat: Math.max(-90, Math.min(90, north - a.lat)), lon: a.lon + 180 + east }] as const,
      );
    fc.assert(
      fc.property(fc.oneof(fc.tuple(anywhere, anywhere), nearlyAntipodal), ([a, b]) => {
        expect(distance(a, b)).to.be.closeTo(exactDistance(a, b), 1);
      }),
      { numRuns: 2000 },
    );
  });

  it('is the same both ways, and nothing from a place to itself', () => {
    fc.assert(
      fc.property(anywhere, anywhere, (a, b) => {
        expect(distance(a, b)).to.be.closeTo(distance(b, a), 1e-3);
        expect(distance(a, a)).to.equal(0);
      }),
    );
  });

  it('crosses the date line the short way', () => {
    expect(distance({ lat: 0, lon: 179.999 }, { lat: 0, lon: -179.999 })).to.be.closeTo(222.639, 0.001);
  });

  it('of a degree of latitude grows from 110.57 km at the equator to 111.69 km at the poles', () => {
    expect(distance({ lat: 0, lon: 5 }, { lat: 1, lon: 5 })).to.be.closeTo(110_574, 1);
    expect(distance({ lat: 89, lon: 5 }, { lat: 90, lon: 5 })).to.be.closeTo(111_694, 1);
  });

  it('lets NaN and impossible latitudes through as NaN', () => {
    expect(distance({ lat: NaN, lon: 0 }, { lat: 0, lon: 0 })).to.be.NaN;
    expect(distance({ lat: 0, lon: 0 }, { lat: 90.1, lon: 0 })).to.be.NaN;
  });
});

describe('bearing and ahead', () => {
  it('ahead goes where the exact geodesic goes', () => {
    const leg = fc.tuple(
      anywhere,
      fc.double({ min: -360, max: 360, noNaN: true }),
      fc.double({ min: 0, max: 1e7, noNaN: true }),
    );
    fc.assert(
      fc.property(leg, ([from, azimuth, metres]) => {
        expect(exactDistance(ahead(from, azimuth, metres), reached(from, azimuth, metres))).to.be.below(
          0.001,
        );
      }),
      { numRuns: 500 },
    );
  });

  it('bearing points where ahead arrives', () => {
    const inhabited = fc.record({ lat: fc.double({ min: -85, max: 85, noNaN: true }), lon: longitude });
    const leg = fc.tuple(
      inhabited,
      fc.double({ min: 0, max: 359.99, noNaN: true }),
      fc.double({ min: 1, max: 200_000, noNaN: true }),
    );
    fc.assert(
      fc.property(leg, ([from, azimuth, metres]) => {
        const off = Math.abs(bearing(from, ahead(from, azimuth, metres)) - azimuth);
        // A position in doubles is accurate to about a nanometre, which over a metre is a millionth of a degree.
        expect(Math.min(off, 360 - off)).to.be.below(0.0003);
      }),
      { numRuns: 1000 },
    );
  });

  it('knows the quarters', () => {
    const hut = { lat: 44.2, lon: -33.6 };
    expect(bearing(hut, { lat: 44.3, lon: -33.6 })).to.equal(0);
    expect(bearing(hut, { lat: 44.1, lon: -33.6 })).to.equal(180);
    expect(bearing({ lat: 0, lon: 0 }, { lat: 0, lon: 1 })).to.be.closeTo(90, 1e-9);
    expect(bearing({ lat: 0, lon: 0 }, { lat: 0, lon: -1 })).to.be.closeTo(270, 1e-9);
    expect(bearing(hut, hut)).to.be.NaN;
  });
});

describe('position', () => {
  it('refuses swapped coordinates by name, and values that are no numbers', () => {
    expect(() => position(120, 44)).to.throw(
      'latitude 120 is outside −90…90; latitude and longitude swapped?',
    );
    expect(() => position(44, 181)).to.throw('longitude 181 is outside −180…180');
    expect(() => position(NaN, 0)).to.throw('latitude must be a number');
    expect(() => position('44' as unknown as number, 0)).to.throw('latitude must be a number, got "44"');
    expect(position(0, 0)).to.deep.equal({ lat: 0, lon: 0 });
  });
});

describe('bounds', () => {
  it('span the date line when the places do', () => {
    expect(
      boundsOf([
        { lat: 1, lon: 179 },
        { lat: -1, lon: -178 },
      ]),
    ).to.deep.equal([179, -1, -178, 1]);
    expect(boundsContain([179, -1, -178, 1], { lat: 0, lon: 180 })).to.equal(true);
    expect(boundsContain([179, -1, -178, 1], { lat: 0, lon: 0 })).to.equal(false);
    expect(boundsOf([])).to.equal(undefined);
  });

  it('hold every place they were made of', () => {
    fc.assert(
      fc.property(fc.array(anywhere, { minLength: 1, maxLength: 12 }), (places) => {
        const bounds = boundsOf(places)!;
        for (const place of places) expect(boundsContain(bounds, place)).to.equal(true);
      }),
    );
  });
});

describe('a plane near a place', () => {
  const somewhere = fc.record({
    lat: fc.double({ min: -88, max: 88, noNaN: true }),
    lon: fc.double({ min: -180, max: 180, noNaN: true }),
  });

  it('has degrees as long as they are on the ellipsoid', () => {
    fc.assert(
      fc.property(somewhere, ({ lat, lon }) => {
        const { east, north } = metresPerDegree(lat);
        expect(east * 2e-4).to.be.closeTo(exactDistance({ lat, lon }, { lat, lon: lon + 2e-4 }), 1e-5);
        expect(north * 2e-4).to.be.closeTo(
          exactDistance({ lat: lat - 1e-4, lon }, { lat: lat + 1e-4, lon }),
          1e-5,
        );
      }),
    );
  });

  it('gives the nearest point of a line, also across the date line: no point of it is nearer', () => {
    fc.assert(
      fc.property(
        somewhere,
        fc.array(fc.tuple(fc.nat(360), fc.nat(400)), { minLength: 1, maxLength: 6 }),
        fc.nat(360),
        (start, turns, aside) => {
          const line = turns.reduce<Position[]>(
            (points, [bearing, metres]) => [...points, ahead(points.at(-1)!, bearing, metres)],
            [start],
          );
          const at = ahead(line[line.length >> 1]!, aside, 120);
          const near = nearestOnLine(at, line)!;
          expect(near.distance).to.be.closeTo(exactDistance(at, near.point), 1e-6);
          for (let i = 1; i < line.length; i++) {
            for (let share = 0; share <= 1; share += 0.05)
              expect(exactDistance(at, alongStraight(line[i - 1]!, line[i]!, share))).to.be.at.least(
                near.distance * (1 - 1e-3) - 0.01,
              );
          }
        },
      ),
      { numRuns: 60 },
    );
    expect(nearestOnLine({ lat: 0, lon: 0 }, [])).to.equal(undefined);
    expect(nearestOnLine({ lat: 0, lon: 179.9 }, [{ lat: 1, lon: -179.9 }])!.distance).to.be.closeTo(
      112_788,
      60,
    );
  });
});
