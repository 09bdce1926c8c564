import {
  NO_FIX_KINDS,
  NoFixError,
  REMEDY_IDS,
  accuracyText,
  ageText,
  courseText,
  durationText,
  fixFrom,
  lengthText,
  positionPair,
  positionText,
  speedText,
  type RawFix,
} from 'aurelian-drift';
import { expect } from 'chai';

const time = Date.UTC(2026, 4, 14, 8);
const here = { time, lat: 44.2, lon: -33.6 };

describe('a fix at the border', () => {
  it('keeps the known fields and leaves out unknown ones: no zero, no −1, no null', () => {
    const raw = { ...here, accuracy: 7.4, altitude: null, speed: undefined, course: NaN };
    expect(fixFrom(raw)).to.deep.equal({ ...here, accuracy: 7.4, origin: 'unknown' });
  });

  it('takes the genuine place 0, 0 and a genuine speed of 0', () => {
    const fix = fixFrom({ time, lat: 0, lon: 0, speed: 0, accuracy: 5 });
    expect(fix).to.include({ lat: 0, lon: 0, speed: 0 });
  });

  it('has no course at standstill, and writes 360 as 0', () => {
    expect(fixFrom({ ...here, speed: 0, course: 80 })).not.to.have.property('course');
    expect(fixFrom({ ...here, speed: 1, course: 360 }).course).to.equal(0);
  });

  it('states a datum only beside an altitude', () => {
    expect(fixFrom({ ...here, altitudeDatum: 'sea' })).not.to.have.property('altitudeDatum');
    expect(fixFrom({ ...here, altitude: 12, altitudeDatum: 'sea' })).to.include({
      altitude: 12,
      altitudeDatum: 'sea',
    });
  });

  const wrong: [string, Partial<Record<keyof RawFix | 'acuracy', unknown>>, string][] = [
    [
      'swapped coordinates',
      { lat: 133.6, lon: 44.2 },
      'latitude 133.6 is outside −90…90; latitude and longitude swapped?',
    ],
    ['a longitude out of range', { lon: 200 }, 'longitude 200 is outside −180…180'],
    ['NaN', { lat: NaN }, 'latitude must be a number, got NaN'],
    ['a negative accuracy', { accuracy: -1 }, 'accuracy must be 0…1000000000, got -1'],
    ['a time in seconds', { time: time / 1000 }, 'was it in seconds?'],
    ['a misspelt field', { acuracy: 5 }, 'a fix has no "acuracy", did you mean "accuracy"?'],
    ['text for a number', { speed: '5' }, 'speed must be a number, got "5"'],
    ['a course beyond the circle', { course: 361 }, 'course must be 0…360, got 361'],
    [
      'an unknown origin',
      { origin: 'satelite' },
      'origin "satelite" is not known, did you mean "satellite"?',
    ],
  ];
  for (const [name, change, message] of wrong) {
    it(`refuses ${name}`, () => {
      expect(() => fixFrom({ ...here, ...change } as RawFix)).to.throw(message);
    });
  }
});

describe('a failure', () => {
  it('of every kind has a text for the user, one for the developer, and a remedy', () => {
    for (const kind of NO_FIX_KINDS) {
      const error = new NoFixError(kind, { cause: 'the platform' });
      expect(error.userText, kind).to.match(/^[A-Z].{15,}\.$/);
      expect(error.message, kind).to.match(new RegExp(`^${kind}: .{20,}`));
      expect(error.remedy.text, kind).to.match(/^[A-Z].{15,}\.$/);
      expect(REMEDY_IDS).to.include(error.remedy.id);
      expect(error.cause).to.equal('the platform');
    }
    expect(new Set(NO_FIX_KINDS.map((kind) => new NoFixError(kind).userText)).size).to.equal(
      NO_FIX_KINDS.length,
    );
  });

  it('that the user chose is neutral', () => {
    expect(NO_FIX_KINDS.filter((kind) => new NoFixError(kind).neutral)).to.deep.equal(['declined']);
  });
});

describe('words and numbers', () => {
  it('writes positions with the decimals chosen, rounded and not cut, and never −0', () => {
    expect(positionText({ lat: 44.19999999, lon: -33.6 })).to.equal('44.20000° N, 33.60000° W');
    expect(positionText({ lat: -0.00004, lon: 0.00004 }, { decimals: 4, hemispheres: 'sign' })).to.equal(
      '0.0000, 0.0000',
    );
    expect(positionText({ lat: -0.00004, lon: 0 }, { decimals: 4 })).to.equal('0.0000° N, 0.0000° E');
    expect(positionText({ lat: 1.005, lon: -1.005 }, { decimals: 2, hemispheres: 'sign' })).to.equal(
      '1.01, -1.01',
    );
  });

  it('matches decimals to the accuracy', () => {
    const auto = (accuracy: number) =>
      positionText({ lat: 44.212345, lon: 0 }, { decimals: 'auto', accuracy }).split('°')[0];
    expect([auto(1000), auto(100), auto(10), auto(1)]).to.deep.equal([
      '44.21',
      '44.212',
      '44.2123',
      '44.21235',
    ]);
  });

  it('writes the machine form with dots and no blank', () => {
    expect(positionPair({ lat: 44.2, lon: -33.6 })).to.equal('44.200000,-33.600000');
  });

  it('writes accuracy, length, speed, course and age as people do', () => {
    expect([accuracyText(7.4), accuracyText(1500), accuracyText(undefined)]).to.deep.equal([
      '±7 m',
      '±1.50 km',
      '',
    ]);
    expect([lengthText(999.4), lengthText(999.6), lengthText(12_345), lengthText(123_456)]).to.deep.equal([
      '999 m',
      '1.00 km',
      '12.3 km',
      '123 km',
    ]);
    expect(speedText(5)).to.equal('18.0 km/h');
    expect([courseText(236), courseText(359.9), courseText(348.7)]).to.deep.equal([
      '236° SW',
      '0° N',
      '349° NNW',
    ]);
    expect([ageText(65), ageText(0.4), ageText(3600), ageText(-3)]).to.deep.equal([
      '1 min 5 s ago',
      'now',
      '1 h ago',
      'now',
    ]);
    expect([durationText(59.6), durationText(90_000)]).to.deep.equal(['1 min', '1 d 1 h']);
  });
});
