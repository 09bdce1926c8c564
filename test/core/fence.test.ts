import {
  timetable,
  FenceWatch,
  InputError,
  ahead,
  distance,
  fencesFrom,
  fencesToGeoJson,
  fixFrom,
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

/** Fixes at distances due east of the hut, this many seconds apart. */
function eastOfHut(metres: readonly number[], every = 10, accuracy?: number): Fix[] {
  return metres.map((away, i) =>
    fixFrom({
      time: start + i * every * 1000,
      ...ahead(hut, 90, away),
      ...(accuracy !== undefined && { accuracy }),
    }),
  );
}

function crossingsOf(fences: Fence[], fixes: Iterable<Fix>, options = {}): Crossing[] {
  const watch = new FenceWatch(fences, options);
  return [...fixes].flatMap((fix) => watch.take(fix));
}

const reported = (crossings: readonly Crossing[]) => crossings.map(({ kind }) => kind).join(' ');
const polygon = (id: string, ...rings: (readonly [number, number])[][]): Fence => ({
  kind: 'polygon',
  id,
  name: id,
  parts: [rings.map((ring) => ring.map(([lon, lat]) => ({ lat, lon })))],
});

describe('a circle', () => {
  it('gives one enter and one exit for 150 → 50 → 150 m, at the edge and at the time of ' + 'the cut', () => {
    const crossings = crossingsOf([circle], eastOfHut([150, 50, 150]));
    expect(reported(crossings)).to.equal('enter exit');
    const [enter, exit] = crossings as [Crossing, Crossing];
    for (const crossing of [enter, exit]) expect(distance(hut, crossing)).to.be.closeTo(100, 0.001);
    // Halfway between the fixes at 0 and 10 s, and at 10 and 20 s.
    expect([enter.time, exit.time]).to.deep.equal([start + 5000, start + 15_000]);
    expect(exit.duration).to.equal(10);
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
          fixFrom({ time: start + i * 1000, ...ahead(centre, azimuth, away) }),
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
      fixFrom({ time: start + i * 40_000, ...at }),
    );
    const [pass, ...others] = crossingsOf([circle], across);
    expect(others).to.deep.equal([]);
    expect(pass).to.include({ kind: 'pass', time: start + 10_000, duration: 20 });
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
      fixFrom({ time: start + i * 1000, ...at }),
    );
    expect(reported(crossingsOf([fence], fixes))).to.equal('enter exit');
  });
});

