import {
  Gazetteer,
  addressLines,
  addressText,
  placeRecord,
  placeRecordFrom,
  answersToGeoJson,
  answersFrom,
  placesFrom,
  ADDRESS_PATTERNS,
  type Place,
} from 'aurelian-drift/places';
import {
  ahead,
  bearing,
  distance,
  fixFrom,
  manualFix,
  rounded,
  readPosition,
  type Position,
} from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import { Geodesic } from 'geographiclib-geodesic';
import { readFileSync } from 'node:fs';
import { misspelt } from '../../packages/aurelian-drift/src/core/place/misspelling.js';
import { PointTree } from '../../packages/aurelian-drift/src/core/place/point-tree.js';

const island = () => {
  const document: unknown = JSON.parse(
    readFileSync(new URL('../../demo/places.geojson', import.meta.url), 'utf8'),
  );
  const { places, language, refused } = placesFrom(document);
  expect(refused).to.deep.equal([]);
  return new Gazetteer(places, { language: language! });
};
const anywhere = fc.record({
  lat: fc.oneof(fc.double({ min: -90, max: 90, noNaN: true }), fc.constantFrom(90, -90, 0)),
  lon: fc.oneof(
    fc.double({ min: -180, max: 180, noNaN: true }),
    fc.constantFrom(180, -180, 179.9999, -179.9999),
  ),
});
const house = (houseNumber: string, at: Position, more: Partial<Place> = {}): Place => ({
  kind: 'house',
  houseNumber,
  street: 'Long Row',
  locality: 'Wick',
  ...at,
  ...more,
});
const origin = { lat: 44.2, lon: -33.6 };
const east = (metres: number, north = 0) => ahead(ahead(origin, 90, metres), 0, north);

