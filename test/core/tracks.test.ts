import {
  Trail,
  fixFrom,
  tracksFrom,
  readCsv,
  readGpx,
  readKml,
  readNmea,
  writeCsv,
  writeGeoJson,
  writeGpx,
  writeKml,
  writeNmea,
  type InputError,
  type TrackContent,
  type TrackDocument,
} from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { TextOutput } from '../../packages/aurelian-drift/src/core/formats/output.js';
import {
  TrackGatherer,
  deliverTracks,
} from '../../packages/aurelian-drift/src/core/formats/track-document.js';
import {
  detectFormat,
  trackReader,
  trackWriter,
} from '../../packages/aurelian-drift/src/core/formats/track-format.js';
import type { TrackSink } from '../../packages/aurelian-drift/src/core/formats/track-sink.js';
import { appendTrail } from '../../packages/aurelian-drift/src/core/trail/part.js';
import { plainTracks, recordedTrail, trackContent } from '../support/made.js';

const FORMATS: Record<
  string,
  [write: (content: TrackContent) => string, read: (text: string) => TrackDocument]
> = {
  GPX: [writeGpx, readGpx],
  GeoJSON: [writeGeoJson, (text) => tracksFrom(JSON.parse(text))],
  KML: [writeKml, readKml],
};

/** Messages of xmllint about a document, by a schema beside this test; '' for none. */
function invalidity(text: string, schema: string): string {
  const path = fileURLToPath(new URL(`schemas/${schema}.xsd`, import.meta.url));
  const { status, stderr } = spawnSync('xmllint', ['--noout', '--schema', path, '-'], {
    input: text,
    encoding: 'utf8',
  });
  return status === 0 ? '' : stderr;
}

