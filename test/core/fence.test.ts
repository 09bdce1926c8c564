import {
  FenceWatch,
  ahead,
  distance,
  fencesFrom,
  fixOf,
  type CircleFence,
  type Crossing,
  type Fence,
  type Fix,
  type Position,
} from 'aurelian-drift';
import { randomFrom } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';

const start = Date.UTC(2026, 4, 14, 8);
const hut = { lat: 44.2, lon: -33.6 };
const circle: CircleFence = { kind: 'circle', id: 'hut', name: 'Hut', centre: hut, radius: 100 };

/** Fixes at distances due east of the hut, so many seconds apart. */
function eastOfHut(metres: readonly number[], every = 10, accuracy?: number): Fix[] {
  return metres.map((away, i) =>
    fixOf({
      time: start + i * every * 1000,
      ...ahead(hut, 90, away),
      ...(accuracy !== undefined && { accuracy }),
    }),
  );
}

function crossingsOf(fences: Fence[], fixes: Iterable<Fix>, options = {}): Crossing[] {
  const watch = new FenceWatch(fences, options);
  return [...fixes].flatMap((fix) => watch.advance(fix));
}

const told = (crossings: readonly Crossing[]) => crossings.map(({ kind }) => kind).join(' ');
const polygon = (id: string, ...rings: (readonly [number, number])[][]): Fence => ({
  kind: 'polygon',
  id,
  name: id,
  parts: [rings.map((ring) => ring.map(([lon, lat]) => ({ lat, lon })))],
});

describe('a circle', () => {
  it('told 150 → 50 → 150 m gives one enter and one exit, at the edge and when it was cut', () => {
    const crossings = crossingsOf([circle], eastOfHut([150, 50, 150]));
    expect(told(crossings)).to.equal('enter exit');
    const [enter, exit] = crossings as [Crossing, Crossing];
    for (const crossing of [enter, exit]) expect(distance(hut, crossing)).to.be.closeTo(100, 0.001);
    // Halfway between the fixes at 0 and 10 s, and at 10 and 20 s.
    expect([enter.time, exit.time]).to.deep.equal([start + 5000, start + 15_000]);
    expect(exit.stay).to.equal(10);
    expect(enter).to.include({ fence: 'hut', name: 'Hut', certainty: 1 });
  });

  it('of 100 m is 100 m on the ground in every direction, and at every latitude', () => {
    const places = fc.record({
      lat: fc.double({ min: -88, max: 88, noNaN: true }),
      lon: fc.double({ min: -180, max: 180, noNaN: true }),
    });
    fc.assert(
      fc.property(places, fc.double({ min: 0, max: 360, noNaN: true }), (centre, azimuth) => {
        const fence: Fence = { ...circle, centre };
        const fixes = [50, 150].map((away, i) =>
          fixOf({ time: start + i * 1000, ...ahead(centre, azimuth, away) }),
        );
        const [initial, exit] = crossingsOf([fence], fixes);
        expect(initial!.kind).to.equal('initial');
        expect(distance(centre, exit!)).to.be.closeTo(100, 0.01);
      }),
      { numRuns: 300 },
    );
  });

  it('passed between two fixes gives one pass with both edge times, or a pair when asked', () => {
    const across = [ahead(hut, 270, 200), ahead(hut, 90, 200)].map((at, i) =>
      fixOf({ time: start + i * 40_000, ...at }),
    );
    const [pass, ...others] = crossingsOf([circle], across);
    expect(others).to.deep.equal([]);
    expect(pass).to.include({ kind: 'pass', time: start + 10_000, stay: 20 });
    const pair = crossingsOf([circle], across, { passes: 'pair' });
    expect(pair.map(({ kind, time }) => [kind, time])).to.deep.equal([
      ['enter', start + 10_000],
      ['exit', start + 30_000],
    ]);
  });

  it('at the date line is one place', () => {
    const edge = { lat: 0, lon: 180 };
    const fence: Fence = { ...circle, centre: edge };
    const fixes = [ahead(edge, 90, 150), { lat: 0, lon: -179.9995 }, ahead(edge, 270, 150)].map((at, i) =>
      fixOf({ time: start + i * 1000, ...at }),
    );
    expect(told(crossingsOf([fence], fixes))).to.equal('enter exit');
  });
});