describe('a gazetteer', () => {
  describe('from a position to names', () => {
    it(
      'lists the known places of the island, from exact to coarse, each with distance and ' + 'direction',
      () => {
        const gazetteer = island();
        const door = { lat: 44.186692, lon: -33.608182 }; // number 8, as the file has it
        const answers = gazetteer.at(ahead(door, 45, 3));
        expect(answers.map(({ level, relation }) => `${level} ${relation!}`)).to.deep.equal([
          'house at',
          'spot at',
          'street at',
          'locality at',
          'region at',
        ]);
        expect(answers.map(({ text }) => text)).to.deep.equal([
          '8 Plover Lane, Wick Orrin',
          'Orrin Stores, 5 Plover Lane, Wick Orrin',
          'Plover Lane, Wick Orrin',
          'Wick Orrin, Vanesk',
          'Vanesk',
        ]);
        expect(answers[0]).to.include({ houseNumber: '8', street: 'Plover Lane', postalCode: 'VK 10' });
        expect(answers[0]!.distance).to.be.closeTo(3, 0.001);
        expect(answers[0]!.bearing).to.be.closeTo(225, 0.01);
        expect(answers.at(-1)!.distance).to.equal(0);
        expect(answers.at(-1)).not.to.have.property('bearing');
      },
    );

    it('starts at the level that is asked for', () => {
      const levels = island().at({ lat: 44.186692, lon: -33.608182 }, { level: 'locality' });
      expect(levels.map(({ text }) => text)).to.deep.equal(['Wick Orrin, Vanesk', 'Vanesk']);
    });

    it(
      'gives in open water the direction from the nearest locality, and claims no address ' + 'and no island',
      () => {
        const gazetteer = island();
        const wick = { lat: 44.186501, lon: -33.60938 };
        const [answer, ...more] = gazetteer.at(ahead(wick, 180, 9000));
        expect(more).to.deep.equal([]);
        expect(answer).to.include({ relation: 'off', level: 'locality', text: '9.00 km S of Wick Orrin' });
        expect(gazetteer.at({ lat: -40, lon: 140 })[0]!.text).to.match(/^\d{4,5} km [NSEW]+ of \w/);
        // On the island's meadows the region is known, but no house is near.
        expect(gazetteer.at(origin).map(({ level, relation }) => `${level} ${relation!}`)).to.deep.equal([
          'locality off',
          'region at',
        ]);
        // A named water is described as what it is.
        expect(gazetteer.at({ lat: 44.179751, lon: -33.596873 })[0]!.text).to.equal('Orrin Bay');
      },
    );

    it(
      'interpolates a house number between two known ones, even or odd as its side, and ' +
        'marks it as estimated',
      () => {
        const numbers = [['2', 0], ['4', 20], ['14', 120], ['1', 0, 20], ['9', 80, 20]] as const; // prettier-ignore
        const gazetteer = new Gazetteer(
          numbers.map(([number, metres, north = 0]) => house(number, east(metres, north))),
        );
        const at = (metres: number, north: number) => {
          const { houseNumber, estimated, text } = gazetteer.at(east(metres, north))[0]!;
          return { houseNumber, estimated, text };
        };
        // Between 4 at 20 m and 14 at 120 m lie 6, 8, 10 and 12, one every 20 m.
        expect(at(61, 2)).to.deep.equal({ houseNumber: '8', estimated: true, text: '8 Long Row, Wick' });
        expect(at(99, -3)).to.deep.equal({ houseNumber: '12', estimated: true, text: '12 Long Row, Wick' });
        expect(at(40, 21).houseNumber).to.equal('5');
        // At a door, between neighbours and beyond the last, it is the house itself.
        for (const [metres, north, number] of [
          [26, 1, '4'],
          [11, 1, '4'],
          [150, 0, '14'],
          [9, 0, '2'],
        ] as const)
          expect(at(metres, north), `${metres} m`).to.include({ houseNumber: number, estimated: undefined });
      },
    );

    it('keeps to the street that one is on, though a door of another is nearer', () => {
      const line = [east(-50), east(200)];
      const gazetteer = new Gazetteer([
        {
          kind: 'street',
          name: 'Long Row',
          locality: 'Wick',
          ...origin,
          shape: { kind: 'line', parts: [line] },
        },
        house('8', east(0, 30)),
        house('3', east(0, -18), { street: 'Back Way' }),
      ]);
      expect(gazetteer.at(east(0, 2))[0]!.text).to.equal('8 Long Row, Wick');
      expect(gazetteer.at(east(0, -16))[0]!.text).to.equal('3 Back Way, Wick');
    });

    it('puts the hut before a house further off, and an area around after it', () => {
      const area = [
        [-90, -90],
        [90, -90],
        [90, 90],
        [-90, 90],
      ].map(([x, y]) => east(x!, y));
      const gazetteer = new Gazetteer([
        house('1', east(20)),
        { kind: 'hut', name: 'Low Hut', ...origin },
        { kind: 'park', name: 'The Green', ...origin, shape: { kind: 'area', parts: [[area]] } },
      ]);
      expect(gazetteer.at(east(15))[0]!.level).to.equal('house');
      expect(gazetteer.at(east(15)).map(({ name }) => name)).to.include('The Green');
    });

    it('is right across the date line and at a pole', () => {
      const square = (west: number, easting: number) => [
        { lat: -17, lon: west },
        { lat: -17, lon: easting },
        { lat: -16, lon: easting },
        { lat: -16, lon: west },
      ];
      const gazetteer = new Gazetteer([
        house('7', { lat: -16.5, lon: -179.9999 }),
        { kind: 'hut', name: 'Pole Hut', lat: 90, lon: 0, radius: 500 },
        {
          kind: 'region',
          name: 'Line Reach',
          lat: -16.5,
          lon: 180,
          shape: { kind: 'area', parts: [[square(179.5, -179.5)]] },
        },
      ]);
      const found = gazetteer.at({ lat: -16.5, lon: 179.9999 });
      expect(found.map(({ text }) => text)).to.include.members(['7 Long Row, Wick', 'Line Reach']);
      expect(found[0]!.distance).to.be.closeTo(21.3, 0.1);
      expect(gazetteer.at({ lat: 89.997, lon: -120 })[0]!.text).to.equal('Pole Hut');
    });

    it('refuses invalid positions and unknown options, with a suggestion', () => {
      const gazetteer = island();
      expect(() => gazetteer.at({ lat: 120, lon: 44 })).to.throw('swapped?');
      expect(() => gazetteer.at(origin, { levl: 'house' } as never)).to.throw('did you mean "level"?');
      expect(() => gazetteer.at(origin, { level: 'town' as never })).to.throw(/level got "town", .*locality/);
      expect(() => gazetteer.at(origin, { language: 'not a tag' })).to.throw('language tag');
      expect(new Gazetteer([]).at(origin)).to.deep.equal([]);
    });
  });

  describe('places near by', () => {
    const ten = Array.from({ length: 10 }, (_, i) => ({
      kind: i % 2 === 0 ? 'well' : 'hide',
      name: `Spot ${i}`,
      prominence: i,
      ...ahead(origin, i * 36, 100 + i * 100),
    }));

    it('are those within the radius by distance, with metres and direction', () => {
      const near = new Gazetteer(ten).near(origin, { within: 550 });
      expect(near.map(({ name }) => name)).to.deep.equal(['Spot 0', 'Spot 1', 'Spot 2', 'Spot 3', 'Spot 4']);
      near.forEach(({ distance: metres, bearing: direction, lat, lon }, i) => {
        const { s12, azi1 } = Geodesic.WGS84.Inverse(origin.lat, origin.lon, lat, lon) as {
          s12: number;
          azi1: number;
        };
        expect(metres).to.be.closeTo(s12, 0.001);
        expect(direction).to.be.closeTo((azi1 + 360) % 360, 0.001);
        expect(metres).to.be.closeTo(100 + i * 100, 0.01);
      });
    });

    it('is the nearest so many, of the kinds asked for, or the best known', () => {
      const gazetteer = new Gazetteer(ten);
      const names = (options: object) => gazetteer.near(origin, options).map(({ name }) => name);
      expect(names({ max: 2, kinds: ['hide'] })).to.deep.equal(['Spot 1', 'Spot 3']);
      expect(names({ within: 550, by: 'prominence', max: 3 })).to.deep.equal(['Spot 4', 'Spot 3', 'Spot 2']);
      expect(() => names({ by: 'prominence' })).to.throw('needs within');
      expect(() => names({ kinds: ['wel'] })).to.throw('did you mean "well"?');
    });

    it('shows the details of the chosen place', () => {
      const [inn] = island().near({ lat: 44.19, lon: -33.57 }, { kinds: ['inn'] });
      expect(inn).to.deep.include({
        name: 'The Clouded Yellow',
        details: { opening: { hours: '12:00/23:00', timeZone: 'Etc/GMT+2' } },
      });
    });

    it('is the same as a search through all of them, anywhere on earth', () => {
      fc.assert(
        fc.property(
          fc.array(anywhere, { minLength: 1, maxLength: 200 }),
          anywhere,
          fc.integer({ min: 1, max: 12 }),
          (points, at, max) => {
            const lats = Float64Array.from(points, ({ lat }) => lat);
            const lons = Float64Array.from(points, ({ lon }) => lon);
            const tree = new PointTree(Uint32Array.from(points.keys()), lats, lons);
            const chord = (i: number) => {
              // Straight through the earth, from the textbook's own formula.
              const xyz = ({ lat, lon }: Position) => {
                const [phi, lambda] = [(lat * Math.PI) / 180, (lon * Math.PI) / 180];
                const n = 6378137 / Math.sqrt(1 - 0.00669437999014 * Math.sin(phi) ** 2);
                return [
                  n * Math.cos(phi) * Math.cos(lambda),
                  n * Math.cos(phi) * Math.sin(lambda),
                  n * (1 - 0.00669437999014) * Math.sin(phi),
                ];
              };
              const [a, b] = [xyz(points[i]!), xyz(at)];
              return Math.hypot(...a.map((each, axis) => each - b[axis]!));
            };
            const all = points.map((_, i) => chord(i)).sort((a, b) => a - b);
            const found = tree.nearest(at.lat, at.lon, max);
            expect(found).to.have.length(Math.min(max, points.length));
            found.forEach((id, rank) => expect(chord(id)).to.be.closeTo(all[rank]!, 0.02));
            const limit = all[Math.floor(all.length / 2)]! + 0.05;
            const within = all.filter((far) => far < limit - 0.04).length;
            expect(tree.within(at.lat, at.lon, limit).length).to.be.at.least(within);
          },
        ),
        { numRuns: 200 },
      );
    });
  });

  describe('from names to positions', () => {
    const names = (text: string, near?: Position) =>
      island()
        .named(text, near === undefined ? {} : { near })
        .map((answer) => answer.text);

    it('takes words in any order, and the number of a house', () => {
      for (const text of ['14 Plover Lane, Wick Orrin', 'wick orrin plover lane 14', 'lane 14 PLOVER'])
        expect(names(text), text).to.deep.equal(['14 Plover Lane, Wick Orrin']);
      expect(names('VK 12')[0]).to.match(/Skerrin/);
      expect(names('1')).to.deep.equal([]); // for a number alone there are too many matches
      expect(
        new Gazetteer([
          { kind: 'hut', name: 'Hut 1', ...origin },
          { kind: 'hut', name: 'Hut 12', ...origin },
        ])
          .named('1')
          .map(({ name }) => name),
      ).to.deep.equal(['Hut 1']);
      expect(names('99 plover lane')[0]).to.equal('Plover Lane, Wick Orrin');
    });

    it('takes beginnings, without accents and case, and names in another language', () => {
      expect(names('plo la')[0]).to.equal('Plover Lane, Wick Orrin');
      expect(names('chandlers row')).to.deep.equal(['Chandler’s Row, Wick Orrin']);
      expect(names('NADRI')[0]).to.equal('Nethery, Vanesk');
      expect(names('tolavae')[0]).to.equal('Tolvay, Vanesk');
    });

    it('accepts a typing error, and marks the match as inexact', () => {
      const [found] = island().named('Tolvya');
      expect(found).to.include({ text: 'Tolvay, Vanesk', match: 'misspelt' });
      for (const [typed, meant] of [
        ['Plovr Lane', 'Plover Lane, Wick Orrin'],
        ['thrussh strete', 'Thrush Street, Nethery'],
      ])
        expect(names(typed!)[0]).to.equal(meant);
      expect(names('zzyzx')).to.deep.equal([]);
    });

    it('offers both of one name, the near first', () => {
      const [nethery, tolvay] = [
        { lat: 44.1937, lon: -33.638146 },
        { lat: 44.20315, lon: -33.581239 },
      ];
      expect(names('chapel well', nethery)).to.deep.equal(['Chapel Well, Nethery', 'Chapel Well, Tolvay']);
      expect(names('chapel well', tolvay)).to.deep.equal(['Chapel Well, Tolvay', 'Chapel Well, Nethery']);
      expect(names('chapel well nethery')).to.deep.equal(['Chapel Well, Nethery']);
      const [first] = island().named('chapel well', { near: tolvay });
      expect(first!.distance).to.be.closeTo(distance(tolvay, first!), 1e-6);
      expect(first!.bearing).to.be.closeTo(bearing(tolvay, first!), 1e-6);
    });

    it('ranks a name before a match in an address, and a locality before its streets', () => {
      expect(names('wick orrin')[0]).to.equal('Wick Orrin, Vanesk');
      expect(names('wick orrin').length).to.be.above(2);
    });

    it('refuses an empty text, and takes anything else for a text', () => {
      expect(() => island().named('  ')).to.throw('empty');
      fc.assert(
        fc.property(
          fc.string({ maxLength: 200 }).filter((text) => text.trim() !== ''),
          (text) => Array.isArray(island.call(undefined).named(text)),
        ),
        { numRuns: 30 },
      );
    });

    it('finds the misspelt as a table of all changes does', () => {
      const letters = fc.stringMatching(/^[abc]{0,7}$/);
      fc.assert(
        fc.property(
          fc.uniqueArray(letters, { maxLength: 60 }),
          fc.stringMatching(/^[abc]{1,7}$/),
          fc.integer({ min: 1, max: 2 }),
          (vocabulary, word, max) => {
            const sorted = vocabulary.toSorted();
            const found = new Map<number, number>();
            for (const { from, to, slips } of misspelt(sorted, word, max))
              for (let i = from; i < to; i++) found.set(i, slips);
            sorted.forEach((candidate, i) => {
              const min = Math.min(
                ...Array.from({ length: candidate.length + 1 }, (_, n) =>
                  changes(candidate.slice(0, n), word),
                ),
              );
              expect(found.get(i), `${candidate} for ${word}`).to.equal(min <= max ? min : undefined);
            });
          },
        ),
        { numRuns: 500 },
      );
    });
  });

  describe('in other languages', () => {
    it('returns names in the first available language, and marks the parts that fall back', () => {
      const at = { lat: 44.186692, lon: -33.608182 };
      const gazetteer = island();
      const [house8] = gazetteer.at(at, { language: 'art-x-vanesk' });
      expect(house8).to.include({ text: '8 Lova Tivik, Vik Orrenn', language: 'art-x-vanesk' });
      expect(house8).not.to.have.property('fallback');
      const [shop] = gazetteer.named('orrin stores', { language: ['sv', 'art-x-vanesk'] });
      expect(shop!.text).to.equal('Orrin Stores, 5 Lova Tivik, Vik Orrenn');
      expect(shop!.fallback).to.deep.equal(['name']);
      expect(gazetteer.at(at, { language: 'sv' })[0]!.fallback).to.deep.equal([
        'street',
        'locality',
        'region',
      ]);
      expect(gazetteer.at(at, { language: 'en-GB' })[0]).not.to.have.property('fallback');
    });
  });
});