describe('a file of tracks', () => {
  for (const [name, [write, read]] of Object.entries(FORMATS)) {
    it(
      `in ${name} reads back everything written: segments, names, foreign data, routes, ` + 'waypoints',
      () => {
        fc.assert(
          fc.property(trackContent, (content) => {
            const again = read(write(content));
            expect(again.notes).to.deep.equal([]);
            expect(plainTracks(again)).to.deep.equal(plainTracks(content));
          }),
        );
      },
    );
  }

  it('goes GPX, GeoJSON, KML and back to the same bytes of GPX', () => {
    fc.assert(
      fc.property(trackContent, (content) => {
        const first = writeGpx(content);
        const last = writeGpx(readKml(writeKml(tracksFrom(JSON.parse(writeGeoJson(readGpx(first)))))));
        expect(last).to.equal(first);
      }),
    );
  });

  it('in CSV reads back its trails, with foreign data beside the fixes', () => {
    const trail = Trail.from([{ time: Date.UTC(2026, 4, 14), lat: 44.2, lon: -33.6 }]);
    trail.setExtra(0, '{urn:example:quill}pulse', '90, "and more"');
    const again = readCsv(writeCsv({ trails: [trail] })).trails[0]!;
    expect(again.extrasOf(0)).to.deep.equal({ '{urn:example:quill}pulse': '90, "and more"' });
  });

  it('in NMEA 0183 reads back times, positions, speeds, courses and heights above the sea', () => {
    fc.assert(
      fc.property(
        recordedTrail.filter((trail) => trail.length > 0),
        (trail) => {
          const again = readNmea(writeNmea({ trails: [trail] })).trails[0];
          expect(again?.length ?? 0).to.equal(trail.length);
          expect(again?.segments ?? []).to.deep.equal(trail.segments);
          for (const [i, fix] of [...(again ?? [])].entries()) {
            const was = trail.at(i)!;
            expect(fix.time).to.equal(was.time);
            expect(fix.lat).to.be.closeTo(was.lat, 2e-9);
            expect(Math.abs(((fix.lon - was.lon + 540) % 360) - 180)).to.be.below(2e-9);
            if (was.altitudeDatum === 'sea') expect(fix.altitude).to.be.closeTo(was.altitude!, 1e-4);
            else expect(fix).not.to.have.property('altitude');
            if (was.speed !== undefined && was.speed > 0.001)
              expect(fix.speed).to.be.closeTo(was.speed, 1e-6);
          }
        },
      ),
    );
  });

  it('is valid by the schemas of GPX 1.1 and KML 2.3, whatever it holds', () => {
    // One document a schema, made of many: starting xmllint is slow.
    const all = fc.sample(trackContent, { numRuns: 60, seed: 11 });
    const content = {
      trails: all.flatMap(({ trails }) => trails),
      lines: all.flatMap(({ lines }) => lines),
      routes: all.flatMap(({ routes }) => routes),
      waypoints: all.flatMap(({ waypoints }) => waypoints),
    };
    expect(invalidity(writeGpx(content), 'gpx-1.1')).to.equal('');
    expect(invalidity(writeKml(content), 'kml-2.3')).to.equal('');
    expect(invalidity(writeGpx({ name: 'Empty & bare' }), 'gpx-1.1')).to.equal('');
    expect(invalidity(writeKml({}), 'kml-2.3')).to.equal('');
    // The schemas are strict: a child in the wrong position is reported.
    const wrong =
      '<gpx version="1.1" creator="x" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" ' +
      'lon="2"><time>2026-05-14T08:00:00Z</time><ele>1</ele></wpt></gpx>';
    expect(invalidity(wrong, 'gpx-1.1')).to.include('not expected');
  });

  it('of GeoJSON has lines of two positions at least, as the standard demands', () => {
    const trail = Trail.from([{ time: Date.UTC(2026, 4, 14), lat: 44.2, lon: -33.6, accuracy: 5 }]);
    const { features } = JSON.parse(writeGeoJson({ trails: [trail] })) as {
      features: { geometry: { coordinates: unknown[][] }; properties: { columns: { accuracy: unknown } } }[];
    };
    expect(features[0]!.geometry.coordinates[0]).to.have.length(2);
    expect(features[0]!.properties.columns.accuracy).to.deep.equal([[5, null]]);
  });

  it('comes to the same in pieces of any size, read and written', () => {
    const content = fc.tuple(trackContent, fc.integer({ min: 1, max: 5 }), fc.integer({ min: 1, max: 60 }));
    fc.assert(
      fc.property(
        content,
        fc.constantFrom('gpx', 'geojson', 'kml', 'csv'),
        ([tracks, size, step], format) => {
          const whole = new TextOutput();
          const pieces = new TextOutput();
          const [once, slowly] = [trackWriter(format, whole), trackWriter(format, pieces)];
          deliverTracks(tracks, once);
          deliverTracks(tracks, cutting(slowly, size));
          once.end();
          slowly.end();
          expect(pieces.text).to.equal(whole.text);
          if (format === 'geojson') return;
          const gatherer = new TrackGatherer();
          const reader = trackReader(format, gatherer);
          for (let i = 0; i < whole.text.length; i += step) reader.write(whole.text.slice(i, i + step));
          reader.end();
          const atOnce = new TrackGatherer();
          const other = trackReader(format, atOnce);
          other.write(whole.text);
          other.end();
          expect(plainTracks(gatherer.document)).to.deep.equal(plainTracks(atOnce.document));
        },
      ),
      { numRuns: 60 },
    );
  });

  it('read in pieces has the fixes of each piece in their place', () => {
    fc.assert(
      fc.property(trackContent, fc.integer({ min: 1, max: 4 }), (tracks, pieceSize) => {
        const gatherer = new TrackGatherer();
        const sizes: number[] = [];
        const sink: TrackSink = {
          trail(piece, place) {
            sizes.push(piece.length);
            gatherer.trail(piece, place);
          },
          line: (line) => gatherer.line(line),
          route: (route) => gatherer.route(route),
          waypoint: (waypoint) => gatherer.waypoint(waypoint),
          note: (note) => gatherer.note(note),
          title: (name) => gatherer.title(name),
        };
        const reader = trackReader('gpx', sink, { pieceSize });
        reader.write(writeGpx(tracks));
        reader.end();
        expect(Math.max(0, ...sizes)).to.be.at.most(pieceSize);
        expect(plainTracks(gatherer.document)).to.deep.equal(plainTracks(tracks));
      }),
      { numRuns: 50 },
    );
  });

  it('is known by its content', () => {
    for (const [text, format] of [
      ['<?xml version="1.0"?>\n<!-- a log -->\n<gpx>', 'gpx'],
      ['\n <kml:kml xmlns:kml="http://www.opengis.net/kml/2.2">', 'kml'],
      ['{"type":"FeatureCollection"', 'geojson'],
      ['# log of the boat\n2026-05-14 $GPRMC,080000,A', 'nmea'],
      ['$GPGGA,080000,4412.0,N', 'nmea'],
      ['time;lat;lon\n', 'csv'],
      ['walked far', undefined],
    ] as const)
      expect(detectFormat(text), text).to.equal(format);
  });
});

