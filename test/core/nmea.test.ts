import { readNmea } from 'aurelian-drift';
import { expect } from 'chai';

/** A sentence with its checksum, computed here: exclusive or of the characters. */
function sentence(body: string): string {
  const sum = Buffer.from(body, 'latin1').reduce((all, byte) => all ^ byte, 0);
  return `$${body}*${sum.toString(16).toUpperCase().padStart(2, '0')}`;
}
const read = (...lines: string[]) => readNmea(`${lines.join('\r\n')}\r\n`);
const PLACE = '4412.3456,N,03336.7890,W';
const lat = 44 + 12.3456 / 60;
const lon = -(33 + 36.789 / 60);

describe('NMEA 0183', () => {
  it('has the sentences of one time, of any talker, merged into one fix', () => {
    const { trails, notes } = read(
      sentence(`GNRMC,080000.50,A,${PLACE},10.0,84.4,140526,,,A`),
      sentence(`GNGGA,080000.50,${PLACE},1,12,0.7,13.2,M,48.0,M,,`),
      sentence('GNGST,080000.50,1.5,2.0,1.5,20.0,3.0,4.0,5.0'),
      sentence('GPGSA,A,3,04,05,,09,12,,,24,,,,,2.5,1.3,2.1'),
      sentence('PXYZ,1,2,3'),
      '!AIVDM,1,1,,A,14eG;o@034o8sd<L9i:a;WF>062D,0*7D',
    );
    expect(notes).to.deep.equal([]);
    expect([...trails[0]!]).to.deep.equal([
      {
        time: Date.UTC(2026, 4, 14, 8, 0, 0, 500),
        lat,
        lon,
        speed: 10 * (1852 / 3600),
        course: 84.4,
        altitude: 13.2,
        altitudeDatum: 'sea',
        // Standard deviations of 3 and 4 m: √12.5 for each axis, times 2.4477 for 95 %; 1.96 × 5 m.
        accuracy: trails[0]!.at(0)!.accuracy,
        altitudeAccuracy: trails[0]!.at(0)!.altitudeAccuracy,
        origin: 'satellite',
      },
    ]);
    expect(trails[0]!.at(0)!.accuracy).to.be.closeTo(8.654, 0.001);
    expect(trails[0]!.at(0)!.altitudeAccuracy).to.be.closeTo(5 * 1.97087, 0.01);
  });

  it('takes date and speed from where they stand: ZDA, VTG, GLL, GNS', () => {
    const { trails } = read(
      sentence('GPZDA,235959.00,31,12,2025,00,00'),
      sentence(`GLGLL,${PLACE},235959.00,A,A`),
      sentence('GPVTG,90.0,T,,M,,N,18.0,K,A'),
      sentence(`GNGNS,000001.00,${PLACE},AN,08,1.2,7.5,48.0,,`),
    );
    const [first, second] = [...trails[0]!];
    expect(first).to.include({ time: Date.UTC(2025, 11, 31, 23, 59, 59), course: 90, speed: 5 });
    // Midnight passes without a sentence that has the date.
    expect(second).to.include({ time: Date.UTC(2026, 0, 1, 0, 0, 1), altitude: 7.5, origin: 'satellite' });
  });

  it('dates sentences before the first date back, over midnight', () => {
    const gga = (clock: string) => sentence(`GPGGA,${clock},${PLACE},1,08,1.0,1.0,M,,M,,`);
    const { trails } = read(
      gga('235958'),
      gga('235959'),
      gga('000000'),
      sentence(`GPRMC,000001,A,${PLACE},,,150526,,`),
    );
    const midnight = Date.UTC(2026, 4, 15);
    expect(Array.from(trails[0]!, ({ time }) => (time - midnight) / 1000)).to.deep.equal([-2, -1, 0, 1]);
  });

  it('ends a segment where the receiver has no fix, and ignores the positions it still ' + 'repeats', () => {
    const rmc = (clock: string, status: string) => sentence(`GPRMC,${clock},${status},${PLACE},,,140526,,`);
    const { trails } = read(
      sentence('GPRMC,,V,,,,,,,,,,N'),
      rmc('080000', 'A'),
      rmc('080001', 'V'),
      sentence(`GPGGA,080002,${PLACE},0,00,,,M,,M,,`),
      rmc('080003', 'A'),
      rmc('080004', 'A'),
    );
    expect(trails[0]!.segments).to.deep.equal([
      { start: 0, end: 1 },
      { start: 1, end: 3 },
    ]);
    // A system without a fix takes nothing from the other one.
    const both = read(rmc('080000', 'A'), sentence(`GLGLL,${PLACE},080000,V,N`));
    expect(both.trails[0]!.length).to.equal(1);
  });

  it('without any date is a line, for no day can be made up', () => {
    const { trails, lines, notes } = read(
      sentence(`GPGGA,080000,${PLACE},1,08,1.0,5.0,M,,M,,`),
      sentence(`GPGLL,${PLACE},080001,A`),
    );
    expect(trails).to.deep.equal([]);
    expect(lines).to.deep.equal([
      {
        parts: [
          [
            { lat, lon, altitude: 5 },
            { lat, lon },
          ],
        ],
      },
    ]);
    expect(notes).to.deep.equal([
      { line: 1, text: 'no sentence has the date (RMC or ZDA), so its points are a line' },
    ]);
  });

  it('has bad lines counted and named, and the rest kept', () => {
    const good = (clock: string) => sentence(`GPRMC,${clock},A,${PLACE},1.0,90.0,140526,,`);
    const { trails, notes } = read(
      good('080000'),
      good('080001').replace('1.0,90', '1.0,91'),
      good('080002').slice(0, 40),
      'garbage \u0007 of a cable',
      sentence('GPRMC,080004,A,9912.3456,N,03336.7890,W,1.0,90.0,140526,,'),
      `$${'A'.repeat(300)}`,
      good('080005'),
    );
    expect(trails[0]!.length).to.equal(2);
    expect(
      notes.map(({ line, text }) => `${line}: ${text.replace(/[0-9A-F]{2}, and it says [0-9A-F]{2}/, 'xx')}`),
    ).to.deep.equal([
      '2: the checksum of GPRMC is xx; left out',
      '3: a sentence without its checksum, unlike those before; left out',
      '4: a line without a sentence left out',
      '6: a sentence of 300 characters; left out',
      '5: latitude 99.20576 is outside −90…90; latitude and longitude swapped?; left out',
    ]);
    expect(() =>
      readNmea(`${good('080000').slice(0, -2)}00\n`, { source: 'boat.nmea', strict: true }),
    ).to.throw('boat.nmea:1: the checksum of GPRMC is');
  });

  it('of an old receiver has no checksums at all, and is read', () => {
    const { trails, notes } = readNmea(`$GPRMC,080000,A,${PLACE},1.0,90.0,140526,,\n`);
    expect([trails[0]!.length, notes]).to.deep.equal([1, []]);
  });
});