describe('a polygon', () => {
  const notched = polygon('notched', [[-33.61, 44.19], [-33.59, 44.19], [-33.59, 44.21], [-33.6, 44.2], [-33.61, 44.21]]); // prettier-ignore

  it('does not hold the notch of its outline', () => {
    const at = (lat: number, lon: number) => crossingsOf([notched], [fixOf({ time: start, lat, lon })]);
    expect(told(at(44.207, -33.6))).to.equal('');
    expect(told(at(44.207, -33.592))).to.equal('initial');
    expect(told(at(44.195, -33.6))).to.equal('initial');
  });

  it('with a hole is left on entering the hole', () => {
    const ring = polygon('ring', [[0, 0], [3, 0], [3, 3], [0, 3], [0, 0]], [[1, 1], [2, 1], [2, 2], [1, 2], [1, 1]]); // prettier-ignore
    const fixes = [-0.5, 0.5, 1.5, 2.5, 3.5].map((lon, i) =>
      fixOf({ time: start + i * 60_000, lat: 1.5, lon }),
    );
    expect(told(crossingsOf([ring], fixes))).to.equal('enter exit enter exit');
  });

  it('across the date line has an inside and an outside', () => {
    const fence = polygon('line', [[179.9, -0.1], [-179.9, -0.1], [-179.9, 0.1], [179.9, 0.1]]); // prettier-ignore
    const fixes = [179.8, 179.95, -179.95, -179.8].map((lon, i) =>
      fixOf({ time: start + i * 60_000, lat: 0, lon }),
    );
    expect(told(crossingsOf([fence], fixes))).to.equal('enter exit');
  });

  it('is entered and left in turn on any walk whatever, ends agreeing with a plain point-in-polygon', () => {
    const corner = fc.tuple(
      fc.double({ min: -0.02, max: 0.02, noNaN: true }),
      fc.double({ min: -0.02, max: 0.02, noNaN: true }),
    );
    const square: (readonly [number, number])[] = [[-0.01, -0.01], [0.01, -0.01], [0.01, 0.01], [-0.01, 0.01]]; // prettier-ignore
    const inSquare = ({ lat, lon }: Position) => Math.abs(lat) < 0.01 && Math.abs(lon) < 0.01;
    fc.assert(
      fc.property(fc.array(corner, { minLength: 2, maxLength: 20 }), (corners) => {
        const fixes = corners.map(([lat, lon], i) => fixOf({ time: start + i * 1000, lat, lon }));
        const kinds = crossingsOf([polygon('square', square)], fixes, { passes: 'pair' }).map(
          ({ kind }) => kind,
        );
        let inside = false;
        for (const kind of kinds) {
          expect(kind === 'exit').to.equal(inside);
          inside = !inside;
        }
        expect(inside).to.equal(inSquare(fixes.at(-1)!));
      }),
    );
  });
});

describe('certainty', () => {
  it('keeps noise at the edge from chattering', () => {
    const random = randomFrom(3);
    const noise = Array.from({ length: 50 }, () => 100 + Math.max(-15, Math.min(15, 6 * random.normal())));
    expect(crossingsOf([circle], eastOfHut([300, ...noise], 1, 15)).length).to.be.at.most(1);
    // Taken at their word, the very same places chatter.
    expect(crossingsOf([circle], eastOfHut([300, ...noise], 1)).length).to.be.above(10);
  });

  it('says nothing on a fix far too coarse for the fence', () => {
    const watch = new FenceWatch([circle]);
    const fixes = eastOfHut([700, 20, 10], 60, 500);
    expect(fixes.flatMap((fix) => watch.advance(fix))).to.deep.equal([]);
    expect(watch.inside.size).to.equal(0);
  });

  it('dates a crossing back to the cut, not to the fix that made it certain', () => {
    const [enter] = crossingsOf([circle], eastOfHut([150, 110, 98, 97, 60], 10, 20));
    // 120 − 98 m is cut at (110 − 100) / 12 of the step from 10 s to 20 s.
    expect(enter).to.include({ kind: 'enter', time: start + 18_333 });
    expect(enter!.certainty).to.be.within(0.9, 1);
  });
});