/** Passes trails on in pieces of this many fixes. */
function cutting(sink: TrackSink, size: number): TrackSink {
  return {
    trail(trail) {
      let open = new Trail({ ...labels(trail) });
      let first = true;
      let joined = false;
      const handOn = (last: boolean) => {
        sink.trail(open, { first, last, joined });
        joined = !open.broken;
        first = false;
        open = new Trail({ ...labels(trail) });
      };
      trail.segments.forEach(({ start, end }, s) => {
        if (s > 0 && open.length > 0) open.breakSegment();
        else if (s > 0) joined = false;
        for (let i = start; i < end; i++) {
          if (open.length === size) handOn(false);
          open.appendFrom(trail, i);
        }
      });
      handOn(true);
    },
    line: (line) => sink.line(line),
    route: (route) => sink.route(route),
    waypoint: (waypoint) => sink.waypoint(waypoint),
    note: (note) => sink.note(note),
    title: (name) => sink.title(name),
  };
}

function labels({ name, veiled, extras }: Trail) {
  return {
    ...(name !== undefined && { name }),
    ...(veiled !== undefined && { veiled }),
    ...(extras !== undefined && { extras }),
  };
}

describe('a writer’s habit', () => {
  const time = Date.UTC(2026, 4, 14, 8);
  const fix = (more: object) => fixFrom({ time, lat: 44.2, lon: -33.6, ...more });
  const habits: [string, () => TrackDocument, object][] = [
    [
      'of Quill, a logger that puts speed and course beside the time as GPX 1.0 had them',
      () => readGpx('<gpx version="1.0" creator="Quill" ' +
'xmlns="http://www.topografix.com/GPX/1/0"><trk><number>3</number><trkseg><trkpt lat="44.2" ' +
'lon="-33.6"><ele>12</ele><time>2026-05-14T08:00:00Z</time><course>90</course>' +
          '<speed>1.5</speed><hdop>1.2</hdop></trkpt></trkseg></trk></gpx>'),
      { altitude: 12, course: 90, speed: 1.5 },
    ],
    [
      'of Bittern, a watch with pulse and temperature in nested extensions of its own',
      () => readGpx('<gpx version="1.1" creator="Bittern" xmlns="http://www.topografix.com/GPX/1/1" ' +
'xmlns:b="urn:example:bittern"><trk><type>walk</type><trkseg><trkpt lat="44.2" ' +
'lon="-33.6"><time>2026-05-14T10:00:00+02:00</time>' +
          '<extensions><b:body><b:pulse>90</b:pulse></b:body><b:speed>1.5</b:speed></extensions>' +
        '</trkpt></trkseg></trk></gpx>'),
      { speed: 1.5 },
    ],
    [
      'of Sextant, an app that writes KML 2.2 with an extension’s prefix and all times first',
      () => readKml('<kml xmlns="http://www.opengis.net/kml/2.2" ' +
'xmlns:s="urn:example:sextant"><Document><Placemark><s:Track>' +
          '<altitudeMode>absolute</altitudeMode><when>2026-05-14T08:00:00Z</when><s:coord>-33.6 ' +
'44.2 12</s:coord></s:Track></Placemark></Document></kml>'),
      { altitude: 12, altitudeDatum: 'sea' },
    ],
    [
      'of Halyard, a plotter that logs NMEA 0183 with a clock of its own before each sentence',
      () => readNmea('10:00:00.123 $GPRMC,080000.00,A,4412.000,N,03336.000,W,3.0,90.0,140526,,,A*7C\n10:00:00.200 ' +
'$GPGGA,080000.00,4412.000,N,03336.000,W,1,09,0.9,12.0,M,50.0,M,,*46\n'),
      { speed: 1.5433333333333334, course: 90, altitude: 12, altitudeDatum: 'sea', origin: 'satellite' },
    ],
    [
      'of Almanack, a spreadsheet with decimal commas and feet',
      () => readCsv('Date;Time;Latitude;Longitude;Altitude (ft)\n2026-05-14;08:00:00;44,2;-33,6;100\n'),
      { altitude: 30.48 },
    ],
    [
      'of Gannet, which writes a plain GeoJSON line beside lists of its own',
      () => tracksFrom({ type: 'Feature', geometry: { type: 'LineString', coordinates: [[-33.6, 44.2, 12], [-33.61,
      44.2]] }, properties: { columns: { time: ['2026-05-14T08:00:00Z', '2026-05-14T08:00:09Z'], speed: [1.5,
      null] }, colour: 'red' } }),
      { altitude: 12, altitudeDatum: 'ellipsoid', speed: 1.5 },
    ],
    [
      'of Limpet, which closes no line end, prefixes everything and comments as it goes',
      () => readGpx('<l:gpx xmlns:l="http://www.topografix.com/GPX/1/1" version="1.1" creator="Limpet"><!-- start ' +
'--><l:trk><l:trkseg><l:trkpt lon="-33.6" ' +
'lat="44.2"><l:time>2026-05-14T08:00:00.000Z</l:time></l:trkpt><?limpet ' +
'mark?></l:trkseg></l:trk></l:gpx>'),
      {},
    ],
  ]; // prettier-ignore
  for (const [name, read, expected] of habits) {
    it(`${name}, is read`, () => {
      const { trails, notes } = read();
      expect(notes.filter((note) => note.expected !== true)).to.deep.equal([]);
      expect(trails[0]!.at(0)).to.deep.equal(fix(expected));
    });
  }

  it('of the standard’s names in extensions of one’s own changes nothing of the point', () => {
    const { trails } = readGpx(
      '<gpx xmlns:b="urn:example:bittern"><trk><trkseg><trkpt lat="44.2" ' +
        'lon="-33.6"><ele>12</ele><time>2026-05-14T08:00:00Z</time>' +
        '<extensions><b:lap><b:time>2020-01-01T00:00:00Z</b:time><b:name>First</b:name></b:lap><ele ' +
        'xmlns="urn:example:other">900</ele></extensions></trkpt></trkseg></trk></gpx>',
    );
    expect(trails[0]!.at(0)).to.deep.equal(fix({ altitude: 12 }));
    expect(trails[0]!.extrasOf(0)).to.deep.equal({
      '{urn:example:bittern}lap/{urn:example:bittern}time': '2020-01-01T00:00:00Z',
      '{urn:example:bittern}lap/{urn:example:bittern}name': 'First',
      '{urn:example:other}ele': '900',
    });
  });

  it('is kept where the library has no use for it: nested extensions, elements of the standard, links', () => {
    const { trails, routes, waypoints } = readGpx(
      '<gpx version="1.1" creator="Bittern" xmlns="http://www.topografix.com/GPX/1/1" xmlns:b="urn:example:bittern">' +
        '<wpt lat="1" lon="2"><name>Hut</name><link ' +
        'href="https://example.com/hut?a=1&amp;b=2"><text>More</text></link><sym>flag</sym></wpt>' +
        '<rte><name>Way</name><rtept lat="1" lon="2"><name>Gate</name></rtept></rte>' +
        '<trk><cmt>rainy</cmt><extensions><b:shoes>brown</b:shoes></extensions><trkseg><trkpt lat="44.2" ' +
        'lon="-33.6"><time>2026-05-14T08:00:00Z</time><hdop>1.2</hdop>' +
        '<extensions><b:body><b:pulse>90</b:pulse></b:body></extensions></trkpt></trkseg></trk></gpx>',
    );
    const GPX = '{http://www.topografix.com/GPX/1/1}';
    expect(trails[0]!.extras).to.deep.equal({
      [`${GPX}cmt`]: 'rainy',
      '{urn:example:bittern}shoes': 'brown',
    });
    expect(trails[0]!.extrasOf(0)).to.deep.equal({
      [`${GPX}hdop`]: '1.2',
      '{urn:example:bittern}body/{urn:example:bittern}pulse': '90',
    });
    expect(routes[0]!.parts[0]![0]!.extras).to.deep.equal({ [`${GPX}name`]: 'Gate' });
    const text = writeGpx({ trails, routes, waypoints });
    expect(text)
      .to.include('<link href="https://example.com/hut?a=1&amp;b=2"><text>More</text></link><sym>flag</sym>')
      .and.to.include('<body xmlns="urn:example:bittern"><pulse>90</pulse></body>')
      .and.to.include('<rtept lat="1" lon="2"><name>Gate</name></rtept>');
    expect(invalidity(text, 'gpx-1.1')).to.equal('');
  });
});

