import {
  Trail,
  fixFrom,
  tracksFrom,
  readCsv,
  readGpx,
  writeCsv,
  writeGeoJson,
  writeGpx,
  type InputError,
  type Trail as TrailType,
} from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import { spawnSync } from 'node:child_process';
import { recordedTrail } from '../support/made.js';

/** What two equal trails have in common: labels, segments and every field of every fix. */
function content(trail: TrailType | undefined) {
  return trail && { name: trail.name, segments: trail.segments, fixes: [...trail] };
}

/** Text that XML 1.0 can contain, with line ends as a reader returns them. */
const writable = (text: string) => !/[^\t\n\u0020-\uD7FF\uE000-\uFFFD]/.test(text);

describe('GPX', () => {
  it('reads back every trail it wrote, to the last digit', () => {
    fc.assert(
      fc.property(
        recordedTrail.filter((trail) => trail.length > 0 && writable(trail.name ?? '')),
        (trail) => {
          const [again, ...others] = readGpx(writeGpx({ trails: [trail] })).trails;
          expect(others).to.deep.equal([]);
          expect(content(again)).to.deep.equal(content(trail));
        },
      ),
    );
  });

  it('writes well-formed XML whatever the names hold, and never an exponent', () => {
    const trail = Trail.from([{ time: Date.UTC(2026, 0, 1), lat: 1e-7, lon: 180, speed: 1.5e-9 }], {
      name: '<b onload="x">&amp;\u0007]]></b>',
    });
    const text = writeGpx({ trails: [trail], waypoints: [{ lat: 0, lon: 0, name: '"quoted" & <cut>' }] });
    const { status, stderr } = spawnSync('xmllint', ['--noout', '-'], { input: text, encoding: 'utf8' });
    expect(status, stderr).to.equal(0);
    expect(text)
      .to.include('lat="0.0000001" lon="-180"')
      .and.to.include('<drift:speed>0.0000000015</drift:speed>');
    const again = readGpx(text);
    expect(again.trails[0]!.name).to.equal('<b onload="x">&amp;\uFFFD]]></b>');
    expect(again.waypoints).to.deep.equal([{ lat: 0, lon: 0, name: '"quoted" & <cut>' }]);
  });

  it('knows elements by their local names, whatever the prefix', () => {
    const { trails } = readGpx(`<?xml version="1.0"?>
      <g:gpx xmlns:g="http://www.topografix.com/GPX/1/1" xmlns:q="urn:example:quill" version="1.1" creator="Quill 3">
        <g:metadata><g:name>A day out</g:name></g:metadata>
        <g:trk><g:name><![CDATA[Up & <over>]]></g:name><g:extensions><q:name>not this</q:name></g:extensions>
          <g:trkseg>
            <g:trkpt lat="44.2" lon="-33.6"><g:ele>12.5</g:ele><g:time>2026-05-14T08:00:00.250+02:00</g:time>
              <g:extensions><q:body><q:pulse>90</q:pulse><q:speed>1.25</q:speed></q:body></g:extensions></g:trkpt>
          </g:trkseg>
        </g:trk>
      </g:gpx>`);
    expect(trails[0]!.name).to.equal('Up & <over>');
    expect([...trails[0]!]).to.deep.equal([
      fixFrom({
        time: Date.UTC(2026, 4, 14, 6, 0, 0, 250),
        lat: 44.2,
        lon: -33.6,
        altitude: 12.5,
        speed: 1.25,
      }),
    ]);
  });

  it('reads several tracks and segments, version 1.0, and points outside any segment', () => {
    const point = (minute: number, extra = '') =>
      `<trkpt lat="44.${minute}" lon="-33.6">${extra}<time>2026-05-14T08:0${minute}:00Z</time></trkpt>`;
    const { trails } =
      readGpx(`<gpx version="1.0"><trk><trkseg>${point(1, '<course>90</course><speed>2</speed>')}</trkseg>
      <trkseg>${point(2)}${point(3)}</trkseg><trkseg/></trk><trk><name>Second</name>${point(4)}</trk></gpx>`);
    expect(trails.map((trail) => [trail.name, trail.length, trail.segments.length])).to.deep.equal([
      [undefined, 3, 2],
      ['Second', 1, 1],
    ]);
    expect(trails[0]!.at(0)).to.include({ course: 90, speed: 2 });
  });

  it('takes a track without times for a line, and makes up no time in one that has some', () => {
    const bare = '<trkpt lat="44.2" lon="-33.6"/>';
    const timed = '<trkpt lat="44.3" lon="-33.6"><time>2026-05-14T08:00:00</time></trkpt>';
    const lines = readGpx(`<gpx><trk><name>Old</name><trkseg>${bare}${bare}</trkseg></trk></gpx>`);
    expect(lines.trails).to.deep.equal([]);
    expect(lines.lines).to.deep.equal([
      {
        name: 'Old',
        parts: [
          [
            { lat: 44.2, lon: -33.6 },
            { lat: 44.2, lon: -33.6 },
          ],
        ],
      },
    ]);
    const mixed = readGpx(`<gpx>\n<trk><trkseg>\n${bare}${timed}\n${bare}</trkseg></trk></gpx>`);
    expect(mixed.trails[0]!.length).to.equal(1);
    expect(mixed.notes).to.deep.equal([{ line: 3, text: '2 points without a time left out' }]);
  });

  it('reads waypoints and routes alone', () => {
    const { trails, routes, waypoints } = readGpx(
      '<gpx><wpt lat="1" lon="2"><name>Hut</name><desc>dry</desc></wpt><rte><name>Way</name><rtept ' +
        'lat="1" lon="2"/><rtept lat="1" lon="3"/></rte></gpx>',
    );
    expect([trails.length, waypoints, routes[0]!.parts[0]!.length]).to.deep.equal([
      0,
      [{ lat: 1, lon: 2, name: 'Hut', description: 'dry' }],
      2,
    ]);
  });

  it('leaves out an impossible value beside a possible position, and notes it', () => {
    const { trails, notes } = readGpx(
      '<gpx><trk><trkpt lat="1" lon="2"><time>2026-05-14T08:00:00Z</time><speed>-3</speed></trkpt></trk></gpx>',
    );
    expect(trails[0]!.at(0)).not.to.have.property('speed');
    expect(notes[0]!.text).to.equal('speed must be 0…1000000, got -3; left out');
  });

  const wrong: [string, string, string, number][] = [
    [
      'cut short',
      '<gpx>\n<trk>\n<trkseg><trkpt lat="1" lon="2">',
      'the file ends inside <trkpt>; it was cut short',
      3,
    ],
    ['cut in a tag', '<gpx>\n<trk><trkpt la', 'the file ends in', 2],
    ['not XML', '<gpx>\n<trk></gpx>', 'this is not well-formed XML: unexpected close tag', 2],
    ['another format', '<html>\n</html>', 'this is not GPX: it starts with <html>', 1],
    [
      'an impossible latitude',
      '<gpx>\n<wpt lat="133.6"\n lon="44"/></gpx>',
      'latitude 133.6 is outside −90…90; latitude and longitude swapped?',
      3,
    ],
    ['no longitude', '<gpx><wpt lat="1"/></gpx>', 'longitude must be a number, got nothing', 1],
    ['a blank for a number', '<gpx><wpt lat=" " lon="2"/></gpx>', 'latitude must be a number, got " "', 1],
    ['a hexadecimal', '<gpx><wpt lat="0x1" lon="2"/></gpx>', 'latitude must be a number, got "0x1"', 1],
    ['an empty file', '', 'the file is empty', 1],
    [
      'an entity of its own',
      '<!DOCTYPE gpx [<!ENTITY x SYSTEM "file:///etc/passwd">]><gpx><wpt lat="1" ' +
        'lon="2"><name>&x;</name></wpt></gpx>',
      'undefined entity',
      1,
    ],
  ];
  for (const [name, text, reason, line] of wrong) {
    it(`refuses ${name}, with the line`, () => {
      const read = () => readGpx(text, { source: 'walk.gpx', strict: true });
      expect(read).to.throw(reason);
      try {
        read();
      } catch (error) {
        expect((error as InputError).place).to.include({ source: 'walk.gpx', line });
      }
    });
  }

  it('never fails but with an error that names a line, on any text at all', () => {
    const start = '<gpx><trk><trkseg><trkpt lat="1" lon="2">';
    fc.assert(
      fc.property(fc.string({ maxLength: 60 }), (text) => {
        try {
          readGpx(start + text, { source: 'noise' });
        } catch (error) {
          expect((error as InputError).name).to.equal('InputError');
          expect((error as InputError).place.line).to.be.a('number');
        }
      }),
    );
  });
});