describe('a watch', () => {
  it('tells the first fix inside as initial, which is no entry', () => {
    expect(told(crossingsOf([circle], eastOfHut([20, 30, 150])))).to.equal('initial exit');
  });

  it('makes up no crossing over a gap', () => {
    const watch = new FenceWatch([circle]);
    const [a, b] = [ahead(hut, 270, 200), ahead(hut, 90, 200)].map((at, i) =>
      fixOf({ time: start + i * 40_000, ...at }),
    ) as [Fix, Fix];
    watch.advance(a);
    watch.breakSegment();
    expect(watch.advance(b)).to.deep.equal([]);
  });

  it('takes no notice of wild and backward fixes', () => {
    const [far, near, back] = eastOfHut([150, 50, 150]) as [Fix, Fix, Fix];
    const wild = fixOf({ ...near, marks: ['wild'] });
    expect(crossingsOf([circle], [far, wild, back])).to.deep.equal([]);
    expect(told(crossingsOf([circle], [back, near, far]))).to.equal('');
  });

  it('refuses two fences of one id, and options it does not know', () => {
    expect(() => new FenceWatch([circle, circle])).to.throw('two fences have the id "hut"');
    expect(() => new FenceWatch([], { certanty: 0.8 } as object)).to.throw('did you mean "certainty"?');
    expect(() => new FenceWatch([], { certainty: 2 })).to.throw('certainty must be 0.5 to 0.999999');
  });
});

describe('fences from GeoJSON', () => {
  it('are polygons and points with a radius', () => {
    const fences = fencesFrom({
      type: 'FeatureCollection',
      features: [
        { type: 'Feature', id: 7, geometry: { type: 'Point', coordinates: [-33.6, 44.2] }, properties: { name: 'Hut', radius: 50 } },
        {
          type: 'Feature',
          geometry: { type: 'MultiPolygon', coordinates: [[[[0, 0], [1, 0], [1, 1], [0, 0]]], [[[5, 5], [6, 5], [6, 6], [5, 5]]]] },
          properties: null,
        },
      ],
    }); // prettier-ignore
    expect(fences[0]).to.deep.equal({ kind: 'circle', id: '7', name: 'Hut', centre: hut, radius: 50 });
    expect(fences[1]).to.include({ kind: 'polygon', id: 'fence-2', name: 'fence-2' });
    expect(told(crossingsOf([fences[1]!], [fixOf({ time: start, lat: 5.2, lon: 5.6 })]))).to.equal('initial');
  });

  const feature = (geometry: unknown, properties: unknown = { name: 'Marsh' }) => ({
    type: 'Feature',
    geometry,
    properties,
  });
  const wrong: [string, unknown, string][] = [
    ['a point without a radius', feature({ type: 'Point', coordinates: [0, 0] }), 'fence "Marsh" is a point and needs a radius above 0 m'],
    ['a line', feature({ type: 'LineString', coordinates: [] }), 'fence "Marsh" is a LineString; a fence is a Polygon'],
    ['no geometry', feature(null), 'fence "Marsh" has no geometry'],
    ['two corners', feature({ type: 'Polygon', coordinates: [[[0, 0], [1, 1], [0, 0]]] }), 'fewer than three places'],
    ['latitude first', feature({ type: 'Polygon', coordinates: [[[44, -133], [45, -133], [45, -134]]] }), 'swapped?'],
    ['something else', { type: 'Topology' }, 'this is not GeoJSON'],
    ['nothing', { type: 'FeatureCollection', features: [] }, 'there is no fence in it'],
  ]; // prettier-ignore
  for (const [name, document, message] of wrong) {
    it(`refuse ${name}`, () => {
      expect(() => fencesFrom(document)).to.throw(message);
    });
  }
});
