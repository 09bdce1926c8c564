import {
  ABSENT,
  Formatter,
  ageText,
  courseText,
  durationText,
  lengthText,
  writeGeoUri,
  readGeoUri,
  positionPair,
  positionText,
  speedText,
  readPosition,
  type InputError,
} from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';

const hut = { lat: 44.2031, lon: -33.58125 };
const plain = (options: object = {}) => new Formatter({ locale: 'en-GB', timeZone: 'UTC', ...options });

describe('a formatter', () => {
  it('writes every position with the same decimals, rounded and not cut, zeros included', () => {
    expect(plain().position(hut)).to.equal('44.20310° N, 33.58125° W');
    expect(plain({ decimals: 3 }).position({ lat: 1.0005, lon: 2 })).to.equal('1.001° N, 2.000° E');
    expect(plain({ decimals: 'auto' }).position(hut, 1000)).to.equal('44.20° N, 33.58° W');
    expect(plain({ decimals: 'auto' }).position(hut, 3)).to.equal('44.20310° N, 33.58125° W');
  });

  it('writes two lines with their labels', () => {
    expect(plain().lines(hut, ['Latitude', 'Longitude'])).to.equal(
      'Latitude 44.20310° N\nLongitude 33.58125° W',
    );
  });

  it('never writes a minus before zeros', () => {
    expect(plain({ decimals: 4, hemispheres: 'sign' }).position({ lat: -0.00004, lon: -0.00006 })).to.equal(
      '0.0000°, −0.0001°',
    );
    expect(plain({ decimals: 4 }).position({ lat: -0.00004, lon: -0.00006 })).to.equal(
      '0.0000° N, 0.0001° W',
    );
  });

  it('writes degrees and minutes, and seconds, and never 60 of them', () => {
    expect(plain({ angles: 'seconds' }).position(hut)).to.equal('44° 12′ 11.2″ N, 33° 34′ 52.5″ W');
    expect(plain({ angles: 'minutes' }).position(hut)).to.equal('44° 12.186′ N, 33° 34.875′ W');
    expect(plain({ angles: 'seconds' }).angles({ lat: 9.9999999, lon: 0 })[0]).to.equal('10° 00′ 00.0″ N');
    expect(plain({ angles: 'seconds', decimals: 3 }).angles({ lat: 9.25, lon: 0 })[0]).to.equal(
      '9° 15′ 00″ N',
    );
  });

  it('writes text that reads back as the same position', () => {
    const angles = fc.constantFrom('degrees', 'minutes', 'seconds');
    const lat = fc.double({ min: -90, max: 90, noNaN: true });
    const lon = fc.double({ min: -180, max: 180, noNaN: true });
    fc.assert(
      fc.property(lat, lon, angles, fc.constantFrom('en', 'de', 'fr', 'sv'), (a, o, style, locale) => {
        const text = new Formatter({ angles: style, decimals: 7, locale }).position({ lat: a, lon: o });
        const again = readPosition(text.replaceAll('\u202F', ''));
        expect(again, text).not.to.equal(undefined);
        expect(again!.lat).to.be.closeTo(a, 1.5e-7);
        expect(again!.lon).to.be.closeTo(o, 1.5e-7);
      }),
    );
  });

  it('writes lengths, speeds and pace in three systems of units', () => {
    // 1 mi = 1609.344 m, 1 ft = 0.3048 m, 1 nmi = 1852 m, by definition.
    const written = (units: string) => {
      const words = plain({ units });
      return [
        words.length(300),
        words.length(1609.344),
        words.length(18_520),
        words.speed(5),
        words.pace(2.5),
        words.altitude(412),
        words.accuracy(7.4),
      ];
    };
    expect(written('metric')).to.deep.equal([
      '300 m',
      '1.61 km',
      '18.5 km',
      '18.0 km/h',
      '6:40 min/km',
      '412 m',
      '±7 m',
    ]);
    expect(written('imperial')).to.deep.equal([
      '984 ft',
      '1.00 mi',
      '11.5 mi',
      '11.2 mph',
      '10:44 min/mi',
      '1,352 ft',
      '±24 ft',
    ]);
    expect(written('nautical')).to.deep.equal([
      '300 m',
      '0.87 nmi',
      '10.0 nmi',
      '9.7 kn',
      '12:21 min/nmi',
      '412 m',
      '±7 m',
    ]);
    expect([plain().length(999.4), plain().length(999.6), plain().length(0), plain().pace(0)]).to.deep.equal([
      '999 m',
      '1.00 km',
      '0 m',
      '– min/km',
    ]);
    expect(plain().accuracy(undefined)).to.equal('');
  });

  it('writes in the given locale; a pair for machines has points in any locale', () => {
    const words = new Formatter({ locale: 'de', timeZone: 'UTC' });
    expect(words.position(hut)).to.equal('44,20310° N; 33,58125° W');
    expect([words.length(1320), words.speed(5)]).to.deep.equal(['1,32 km', '18,0 km/h']);
    expect(words.date(Date.UTC(2026, 4, 14))).to.equal('14. Mai 2026');
    expect(positionPair(hut, 5)).to.equal('44.20310,-33.58125');
  });

  it('writes times with their zone, and ages', () => {
    const time = Date.UTC(2026, 4, 14, 22, 30, 5);
    expect(plain().time(time)).to.equal('14 May 2026, 22:30:05 UTC');
    const east = plain({ timeZone: 'Etc/GMT-3' });
    expect(east.time(time)).to.equal('15 May 2026, 01:30:05 GMT+3');
    expect([east.date(time), east.clock(time)]).to.deep.equal(['15 May 2026', '01:30:05']);
    expect([plain().age(65), plain().age(0.2), plain().duration(3845)]).to.deep.equal([
      '1 min 5 s ago',
      'now',
      '1 h 4 min',
    ]);
    expect(new Formatter({ locale: 'fr' }).age(7300)).to.match(/^il y a 2\sh$/);
  });

  it('writes a course with its compass point', () => {
    expect([0, 11.2, 11.3, 236, 359.6].map((course) => plain().course(course))).to.deep.equal([
      '0° N',
      '11° N',
      '11° NNE',
      '236° SW',
      '0° N',
    ]);
  });

  it('refuses a text in place of a number, and invalid options', () => {
    const calls: [() => unknown, string][] = [
      [() => plain().length('5' as unknown as number), 'the length must be a number, got "5"'],
      [() => plain().speed(NaN), 'the speed must be a number, got NaN'],
      [() => plain({ unit: 'metric' }), 'Formatter has no option "unit", did you mean "units"?'],
      [() => plain({ units: 'imperail' }), 'did you mean "imperial"?'],
      [() => plain({ decimals: 12 }), 'decimals must be a whole number of 0 to 9, or "auto", got 12'],
      [() => plain({ locale: 'not a tag' }), '"not a tag" is not a language tag, like en or de-AT'],
      [() => plain({ timeZone: 'Nowhere/Land' }), '"Nowhere/Land" is not a time zone'],
    ];
    for (const [call, text] of calls) expect(call).to.throw(text);
  });
});