describe('a polygon', () => {
  const notched = polygon('notched', [
    [-33.61, 44.19],
    [-33.59, 44.19],
    [-33.59, 44.21],
    [-33.6, 44.2],
    [-33.61, 44.21],
  ]);

  it('does not hold the notch of its outline', () => {
    const at = (lat: number, lon: number) => crossingsOf([notched], [fixFrom({ time: start, lat, lon })]);
    expect(reported(at(44.207, -33.6))).to.equal('');
    expect(reported(at(44.207, -33.592))).to.equal('initial');
    expect(reported(at(44.195, -33.6))).to.equal('initial');
  });

  it('with a hole is left on entering the hole', () => {
    const ring = polygon(
      'ring',
      [
        [0, 0],
        [3, 0],
        [3, 3],
        [0, 3],
        [0, 0],
      ],
      [
        [1, 1],
        [2, 1],
        [2, 2],
        [1, 2],
        [1, 1],
      ],
    );
    const fixes = [-0.5, 0.5, 1.5, 2.5, 3.5].map((lon, i) =>
      fixFrom({ time: start + i * 60_000, lat: 1.5, lon }),
    );
    expect(reported(crossingsOf([ring], fixes))).to.equal('enter exit enter exit');
  });

  it('across the date line has an inside and an outside', () => {
    const fence = polygon('line', [
      [179.9, -0.1],
      [-179.9, -0.1],
      [-179.9, 0.1],
      [179.9, 0.1],
    ]);
    const fixes = [179.8, 179.95, -179.95, -179.8].map((lon, i) =>
      fixFrom({ time: start + i * 60_000, lat: 0, lon }),
    );
    expect(reported(crossingsOf([fence], fixes))).to.equal('enter exit');
  });

  it('is entered and left in turn on any walk whatever, ends agreeing with a plain point-in-polygon', () => {
    const corner = fc.tuple(
      fc.double({ min: -0.02, max: 0.02, noNaN: true }),
      fc.double({ min: -0.02, max: 0.02, noNaN: true }),
    );
    const square: (readonly [number, number])[] = [
      [-0.01, -0.01],
      [0.01, -0.01],
      [0.01, 0.01],
      [-0.01, 0.01],
    ];
    const inSquare = ({ lat, lon }: Position) => Math.abs(lat) < 0.01 && Math.abs(lon) < 0.01;
    fc.assert(
      fc.property(fc.array(corner, { minLength: 2, maxLength: 20 }), (corners) => {
        const fixes = corners.map(([lat, lon], i) => fixFrom({ time: start + i * 1000, lat, lon }));
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

describe('a polygon of several parts', () => {
  const square = (west: number, east: number) => [
    { lat: 0, lon: west },
    { lat: 0, lon: east },
    { lat: 0.01, lon: east },
    { lat: 0.01, lon: west },
  ];
  const across = (fence: Fence) => {
    const fixes = [-0.005, 0.045].map((lon, i) => fixFrom({ time: start + i * 50_000, lat: 0.005, lon }));
    return crossingsOf([fence], fixes, { passes: 'pair' });
  };
  const cut = (fence: Fence) => across(fence).map(({ kind, lon }) => `${kind} ${lon.toFixed(3)}`);

  it('that overlap is one area, and a hole is one in its own part only', () => {
    expect(
      cut({ kind: 'polygon', id: 'a', name: 'A', parts: [[square(0, 0.02)], [square(0.01, 0.03)]] }),
    ).to.deep.equal(['enter 0.000', 'exit 0.030']);
    expect(
      cut({ kind: 'polygon', id: 'a', name: 'A', parts: [[square(0, 0.03), square(0.01, 0.02)]] }),
    ).to.deep.equal(['enter 0.000', 'exit 0.010', 'enter 0.020', 'exit 0.030']);
    expect(
      cut({
        kind: 'polygon',
        id: 'a',
        name: 'A',
        parts: [[square(0, 0.03), square(0.01, 0.02)], [square(0.005, 0.025)]],
      }),
    ).to.deep.equal(['enter 0.000', 'exit 0.030']);
    // A hole outside its outline contains nothing.
    expect(
      cut({ kind: 'polygon', id: 'a', name: 'A', parts: [[square(0, 0.01), square(0.02, 0.03)]] }),
    ).to.deep.equal(['enter 0.000', 'exit 0.010']);
  });
});

describe('certainty', () => {
  it('keeps noise at the edge from chattering', () => {
    const random = randomFrom(3);
    const noise = Array.from({ length: 50 }, () => 100 + Math.max(-15, Math.min(15, 6 * random.normal())));
    expect(crossingsOf([circle], eastOfHut([300, ...noise], 1, 15)).length).to.be.at.most(1);
    // Without regard to accuracy, the same fixes cross again and again.
    expect(crossingsOf([circle], eastOfHut([300, ...noise], 1)).length).to.be.above(10);
  });

  it('reports nothing on a fix far too coarse for the fence', () => {
    const watch = new FenceWatch([circle]);
    const fixes = eastOfHut([700, 20, 10], 60, 500);
    expect(fixes.flatMap((fix) => watch.take(fix))).to.deep.equal([]);
    expect(watch.inside.size).to.equal(0);
  });

  it('dates a crossing back to the cut, not to the fix that made it certain', () => {
    const [enter] = crossingsOf([circle], eastOfHut([150, 110, 98, 97, 60], 10, 20));
    // 120 − 98 m is cut at (110 − 100) / 12 of the step from 10 s to 20 s.
    expect(enter!.kind).to.equal('enter');
    expect(enter!.time).to.be.closeTo(start + 18_333, 500);
    expect(enter!.certainty).to.be.within(0.9, 1);
  });
});

describe('a watch', () => {
  it('reports the first fix inside as initial, which is no entry', () => {
    expect(reported(crossingsOf([circle], eastOfHut([20, 30, 150])))).to.equal('initial exit');
  });

  it('makes up no crossing over a gap', () => {
    const watch = new FenceWatch([circle]);
    const [a, b] = [ahead(hut, 270, 200), ahead(hut, 90, 200)].map((at, i) =>
      fixFrom({ time: start + i * 40_000, ...at }),
    ) as [Fix, Fix];
    watch.take(a);
    watch.breakSegment();
    expect(watch.take(b)).to.deep.equal([]);
  });

  it('takes no notice of wild and backward fixes', () => {
    const [far, near, back] = eastOfHut([150, 50, 150]) as [Fix, Fix, Fix];
    const outlier = fixFrom({ ...near, marks: ['outlier'] });
    expect(crossingsOf([circle], [far, outlier, back])).to.deep.equal([]);
    expect(reported(crossingsOf([circle], [back, near, far]))).to.equal('');
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
        {
          type: 'Feature',
          id: 7,
          geometry: { type: 'Point', coordinates: [-33.6, 44.2] },
          properties: { name: 'Hut', radius: 50 },
        },
        {
          type: 'Feature',
          geometry: {
            type: 'MultiPolygon',
            coordinates: [
              [
                [
                  [0, 0],
                  [1, 0],
                  [1, 1],
                  [0, 0],
                ],
              ],
              [
                [
                  [5, 5],
                  [6, 5],
                  [6, 6],
                  [5, 5],
                ],
              ],
            ],
          },
          properties: null,
        },
      ],
    });
    expect(fences[0]).to.deep.equal({ kind: 'circle', id: '7', name: 'Hut', centre: hut, radius: 50 });
    expect(fences[1]).to.include({ kind: 'polygon', id: 'fence-2', name: 'fence-2' });
    expect(reported(crossingsOf([fences[1]!], [fixFrom({ time: start, lat: 5.2, lon: 5.6 })]))).to.equal(
      'initial',
    );
  });

  it('are refused with every fault in one go, each named by fence and property', () => {
    const point = (id: string, properties: object) => ({
      type: 'Feature',
      id,
      geometry: { type: 'Point', coordinates: [1, 1] },
      properties,
    });
    const document = {
      type: 'FeatureCollection',
      features: [
        point('a', { name: 'A', radius: 5 }),
        point('b', { name: 'B', radius: -5 }),
        point('a', { name: 'A again', radius: 5 }),
        { type: 'Feature', geometry: { type: 'Polygon', coordinates: 'none' }, properties: { name: 'C' } },
        point('d', { name: 'D', radius: 0, linger: 'long', certainty: null }),
      ],
    };
    expect(() => fencesFrom(document))
      .to.throw(InputError)
      .with.property('message')
      .that.matches(/^5 problems: /)
      .and.includes('features.1.properties.radius: fence "B"')
      .and.includes('features.2.id: fence "A again" has the same id "a" as "A"')
      .and.includes('features.3.geometry.coordinates: this is not GeoJSON: expected Array')
      .and.includes('features.4.properties.radius: fence "D": radius must be 0.001 to 10000000 metres, got 0')
      .and.includes(
        'features.4.properties.linger: fence "D": linger must be a number of seconds, got "long"',
      );
  });

  it('have their outlines repaired where that is safe, and report the repair', () => {
    const reported: string[] = [];
    const ring = [
      [0, 0],
      [0, 0],
      [2, 0],
      [3, 0],
      [2, 0],
      [2, 2],
      [0, 2],
    ];
    const [fence] = fencesFrom(
      { type: 'Polygon', coordinates: [ring] },
      { note: (text) => reported.push(text) },
    );
    expect(reported).to.deep.equal([
      'fence "fence-1" was not closed: mended',
      'fence "fence-1" had a spike at 0, 3: mended',
    ]);
    const at = (lon: number) => crossingsOf([fence!], [fixFrom({ time: start, lat: 0.5, lon })]).length;
    expect([at(1), at(2.5)]).to.deep.equal([1, 0]);
  });

  it('may be corridors, linger, and be as certain as each needs', () => {
    const [fence] = fencesFrom({
      type: 'Feature',
      geometry: {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [0.01, 0],
        ],
      },
      properties: { halfWidth: 20, linger: 60, certainty: 0.7 },
    });
    expect(fence).to.deep.equal({
      kind: 'corridor',
      id: 'fence-1',
      name: 'fence-1',
      linger: 60,
      certainty: 0.7,
      halfWidth: 20,
      lines: [
        [
          { lat: 0, lon: 0 },
          { lat: 0, lon: 0.01 },
        ],
      ],
    });
  });

  it('may be watched at times only', () => {
    const document = {
      type: 'Feature',
      geometry: { type: 'Point', coordinates: [-33.6, 44.2] },
      properties: { radius: 50, when: { hours: '08:00/18:00', timeZone: 'UTC' } },
    };
    const [fence] = fencesFrom(document, { timetable });
    expect([6, 12].map((hour) => fence!.when!.isOn(Date.UTC(2026, 4, 14, hour)))).to.deep.equal([
      false,
      true,
    ]);
    expect(() => fencesFrom(document, { timetabel: timetable } as object)).to.throw(
      'did you mean "timetable"?',
    );
    expect(() => fencesFrom(document)).to.throw(
      'properties.when: fence "fence-1": it has times when it is watched; pass { timetable } to fencesFrom',
    );
    expect(() =>
      fencesFrom({ ...document, properties: { radius: 50, when: { hours: 'daily' } } }, { timetable }),
    ).to.throw('properties.when: fence "fence-1": timetable: hours must be two times of day');
  });

  it('are written so that they read back the same, rings closed and wound as the standard has it', () => {
    const place = fc
      .record({
        lat: fc.double({ min: -80, max: 80, noNaN: true }),
        lon: fc.double({ min: -180, max: 180, noNaN: true }),
      })
      .map(({ lat, lon }) => ({ lat: lat + 0, lon: lon + 0 }));
    const labels = {
      name: fc.string({ minLength: 1 }),
      linger: fc.option(fc.integer({ min: 1, max: 900 }), { nil: undefined }),
      certainty: fc.option(fc.double({ min: 0.5, max: 0.99, noNaN: true }), { nil: undefined }),
    };
    const around = ({ lat, lon }: Position, from: number, step: number, radius: number) =>
      Array.from({ length: 5 }, (_, i) => ahead({ lat, lon }, from + i * step, radius));
    const shape = fc.oneof(
      fc.record({
        kind: fc.constant('circle' as const),
        ...labels,
        centre: place,
        radius: fc.double({ min: 0.1, max: 1e5, noNaN: true }),
      }),
      fc.record({
        kind: fc.constant('corridor' as const),
        ...labels,
        lines: fc.array(fc.array(place, { minLength: 2, maxLength: 4 }), { minLength: 1, maxLength: 2 }),
        halfWidth: fc.double({ min: 0.1, max: 1e4, noNaN: true }),
      }),
      fc
        .record({
          kind: fc.constant('polygon' as const),
          ...labels,
          at: place,
          turn: fc.constantFrom(72, -72),
          parts: fc.integer({ min: 1, max: 2 }),
        })
        .map(({ at, turn, parts, ...rest }) => ({
          ...rest,
          parts: Array.from({ length: parts }, (_, i) => [
            around(ahead(at, 90, i * 9000), 10, turn, 3000),
            around(ahead(at, 90, i * 9000), 20, turn, 500),
          ]),
        })),
    );
    fc.assert(
      fc.property(fc.array(shape, { minLength: 1, maxLength: 4 }), (shapes) => {
        const known = (value: object) =>
          Object.fromEntries(Object.entries(value).filter(([, each]) => each !== undefined));
        const fences = shapes.map((each, i) => known({ ...each, id: `f${i}` }) as unknown as Fence);
        const notes: string[] = [];
        const text = JSON.stringify(fencesToGeoJson(fences));
        const back = fencesFrom(JSON.parse(text), { note: (reported) => notes.push(reported) });
        const same = (fence: Fence) =>
          fence.kind === 'polygon'
            ? {
                ...fence,
                parts: fence.parts.map((part) =>
                  part.map((ring) => ring.map(({ lat, lon }) => `${lat} ${lon}`).toSorted()),
                ),
              }
            : fence;
        expect(back.map(same)).to.deep.equal(fences.map(same));
        expect(notes).to.deep.equal([]);
        expect(JSON.stringify(fencesToGeoJson(back))).to.equal(text);
      }),
      { numRuns: 200 },
    );
    const [square] = (
      fencesToGeoJson([
        {
          kind: 'polygon',
          id: 'a',
          name: 'A',
          parts: [
            [
              [
                { lat: 0, lon: 0 },
                { lat: 1, lon: 0 },
                { lat: 1, lon: 1 },
              ],
            ],
          ],
          when: timetable({ hours: '08:00/18:00' }),
        },
      ]) as { features: object[] }
    ).features;
    // Given clockwise; outlines are written counterclockwise.
    expect(square).to.deep.equal({
      type: 'Feature',
      id: 'a',
      geometry: {
        type: 'Polygon',
        coordinates: [
          [
            [0, 0],
            [1, 1],
            [0, 1],
            [0, 0],
          ],
        ],
      },
      properties: { name: 'A', when: { hours: '08:00/18:00' } },
    });
  });

  const feature = (geometry: unknown, properties: unknown = { name: 'Marsh' }) => ({
    type: 'Feature',
    geometry,
    properties,
  });
  const wrong: [string, unknown, string][] = [
    ['a point without a radius', feature({ type: 'Point', coordinates: [0, 0] }),
      'fence "Marsh" is a Point and needs a radius in metres'],
    ['a line without a width', feature({ type: 'LineString', coordinates: [[0, 0], [1, 1]] }, { name: 'Marsh',
      halfwidht: 5 }), 'fence "Marsh" is a LineString and needs a halfWidth in metres; is "halfwidht" meant for it?'],
    ['several points', feature({ type: 'MultiPoint', coordinates: [] }),
      'fence "Marsh" is a MultiPoint; a fence is a Polygon'],
    ['a radius of 0', feature({ type: 'Point', coordinates: [0, 0] }, { name: 'Marsh', radius: 0 }),
      'properties.radius: fence "Marsh": radius must be 0.001 to 10000000 metres, got 0'],
    ['a radius in words', feature({ type: 'Point', coordinates: [0, 0] }, { name: 'Marsh', radius: '50 m' }),
      'fence "Marsh": radius must be a number of metres, got "50 m"'],
    ['a certainty beyond one', feature({ type: 'Point', coordinates: [0, 0] }, { name: 'Marsh', radius: 5,
      certainty: 2 }), 'certainty must be 0.5 to 0.999999, got 2'],
    ['an outline that crosses itself', feature({ type: 'Polygon', coordinates: [[[0, 0], [2, 2], [2, 0], [0, 2], [0,
      0]]] }), 'fence "Marsh" has an outline that crosses itself at 1, 1'],
    ['no geometry', feature(null), 'fence "Marsh" has no geometry'],
    ['two corners', feature({ type: 'Polygon', coordinates: [[[0, 0], [1, 1], [0, 0]]] }), 'fewer than three points'],
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