describe('an address', () => {
  const full = {
    houseNumber: '14',
    street: 'Plover Lane',
    locality: 'Wick Orrin',
    region: 'Vanesk',
    postalCode: 'VK 10',
    country: 'Vaneland',
  };

  it('is in the order of its country', () => {
    expect(addressText(full)).to.equal('14 Plover Lane, Wick Orrin, Vanesk VK 10, Vaneland');
    expect(addressLines(full, 'DE')).to.deep.equal([
      'Plover Lane 14',
      'VK 10 Wick Orrin',
      'Vanesk',
      'Vaneland',
    ]);
    expect(addressLines(full, 'US')).to.deep.equal([
      '14 Plover Lane',
      'Wick Orrin, Vanesk VK 10',
      'Vaneland',
    ]);
    expect(addressLines({ ...full, country: 'IT' })[0]).to.equal('Plover Lane, 14');
    expect(addressLines(full, 'HU')[0]).to.equal('Wick Orrin');
    expect(() => addressLines(full, 'de')).to.throw('did you mean "DE"?');
  });

  it('has no hole where a part is missing, in any order', () => {
    const part = fc.option(fc.constantFrom('14', 'Plover Lane', 'Wick', '  ', ''), { nil: undefined });
    const parts = fc.record({
      houseNumber: part,
      street: part,
      locality: part,
      region: part,
      postalCode: part,
      country: part,
    });
    fc.assert(
      fc.property(parts, fc.constantFrom(...ADDRESS_PATTERNS), (address, pattern) => {
        const text = addressText(address as never, pattern);
        expect(text).not.to.match(/null|undefined| {2}|^[ ,-]|[ ,-]$|, ,|,,/);
        for (const line of addressLines(address as never, pattern))
          expect(line.trim()).to.equal(line).and.not.equal('');
        const words = (all: string) =>
          all
            .split(/[ ,]+/)
            .filter((word) => /\w/.test(word))
            .sort();
        expect(words(text)).to.deep.equal(
          words(
            Object.values(address)
              .filter((each) => each !== undefined)
              .join(' '),
          ),
        );
      }),
    );
  });
});