describe('GeoJSON trails', () => {
  it('read back every trail they wrote', () => {
    fc.assert(
      fc.property(
        recordedTrail.filter((trail) => trail.length > 0),
        (trail) => {
          const [again] = tracksFrom(JSON.parse(writeGeoJson({ trails: [trail] }))).trails;
          expect(content(again)).to.deep.equal(content(trail));
        },
      ),
    );
  });

  it('are lines when their feature has no times', () => {
    const feature = {
      type: 'Feature',
      geometry: {
        type: 'LineString',
        coordinates: [
          [-33.6, 44.2, 7],
          [-33.5, 44.2],
        ],
      },
      properties: { name: 'Way' },
    };
    expect(tracksFrom(feature).lines).to.deep.equal([
      { name: 'Way', parts: [[{ lat: 44.2, lon: -33.6, altitude: 7 }, { lat: 44.2, lon: -33.5 }]] },
    ]); // prettier-ignore
  });

  it('refuse columns of different lengths, and invalid times, by their path', () => {
    const make = (time: unknown) => ({
      type: 'Feature',
      geometry: {
        type: 'LineString',
        coordinates: [
          [0, 0],
          [1, 1],
        ],
      },
      properties: { columns: { time } },
    });
    expect(() => tracksFrom(make(['2026-05-14T08:00:00Z']))).to.throw(
      'properties.columns.time: a column must be as long',
    );
    expect(() => tracksFrom(make(['2026-05-14T08:00:00Z', 'noon']))).to.throw(
      'geometry.coordinates.1: time must be',
    );
    expect(() => tracksFrom(make(['2026-02-30T08:00:00Z', '2026-05-14T08:00:00Z']))).to.throw(
      'coordinates.0: time must be',
    );
  });
});

