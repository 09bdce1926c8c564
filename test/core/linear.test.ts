import {
  InputError,
  Trail,
  fencesFrom,
  fixFrom,
  readGeoUri,
  readCsv,
  readGpx,
  readKml,
  readNmea,
  readPosition,
  type Fix,
} from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { withLate } from '../../packages/aurelian-drift/src/core/trail/with-late.js';

const blanks = (count: number) => ' '.repeat(count);
const kml = (coordinates: string) =>
  '<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><LineString>' +
  `<coordinates>${coordinates}</coordinates></LineString></Placemark></kml>`;
const gpx = (points: string) =>
  `<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" ` +
  `creator="x"><trk><trkseg>${points}</trkseg></trk></gpx>`;

/* Inputs that took minutes or hours when their reader was quadratic or worse; the time-out of the suite detects it. */
describe('a reader takes no longer than its input', () => {
  it('of a typed text, which may have so many characters and no more', () => {
    expect(readPosition(`1°1′${blanks(180)}.`)).to.equal(undefined);
    expect(readPosition(`44.2°${blanks(60)}N ${blanks(60)} 33.6°  W`)).to.deep.equal({
      lat: 44.2,
      lon: -33.6,
    });
    expect(() => readPosition(`1°1′${blanks(1000)}.`)).to.throw(
      InputError,
      'a typed position has at most 200 characters, got 1005',
    );
    expect(readPosition(`${'1°1′ '.repeat(39)}N`)).to.equal(undefined);
    expect(readGeoUri(`geo:1,2${';a=b'.repeat(100_000)}`)).to.include({ lat: 1, lon: 2 });
    expect(readGeoUri(`geo:1,2${';;'.repeat(300_000)}`)).to.equal(undefined);
  });

  it('of coordinates with blanks wherever they may stand, or with numbers without end', () => {
    const points = (text: string) => readKml(kml(text)).lines[0]!.parts[0]!.map(({ lat, lon }) => [lon, lat]);
    expect(points(`1,2${blanks(500_000)}3,4`)).to.deep.equal([
      [1, 2],
      [3, 4],
    ]);
    expect(points(`1${blanks(500_000)},${blanks(500_000)}2 3, 4 5 ,6`)).to.deep.equal([
      [1, 2],
      [3, 4],
      [5, 6],
    ]);
    expect(() => points(`${'1'.repeat(400_000)}x,2`)).to.throw(InputError, 'longitude must be a number');
    expect(points('1,2 '.repeat(200_000))).to.have.length(200_000);
  });

  it('of a table with a quote that never closes, in pieces of any size, and with titles without end', () => {
    const row = '2026-05-14T08:00:00Z,44.2,-33.6\n';
    expect(() => readCsv(`time,lat,lon\n"${row.repeat(40_000)}`)).to.throw(
      InputError,
      'is a quote not closed?',
    );
    expect([...readCsv(`time,lat,lon\n${row.repeat(3)}"${row.repeat(20_000)}`).trails[0]!]).to.have.length(3);
    for (const title of [`(${blanks(200_000)}x`, `a${blanks(200_000)}[`, '(['.repeat(100_000)])
      expect([...readCsv(`time,lat,lon,${title}\n${row}`).trails[0]!]).to.have.length(1);
  });

  it('of endless columns of others, one for many fixes', () => {
    const columns = Array.from(
      { length: 20_000 },
      (_, i) => `<SimpleArrayData name="{urn:example:quill}c${i}"/>`,
    ).join('');
    const fixes = Array.from(
      { length: 20_000 },
      (_, i) =>
        `<when>${new Date(Date.UTC(2026, 4, 14, 8, 0, i)).toISOString()}</when><coord>-33.6 44.2 0</coord>`,
    ).join('');
    const text =
      '<kml xmlns="http://www.opengis.net/kml/2.2"><Placemark><Track>' +
      `${fixes}<ExtendedData><SchemaData>${columns}</SchemaData></ExtendedData></Track></Placemark></kml>`;
    expect(readKml(text).trails[0]!.length).to.equal(20_000);
  });

  it('of fixes that all came late, the newest first', () => {
    const count = 60_000;
    const at = (i: number) => new Date(Date.UTC(2026, 4, 14) + (count - i) * 1000).toISOString();
    const marked = '<extensions><marks>late backwards</marks></extensions>';
    const points = Array.from(
      { length: count },
      (_, i) => `<trkpt lat="44.2" lon="-33.6"><time>${at(i)}</time>${i === 0 ? '' : marked}</trkpt>`,
    ).join('');
    const [trail] = readGpx(gpx(points)).trails as [Trail];
    expect(trail.length).to.equal(count);
    for (let i = 1; i < count; i++)
      if (!(trail.number(i, 'time') > trail.number(i - 1, 'time')))
        throw new Error(`fix ${i} is out of its place`);
  });

  it('of an outline of very many places, also with a spike or a repetition at every one', () => {
    const ring = (count: number, extra: (lon: number, lat: number) => number[][] = () => []) =>
      Array.from(
        { length: count },
        (_, i) =>
          [
            -33.6 + Math.cos((i / count) * 2 * Math.PI) / 10,
            44.2 + Math.sin((i / count) * 2 * Math.PI) / 10,
          ] as const,
      ).flatMap(([lon, lat]) => [[lon, lat], ...extra(lon, lat)]);
    const feature = (coordinates: number[][]) => ({
      type: 'Feature',
      id: 'a',
      properties: { name: 'A' },
      geometry: { type: 'Polygon', coordinates: [coordinates] },
    });
    for (const coordinates of [
      ring(100_000),
      ring(60_000, (lon, lat) => [[lon, lat]]),
      ring(40_000, (lon, lat) => [
        [lon + 1, lat + 1],
        [lon, lat],
      ]),
    ])
      expect(fencesFrom(feature(coordinates))).to.have.length(1);
    // Ten thousand teeth, side by side.
    const comb = Array.from({ length: 20_000 }, (_, i) => [-33.6 + i * 1e-6, i % 4 < 2 ? 44.2 : 44.3]);
    expect(fencesFrom(feature([...comb, [-33.5, 44.1], [-33.7, 44.1]]))).to.have.length(1);
  }).timeout(240_000);

  it('of sentences and lines without end', () => {
    expect(() => readNmea(`$GPRMC,${','.repeat(2_000_000)}\n`)).not.to.throw();
    expect(() => readNmea('$'.repeat(1_000_000))).not.to.throw();
  });
});