describe('places in GeoJSON', () => {
  const feature = (geometry: unknown, properties: unknown = { name: 'Low Hut', kind: 'hut' }) => ({
    type: 'FeatureCollection',
    features: [
      { type: 'Feature', geometry, properties },
      {
        type: 'Feature',
        geometry: { type: 'Point', coordinates: [-33.6, 44.2] },
        properties: { name: 'Kept' },
      },
    ],
  });
  const point = { type: 'Point', coordinates: [-33.6, 44.2] };

  for (const [what, document, message] of [
    ['no geometry', feature(null), 'features.0.geometry: "Low Hut" has no geometry'],
    [
      'no name and no address',
      feature(point, { kind: 'hut' }),
      'features.0.properties: the feature has neither a name nor a part of an address',
    ],
    [
      'an impossible position',
      feature({ type: 'Point', coordinates: [44.2, 133] }),
      'features.0.geometry.coordinates: latitude 133 is outside',
    ],
    ['swapped coordinates', feature({ type: 'Point', coordinates: [44.2, -133.6] }), 'swapped?'],
    [
      'several points',
      feature({ type: 'MultiPoint', coordinates: [] }),
      '"Low Hut" is a MultiPoint; a place is a point, a line or an area',
    ],
    ['a line of nothing', feature({ type: 'LineString', coordinates: [] }), '"Low Hut" is an empty line'],
    [
      'names that are none',
      feature(point, { name: 'Low Hut', names: ['Vik'] }),
      'features.0.properties.names: names must be texts by language tag',
    ],
    ['a geometry of no kind', feature({ type: 'Blob' }), 'features.0'],
    [
      'no feature at all',
      { type: 'FeatureCollection', features: [7, feature(point).features[1]] },
      'features.0',
    ],
  ] as const) {
    it(`skips ${what}, reports it in one line, and keeps the rest`, () => {
      const { places, refused } = placesFrom(document);
      expect(places.map(({ name }) => name)).to.deep.equal(['Kept']);
      expect(refused).to.have.length(1);
      expect(refused[0]!.message).to.include(message).and.not.include('\n');
    });
  }

  it('refuses invalid GeoJSON, and a place that cannot be indexed, by its number', () => {
    expect(() => placesFrom({ features: [] })).to.throw('not GeoJSON');
    expect(
      () =>
        new Gazetteer([
          { kind: 'hut', name: 'A', ...origin },
          { kind: 'hut', name: 'B', lat: 44, lon: 200 },
        ]),
    ).to.throw('places.1: longitude 200');
    expect(() => new Gazetteer([{ kind: 'hut', name: 'A', prominence: -1, ...origin }])).to.throw(
      'prominence must be',
    );
  });

  it('carries whole answers: the decoded one equals the original', () => {
    const answers = island().at({ lat: 44.186692, lon: -33.608182 });
    expect(answersFrom(JSON.parse(JSON.stringify(answersToGeoJson(answers))))).to.deep.equal(answers);
    expect(answersToGeoJson(answers)).to.deep.include({ type: 'FeatureCollection' });
    expect(() =>
      answersFrom({
        type: 'FeatureCollection',
        features: [{ type: 'Feature', geometry: null, properties: {} }],
      }),
    ).to.throw('an answer is a Point');
  });
});