describe('a geo URI', () => {
  it('is written and read as RFC 5870 has it', () => {
    expect(writeGeoUri({ ...hut, accuracy: 7 })).to.equal('geo:44.2031,-33.58125;u=7');
    expect(writeGeoUri({ lat: 1e-7, lon: 180, altitude: -0 })).to.equal('geo:0.0000001,-180,0');
    expect(writeGeoUri({ lat: -90, lon: 33 })).to.equal('geo:-90,0');
    // The examples of the standard's own sections 6.1 and 6.3.
    expect(readGeoUri('geo:13.4125,103.8667')).to.deep.equal({ lat: 13.4125, lon: 103.8667 });
    expect(readGeoUri('geo:48.2010,16.3695,183')).to.deep.equal({ lat: 48.201, lon: 16.3695, altitude: 183 });
    expect(readGeoUri('GEO:48.198634,16.371648;CRS=wgs84;u=40')).to.deep.equal({
      lat: 48.198634,
      lon: 16.371648,
      accuracy: 40,
    });
    expect(readGeoUri('geo:66,30;u=6.500;FOo=this%2dthat')).to.deep.equal({
      lat: 66,
      lon: 30,
      accuracy: 6.5,
    });
    for (const text of ['geo:44', 'geo:44,x', 'geo:4e1,5', 'gps:1,2', ''])
      expect(readGeoUri(text), text).to.equal(undefined);
  });

  it('reads back its own text, and refuses another system and another earth', () => {
    const number = (max: number) => fc.double({ min: -max, max, noNaN: true }).map((value) => value + 0);
    fc.assert(
      fc.property(number(89.9), number(179.9), (lat, lon) => {
        expect(readGeoUri(writeGeoUri({ lat, lon }))).to.deep.equal({ lat, lon });
      }),
    );
    expect(() => readGeoUri('geo:1,2;crs=moon')).to.throw('the geo URI is in "moon"; only wgs84 is known');
    expect(() => readGeoUri('geo:120,44')).to.throw('latitude 120 is outside');
    try {
      writeGeoUri({ lat: 44, lon: 200 });
      expect.fail('it was taken');
    } catch (error) {
      expect((error as InputError).kind).to.equal('impossible-position');
    }
  });
});

describe('an absent value', () => {
  it('is one dash in every text, and never a zero or NaN', () => {
    for (const nothing of [undefined, null, NaN])
      for (const text of [speedText, courseText, ageText, durationText, lengthText])
        expect(text(nothing), text.name).to.equal(ABSENT);
    expect([positionText(undefined), positionPair(undefined)]).to.deep.equal(['–', '–']);
    const words = plain();
    for (const name of [
      'length',
      'altitude',
      'speed',
      'pace',
      'course',
      'time',
      'date',
      'clock',
      'duration',
      'age',
    ] as const)
      for (const nothing of [undefined, null]) expect(words[name](nothing), name).to.equal(ABSENT);
    expect([words.position(undefined), words.lines(undefined, ['Lat', 'Lon'])]).to.deep.equal([
      '–',
      'Lat –\nLon –',
    ]);
    expect([
      words.accuracy(undefined),
      speedText(0),
      courseText(0),
      ageText(0),
      durationText(0),
      lengthText(0),
    ]).to.deep.equal(['', '0.0 km/h', '0° N', 'now', '0 s', '0 m']);
    expect(() => words.speed(NaN)).to.throw('the speed must be a number');
  });

  it('of a size that the decimals do not show is a plain zero, without a minus', () => {
    const tiny = { lat: -1e-7, lon: -4.9e-5 };
    expect(positionText(tiny, { decimals: 4, hemispheres: 'sign' })).to.equal('0.0000, 0.0000');
    expect(positionPair(tiny, 4)).to.equal('0.0000,0.0000');
    expect(positionPair({ lat: -1e-300, lon: 5e-5 }, 4)).to.equal('0.0000,0.0001');
    fc.assert(
      fc.property(
        fc.double({ min: -180, max: 180, noNaN: true }),
        fc.integer({ min: 0, max: 9 }),
        (degrees, decimals) => {
          const text = positionPair({ lat: degrees, lon: degrees }, decimals).split(',')[0]!;
          expect(text).not.to.match(/^-[0.]*$/);
          expect(Number(text)).to.be.closeTo(degrees, 0.50001 * 10 ** -decimals);
        },
      ),
    );
  });
});