describe('data that other programs wrote at a point', () => {
  it('goes with its point: with one that came late to its place, and with one that is refused nowhere', () => {
    const point = (minute: number, name: string, more = '') =>
      `<trkpt lat="44.2" lon="-33.6"><time>2026-05-14T08:0${minute}:00Z</time><name>${name}</name>${more}</trkpt>`;
    const late = '<extensions><marks>late backwards</marks></extensions>';
    const never =
      '<trkpt lat="44.2" lon="-33.6"><time>1911-05-14T08:00:00Z</time><name>never</name><desc>never</desc></trkpt>';
    const { trails, notes } = readGpx(
      gpx(
        [point(0, 'first'), point(3, 'third'), never, point(1, 'second', late), point(4, 'fourth')].join(''),
      ),
    );
    const [trail] = trails as [Trail];
    const names = Array.from({ length: trail.length }, (_, i) =>
      Object.values(trail.extrasOf(i) ?? {}).join(),
    );
    expect(names).to.deep.equal(['first', 'second', 'third', 'fourth']);
    expect(notes.map(({ text }) => text).join()).to.include(
      'not milliseconds since 1970 of these days; left out',
    );
  });
});

describe('a trail', () => {
  const start = Date.UTC(2026, 4, 14, 8);
  const at = (seconds: number): Fix => fixFrom({ time: start + seconds * 1000, lat: 44.2, lon: -33.6 });

  it('that begins with a fix inserted by its time continues in the same segment', () => {
    const trail = new Trail();
    trail.insert(at(0));
    trail.append(at(1));
    expect(trail.segments).to.deep.equal([{ start: 0, end: 2 }]);
    trail.breakSegment();
    trail.insert(at(0.5));
    trail.append(at(2));
    expect(trail.segments).to.deep.equal([
      { start: 0, end: 3 },
      { start: 3, end: 4 },
    ]);
  });

  it('takes many late fixes at once as it takes one after the other', () => {
    const seconds = fc.integer({ min: 0, max: 400 });
    fc.assert(
      fc.property(
        fc.array(fc.array(seconds, { minLength: 1, maxLength: 8 }), { maxLength: 5 }),
        fc.array(seconds, { maxLength: 12 }),
        (parts, late) => {
          const [one, all] = [new Trail(), new Trail()];
          for (const part of parts) {
            for (const trail of [one, all]) {
              trail.breakSegment();
              for (const time of part.toSorted((a, b) => a - b)) trail.append(at(time));
            }
          }
          const fixes = late.map((time, i) => fixFrom({ ...at(time), accuracy: i }));
          for (const fix of fixes) one.insert(fix);
          const merged = withLate(
            all,
            fixes.map((fix) => ({ fix, extras: { '{urn:example:quill}n': String(fix.accuracy) } })),
          );
          expect([...merged]).to.deep.equal([...one]);
          expect([merged.segments, merged.broken]).to.deep.equal([one.segments, one.broken]);
          for (let i = 0; i < merged.length; i++)
            expect(merged.extra(i, '{urn:example:quill}n')).to.equal(merged.at(i)!.accuracy?.toString());
        },
      ),
    );
  });

  it('of one fix takes less than two kilobytes, made or read from a file of many', () => {
    const script = `
      import { Trail, fixFrom, readGpx } from 'aurelian-drift';
      const used = () => (gc(), gc(), process.memoryUsage().heapUsed + process.memoryUsage().arrayBuffers);
      const trails = [];
      const before = used();
      for (let i = 0; i < 5000; i++) {
        const trail = new Trail({ name: 'Short ' + i });
        trail.append(fixFrom({ time: Date.UTC(2026, 4, 14, 8), lat: 44.2, lon: -33.6, accuracy: 5 }));
        trails.push(trail);
      }
      const made = used() - before;
      const track = '<trk><trkseg><trkpt lat="44.2" lon="-33.6">' +
        '<time>2026-05-14T08:00:00Z</time></trkpt></trkseg></trk>';
      const text = '<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x">' +
        track.repeat(5000) + '</gpx>';
      const between = used();
      const document = readGpx(text);
      const read = used() - between;
      console.log(JSON.stringify([trails.length, document.trails.length, made / 5000, read / 5000]));`;
    const node = [
      '--expose-gc',
      '--conditions=aurelian-source',
      '--import=tsx',
      '--input-type=module',
      '-e',
      script,
    ];
    const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
    expect(stderr).to.equal('');
    const [made, read, bytesMade, bytesRead] = JSON.parse(stdout) as [number, number, number, number];
    expect([made, read]).to.deep.equal([5000, 5000]);
    expect(bytesMade).to.be.below(2000);
    expect(bytesRead).to.be.below(2000);
  });

  it('keeps every number as it grows from one fix to more than a chunk holds', () => {
    const trail = new Trail();
    for (let i = 0; i < 9000; i++) {
      trail.append(fixFrom({ ...at(i), accuracy: i, speed: 1 + i, marks: ['late'] }));
      if (i % 997 === 0) expect(trail.at(i)).to.deep.include({ accuracy: i, speed: 1 + i, marks: ['late'] });
    }
    expect(trail.column('accuracy', 4090, 4100)).to.deep.equal(
      Float64Array.from({ length: 10 }, (_, i) => 4090 + i),
    );
    expect(Array.from(trail, ({ accuracy }) => accuracy)).to.deep.equal(
      Array.from({ length: 9000 }, (_, i) => i),
    );
  });
});