describe('a place in an app’s own record', () => {
  const fix = fixFrom({
    time: Date.UTC(2026, 4, 14, 8),
    lat: 44.186692,
    lon: -33.608182,
    accuracy: 6,
    origin: 'satellite',
  });

  it('has numbers, accuracy, time and address, and comes back equal', () => {
    const record = placeRecord(fix, island().at(fix)[0]);
    expect(record).to.deep.include({
      lat: fix.lat,
      lon: fix.lon,
      accuracy: 6,
      time: fix.time,
      text: '8 Plover Lane, Wick Orrin',
      language: 'en',
    });
    expect(record.address).to.deep.equal({
      houseNumber: '8',
      street: 'Plover Lane',
      locality: 'Wick Orrin',
      region: 'Vanesk',
      postalCode: 'VK 10',
    });
    expect(placeRecordFrom(JSON.parse(JSON.stringify(record)))).to.deep.equal(record);
    expect(placeRecordFrom(JSON.parse(JSON.stringify(placeRecord(fix))))).to.deep.equal(placeRecord(fix));
  });

  it('is absent in a record that was saved without a fix, and the saving succeeds', () => {
    const entry = { seen: 'Clouded Yellow', place: undefined };
    expect(JSON.parse(JSON.stringify(entry))).to.deep.equal({ seen: 'Clouded Yellow' });
  });

  it('is refused when it was damaged, with the key', () => {
    const damaged = (more: object) => () => placeRecordFrom({ ...placeRecord(fix), ...more });
    expect(damaged({ lat: '44' })).to.throw('lat: this is not a place record: expected number, got "44"');
    expect(damaged({ lat: 120 })).to.throw('outside');
    expect(damaged({ origin: 'guess' })).to.throw('origin');
    expect(() => placeRecordFrom(undefined)).to.throw('this is not a place record');
  });
});