describe('a file that means ill, or was hurt', () => {
  const point = '<trkpt lat="44.2" lon="-33.6"><time>2026-05-14T08:00:00Z</time></trkpt>';
  const line = (error: unknown) => (error as InputError).message;
  const refused = (read: () => unknown): string => {
    try {
      read();
    } catch (error) {
      expect((error as InputError).name).to.equal('InputError');
      return line(error);
    }
    throw new Error('it was taken');
  };

  it(
    'is read as far as it is whole, with a note of the place of the cut, or is refused ' + 'when strict',
    () => {
      const gpx = `<gpx>\n<trk><name>Half</name><trkseg>\n${point}\n${point}<trkpt lat="44.3" lon="-33.6"><ti`;
      const { trails, notes } = readGpx(gpx);
      expect([trails[0]!.name, trails[0]!.length]).to.deep.equal(['Half', 2]);
      expect(notes).to.deep.equal([{ line: 4, text: 'the file ends inside <trkpt>; it was cut short' }]);
      expect(refused(() => readGpx(gpx, { source: 'half.gpx', strict: true }))).to.match(
        /^half\.gpx:4:\d+: the file ends/,
      );
      const trail = new Trail({ name: 'Whole' });
      for (let i = 0; i < 40; i++)
        trail.append(fixFrom({ time: Date.UTC(2026, 4, 14, 8, 0, i), lat: 44.2, lon: -33.6 }));
      for (const [write, read] of [
        [writeKml, readKml],
        [writeNmea, readNmea],
      ] as const) {
        const text = write({ trails: [trail] });
        for (const share of [0.35, 0.6, 0.85]) {
          const half = read(text.slice(0, Math.floor(text.length * share)));
          if (read === readKml) expect(half.notes.at(-1)!.text).to.include('cut short');
          for (const each of half.trails)
            for (const fix of each) expect([...trail]).to.deep.include({ ...fix, origin: 'unknown' });
        }
      }
      const kml = writeKml({ trails: [trail] });
      const short = readKml(kml.slice(0, kml.indexOf('</Track>')));
      expect(short.trails[0]!.length).to.equal(40);
    },
  );

  it('is not followed outside, and blows up nothing', () => {
    const bomb =
      '<!DOCTYPE gpx [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;&a;&a;&a;"><!ENTITY c "&b;&b;&b;&b;&b;&b;">]>';
    for (const root of ['gpx', 'kml'] as const) {
      const read = root === 'gpx' ? readGpx : readKml;
      expect(refused(() => read(`${bomb}<${root}><name>&c;</name></${root}>`))).to.include(
        'undefined entity',
      );
      expect(
        refused(() =>
          read(
            `<!DOCTYPE x [<!ENTITY e SYSTEM ` +
              `"file:///etc/hostname">]><${root}><Document><name>&e;</name></Document></${root}>`,
          ),
        ),
      ).to.include('undefined entity');
      const deep = `<${root}>${'<a>'.repeat(100_000)}`;
      expect(refused(() => read(deep))).to.include('elements stand more than 100 deep in one another');
    }
    const inside = `<gpx><trk><trkseg><trkpt lat="1" lon="2">${'<x>'.repeat(100_000)}`;
    expect(refused(() => readGpx(inside))).to.include('more than 100 deep');
  });

  it('may be one line of 100 MB, and is read, or refused in one line when that is one name', function () {
    this.timeout(240_000);
    const gatherer = new TrackGatherer();
    const reader = trackReader('gpx', gatherer);
    reader.write('<gpx><trk><trkseg>');
    const many = point.repeat(1000);
    for (let size = 0; size < 100e6; size += many.length) reader.write(many);
    reader.write('</trkseg></trk></gpx>');
    reader.end();
    expect(gatherer.document.trails[0]!.length).to.be.above(1_300_000);
    const endless = (start: string, format: 'gpx' | 'kml' | 'csv') => {
      const other = trackReader(format, new TrackGatherer());
      other.write(start);
      for (let size = 0; size < 101e6; size += 1e6) other.write('a'.repeat(1e6));
    };
    expect(refused(() => endless('<gpx><trk><name>', 'gpx'))).to.equal(
      '1:16: there is no tag in over 1000000 characters',
    );
    expect(refused(() => endless('<kml><Document><name>', 'kml'))).to.include(
      'there is no tag in over 100000000 characters',
    );
    expect(refused(() => endless('time,lat,lon\n"', 'csv'))).to.equal(
      '2: a row has over a million characters; is a quote not closed?',
    );
    const nmea = new TrackGatherer();
    const last = trackReader('nmea', nmea);
    for (let size = 0; size < 100e6; size += 1e6) last.write('a'.repeat(1e6));
    last.end();
    expect(nmea.document.notes[0]!.text).to.equal('a line of over 4096 characters left out');
  });

  it('has its swapped, absent and impossible values reported with their lines', () => {
    expect(
      refused(() =>
        readKml('<kml>\n<Placemark><Point><coordinates>44.2,-133.6</coordinates></Point></Placemark></kml>'),
      ),
    ).to.match(/^2:\d+: latitude -133\.6 is outside .*swapped\?/);
    const track =
      '<kml><Placemark><Track>\n<when>2026-05-14T08:00:00Z</when><when>2026</when>\n' +
      '<when>2026-05-14T08:00:02Z</when><coord>-33.6 ' +
      '44.2</coord>\n<coord>-33.6 44.2</coord></Track></Placemark></kml>';
    const kml = readKml(track);
    expect(kml.trails[0]!.length).to.equal(1);
    expect(kml.notes.map(({ text }) => text)).to.deep.equal([
      'a Track has 3 times and 2 places; what has no partner is left out',
      'a fix without a full time left out',
    ]);
    const gpx = readGpx(
      '<gpx><trk>\n<trkpt lat="1" lon="2"><time>1970-01-01T00:00:07Z</time></trkpt><trkpt lat="1" ' +
        'lon="2"><time>2026-05-14T08:00:00Z</time></trkpt></trk></gpx>',
    );
    expect(gpx.trails[0]!.length).to.equal(1);
    expect(gpx.notes[0]).to.deep.equal({
      line: 2,
      text: 'time 7000 is not milliseconds since 1970 of these days; left out',
    });
  });

  it('with times out of order keeps its fixes as they are', () => {
    const at = (minute: number) =>
      `<trkpt lat="44.2" lon="-33.6"><time>2026-05-14T08:0${minute}:00Z</time></trkpt>`;
    const { trails } = readGpx(`<gpx><trk><trkseg>${at(2)}${at(1)}${at(3)}</trkseg></trk></gpx>`);
    expect(Array.from(trails[0]!, ({ time }) => new Date(time).getUTCMinutes())).to.deep.equal([2, 1, 3]);
  });

  it('is never more than an error with a line, whatever stands in it', () => {
    const starts = {
      gpx: '<gpx><trk><trkseg><trkpt lat="1" lon="2">',
      kml: '<kml><Placemark><Track><when>',
      nmea: '$GPRMC,080000,A,4412.0,N,',
      csv: 'lat,lon,time\n',
    } as const;
    fc.assert(
      fc.property(
        fc.constantFrom('gpx', 'kml', 'nmea', 'csv'),
        fc.string({ unit: 'binary', maxLength: 60 }),
        (format, noise) => {
          const reader = trackReader(format, new TrackGatherer());
          try {
            reader.write(starts[format] + noise);
            reader.end();
          } catch (error) {
            expect((error as InputError).name, String(error)).to.equal('InputError');
            expect((error as InputError).place.line).to.be.a('number');
          }
        },
      ),
    );
  });

  it('joins pieces into the segments they had', () => {
    const [a, b] = [new Trail(), new Trail()];
    const at = (i: number) => fixFrom({ time: Date.UTC(2026, 4, 14, 8, 0, i), lat: 44.2, lon: -33.6 });
    a.append(at(0));
    b.append(at(1));
    b.breakSegment();
    b.append(at(2));
    appendTrail(a, b, true);
    expect(a.segments).to.deep.equal([
      { start: 0, end: 2 },
      { start: 2, end: 3 },
    ]);
  });
});