describe('CSV', () => {
  const START = Date.UTC(2026, 4, 14, 8);

  it('reads back every trail it wrote, to the last digit', () => {
    fc.assert(
      fc.property(
        recordedTrail.filter((trail) => trail.length > 0),
        (trail) => {
          const name = trail.name?.trim() === '' ? undefined : trail.name?.trim().replaceAll('\r', '');
          const named = new Trail(name === undefined ? {} : { name });
          for (const segment of trail.segments) {
            for (const fix of trail.fixesOf(segment)) named.append(fix);
            named.breakSegment();
          }
          const text = writeCsv({ trails: [named] });
          expect(text.split('\n').every((line) => line === '' || line.endsWith('\r'))).to.equal(true);
          const { trails, notes } = readCsv(text);
          expect(notes).to.deep.equal([]);
          expect(trails).to.have.length(1);
          expect(trails[0]!.segments).to.deep.equal(named.segments);
          expect([...trails[0]!]).to.deep.equal([...named]);
        },
      ),
    );
  });

  for (const [habit, text, expected] of [
    ['plain names', 'lat,lon,time\n44.2,-33.6,2026-05-14T08:00:00Z\n', {}],
    [
      'long names, units in brackets',
      'Time,Latitude,Longitude,Speed (km/h),Altitude [ft]\n2026-05-14T08:00:00Z,44.2,-33.6,18,100\n',
      { speed: 5, altitude: 30.48 },
    ],
    [
      'semicolons and decimal commas',
      'Longitude;Latitude;Timestamp;Accuracy_m\n-33,6;44,2;2026-05-14 08:00:00;7,5\n',
      { accuracy: 7.5 },
    ],
    [
      'tabs, and milliseconds since 1970',
      'timestamp_ms\tlatitude\tlng\theading\n1778745600000\t44.2\t-33.6\t90\n',
      { course: 90 },
    ],
    [
      'seconds since 1970, knots, quoted cells',
      '"epoch","lat","lon","sog (kn)"\n"1778745600","44.2","-33.6","10"\n',
      { speed: 5.144444444444445 },
    ],
    [
      'a date and a time, and a byte order of lines from elsewhere',
      'Date,Time,lat,lon,horizontalAccuracy\r\n2026-05-14,08:00:00,44.2,-33.6,4\r\n',
      { accuracy: 4 },
    ],
  ] as const) {
    it(`is read as writers are in the habit of: ${habit}`, () => {
      const { trails, notes } = readCsv(text);
      expect(notes).to.deep.equal([]);
      const { altitude, ...fix } = trails[0]!.at(0)! as { altitude?: number };
      const { altitude: high, ...rest } = expected as { altitude?: number };
      expect(fix).to.deep.equal({ time: START, lat: 44.2, lon: -33.6, origin: 'unknown', ...rest });
      if (high !== undefined) expect(altitude).to.be.closeTo(high, 1e-9);
    });
  }

  it('skips invalid entries, reports each with its line, and keeps the rest', () => {
    const text =
      'time,lat,lon,speed,note\n2026-05-14T08:00:00Z,44.2,-33.6,fast,"two\nlines"\n' +
      '2026-05-14T08:00:01Z,144,-33.6,1,\n,44.2,-33.6,1,\n\n2026-05-14T08:00:03Z,44.2';
    const { trails, notes } = readCsv(text);
    expect([...trails[0]!]).to.deep.equal([{ time: START, lat: 44.2, lon: -33.6, origin: 'unknown' }]);
    expect(notes.map(({ line }) => line)).to.deep.equal([1, 2, 4, 5, 7]);
    expect(notes[0]).to.deep.equal({ line: 1, text: 'columns passed over: note', expected: true });
    expect(notes[1]!.text).to.equal('the speed is no number; left out');
    expect(notes[2]!.text).to.include('latitude 144 is outside');
    expect(notes[3]!.text).to.equal('it has no time; left out');
    expect(notes[4]!.text).to.include('(the row has 2 of 5 cells)');
  });

  it('without times is a line; a header without positions is refused', () => {
    const { lines, trails } = readCsv('lat,lon,ele\n44.2,-33.6,12\n44.3,-33.6,\n');
    expect(trails).to.deep.equal([]);
    expect(lines).to.deep.equal([
      {
        parts: [
          [
            { lat: 44.2, lon: -33.6, altitude: 12 },
            { lat: 44.3, lon: -33.6 },
          ],
        ],
      },
    ]);
    for (const [header, message] of [
      ['lat,lonn', 'no column for the longitude; is it "lonn"?'],
      ['a,b', 'no column for the latitude; the columns are "a", "b"'],
      ['lat,latitude,lon', 'two columns hold the lat: "lat" and "latitude"'],
      ['lat,lon,speed (furlongs)', 'the unit of the column "speed (furlongs)" is not known; known: m/s'],
    ] as const)
      expect(() => readCsv(`${header}\n1,2,3\n`)).to.throw(message);
  });

  it('is never tripped up by a text of any kind', () => {
    fc.assert(
      fc.property(
        fc.string(),
        fc.array(fc.array(fc.string({ maxLength: 8 }), { maxLength: 6 })),
        (noise, rows) => {
          const text = `lat,lon,time\n${rows.map((row) => row.join()).join('\n')}\n${noise}`;
          const { trails, notes } = readCsv(text);
          expect(trails.length + notes.length).to.be.at.least(0);
        },
      ),
    );
  });
});

describe('GeoJSON of lines and waypoints', () => {
  it('gives them back as they were', () => {
    const lines = [
      {
        name: 'Plan',
        parts: [
          [
            { lat: 1, lon: 2, altitude: 3 },
            { lat: 4, lon: 5 },
          ],
        ],
      },
    ];
    const waypoints = [
      { lat: 44.2, lon: -33.6, name: 'Hut', description: 'Open', time: Date.UTC(2026, 0, 1) },
      { lat: 0, lon: 0 },
    ];
    const read = tracksFrom(JSON.parse(writeGeoJson({ lines, waypoints })));
    expect(read).to.deep.equal({ trails: [], lines, routes: [], waypoints, notes: [] });
  });
});