describe('a typed position', () => {
  for (const [text, lat, lon] of [
    ['44.2031, -33.5812', 44.2031, -33.5812],
    ['44.2031 -33.5812', 44.2031, -33.5812],
    ['44,2031; \u221233,5812', 44.2031, -33.5812],
    ['44.2031° N, 33.5812° W', 44.2031, -33.5812],
    ['W 33.5812 N 44.2031', 44.2031, -33.5812],
    ['44°12′11.16″N 33°34′52.32″W', 44.2031, -33.5812],
    [`44° 12.186' N, 33° 34.872' W`, 44.2031, -33.5812],
    ['geo:44.2031,-33.5812', 44.2031, -33.5812],
    ['geo:44.2031,-33.5812,12;u=35', 44.2031, -33.5812],
    ['0, 0', 0, 0],
  ] as const) {
    it(`is read from ${text}`, () => {
      const read = readPosition(text)!;
      expect(read.lat).to.be.closeTo(lat, 1e-9);
      expect(read.lon).to.be.closeTo(lon, 1e-9);
    });
  }

  it('is not seen in a name or an address, and refused when it is nowhere on earth', () => {
    for (const text of ['14 Plover Lane', 'Wick', '12 14', '44.2', '', '44°72′ 33°', 'N 44 N'])
      expect(readPosition(text), text).to.equal(undefined);
    expect(() => readPosition('120, 44')).to.throw('swapped?');
    expect(() => readPosition('44 N 33 N')).to.throw('two latitudes');
  });

  it('is a fix of origin manual, for whatever takes a fix', () => {
    const time = Date.UTC(2026, 4, 14);
    expect(manualFix('44.2, -33.6', time)).to.deep.equal({ time, lat: 44.2, lon: -33.6, origin: 'manual' });
    expect(manualFix({ lat: 44.2, lon: -33.6, accuracy: 50 }, time)).to.include({
      accuracy: 50,
      origin: 'manual',
    });
    expect(() => manualFix('Wick Orrin', time)).to.throw('Write it like 44.2031, -33.5812.');
  });
});

describe('a rounded position', () => {
  it('is the same for all of its cell, within the accuracy it states, and stays when rounded again', () => {
    fc.assert(
      fc.property(anywhere, fc.double({ min: 1, max: 1e6, noNaN: true }), (at, metres) => {
        const coarse = rounded(at, metres);
        const { s12 } = Geodesic.WGS84.Inverse(at.lat, at.lon, coarse.lat, coarse.lon) as { s12: number };
        expect(s12).to.be.at.most(coarse.accuracy + 0.001);
        const again = rounded(coarse, metres);
        expect(distance(again, coarse)).to.be.below(1e-6);
        if (Math.abs(at.lat) < 80) expect(coarse.accuracy).to.be.below(Math.max(1.02 * metres, 2));
      }),
    );
  });

  it(
    'hides the question: positions a few metres apart give one answer, and the cells are ' +
      'no smaller than asked',
    () => {
      const cells = new Set(
        Array.from({ length: 400 }, (_, i) =>
          JSON.stringify(rounded(ahead(ahead(origin, 90, (i % 20) * 50), 0, Math.floor(i / 20) * 50), 500)),
        ),
      );
      expect(cells.size).to.be.within(4, 9); // 950 by 950 m touch two or three cells of 500 m each way
      expect(() => rounded(origin, 0)).to.throw('1 to 1000000 metres');
    },
  );
});

/** Optimal string alignment by definition, without optimization. */
function changes(a: string, b: string): number {
  const known = new Map<string, number>();
  const of = (i: number, j: number): number => {
    if (i === 0 || j === 0) return i + j;
    const key = `${i},${j}`;
    const before = known.get(key);
    if (before !== undefined) return before;
    let min = Math.min(
      of(i - 1, j) + 1,
      of(i, j - 1) + 1,
      of(i - 1, j - 1) + (a[i - 1] === b[j - 1] ? 0 : 1),
    );
    if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1])
      min = Math.min(min, of(i - 2, j - 2) + 1);
    known.set(key, min);
    return min;
  };
  return of(a.length, b.length);
}
