import { fencesFrom, tracksFrom, readGpx } from 'aurelian-drift';
import { expect } from 'chai';
import { copyFile, readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PNG } from 'pngjs';
import { spawnSync } from 'node:child_process';
import { aurelian, started, workFolder } from '../support/aurelian.js';
import { eventually } from '../support/eventually.js';

describe('the command line', () => {
  const folder = workFolder();
  const run = (words: string, input?: string) => aurelian(folder.path, words.split(' '), input);
  const file = (name: string) => join(folder.path, name);

  before(async function () {
    this.timeout(240_000);
    for (const [out, more] of [
      ['walk.gpx', '--truth truth.geojson'],
      ['again.gpx', ''],
      ['other.gpx', '--seed 8'],
    ] as const) {
      const { code, err } = await run(`simulate demo:tarn-round -o ${out} --seed 7 ${more}`.trimEnd());
      expect(code, err).to.equal(0);
    }
  });

  describe('simulate', () => {
    it('gives the same bytes for the same seed, and others for another', async () => {
      const [a, b, other] = await Promise.all(
        ['walk.gpx', 'again.gpx', 'other.gpx'].map((name) => readFile(file(name), 'utf8')),
      );
      expect(a).to.equal(b);
      expect(a).not.to.equal(other);
      expect(spawnSync('xmllint', ['--noout', file('walk.gpx')]).status).to.equal(0);
    });

    it('keeps the true path beside, which the trail stays near', async () => {
      const [summary] = (await run('summary walk.gpx --json')).json();
      const [truth] = (await run('summary truth.geojson --json')).json();
      expect(truth.distance).to.be.closeTo(5197, 30);
      expect(summary.distance).to.be.closeTo(truth.distance, 0.03 * truth.distance);
      expect(summary.fixes).to.equal(truth.fixes);
    });

    it('takes gait, interval, reception and start', async () => {
      await run(
        'simulate demo:dune-round -o ride.geojson --gait cycle --every 5s --reception exact --start ' +
          '2026-07-01T12:00:00Z',
      );
      const [summary] = (await run('summary ride.geojson --json')).json();
      expect(summary).to.include({
        name: 'Dune Round',
        start: '2026-07-01T12:00:00Z',
        path: 'filtered',
        segments: 1,
      });
      expect(summary.averageSpeed).to.be.closeTo(4.8, 0.7);
      const { trails } = tracksFrom(JSON.parse(await readFile(file('ride.geojson'), 'utf8')));
      expect((trails[0]!.at(1)!.time - trails[0]!.at(0)!.time) / 1000).to.equal(5);
    });

    it('rests on the way, which the summary reports', async () => {
      await run('simulate demo:dune-round -o rested.gpx --rest-every 700m --rest-for 3min --reception trees');
      const [summary] = (await run('summary rested.gpx --json')).json();
      const { stops, resting, distance } = summary as unknown as {
        stops: { duration: number; start: string; lat: number }[];
        resting: number;
        distance: number;
      };
      expect(stops.length).to.be.within(2, 9);
      expect(stops.reduce((sum, { duration }) => sum + duration, 0)).to.be.closeTo(resting, 0.1 * resting);
      for (const stop of stops) expect(stop).to.have.all.keys('start', 'end', 'duration', 'lat', 'lon');
      const [plain] = (await run('summary ride.geojson --json')).json();
      expect(distance).to.be.closeTo(plain.distance, 0.01 * plain.distance);
      const { out } = await run('summary rested.gpx');
      expect(out).to.match(/stops +\d\d:\d\d:\d\d for \d min.* at 44\.\d{5}° N/);
      expect((await run('simulate demo -o x.gpx --rest-for 3min')).err).to.include(
        '--rest-for needs --rest-every',
      );
    });

    it('names the lines of a file with several', async () => {
      const { code, err } = await run(`simulate ${join(process.cwd(), 'demo/rounds.geojson')} -o x.gpx`);
      expect(code).to.equal(2);
      expect(err).to.match(/has 5 lines; choose one: .*rounds\.geojson:tarn-round/);
    });
  });

  describe('summary', () => {
    it('writes the known figures in words, and all of them as JSON with the library’s own names', async () => {
      const { out } = await run('summary walk.gpx');
      expect(out)
        .to.match(/^Tarn Round\n/)
        .and.to.match(/distance +5\.\d\d km \(filtered path; raw sum 7\.\d\d km\)/);
      const [summary] = (await run('summary walk.gpx --json')).json();
      expect(summary).to.have.all.keys(
        'name',
        'fixes',
        'segments',
        'start',
        'end',
        'duration',
        'moving',
        'resting',
        'distance',
        'rawDistance',
        'path',
        'wayOfMoving',
        'averageSpeed',
        'movingSpeed',
        'topSpeed',
        'climb',
        'descent',
        'gaps',
        'stops',
        'bounds',
      );
      expect(summary.start).to.equal('2026-05-14T08:00:00Z');
    });

    it('sums up lines without times, as far as they can be known', async () => {
      await copyFile('demo/rounds.geojson', file('demo-lines.geojson'));
      const { out } = await run('summary demo-lines.geojson');
      expect(out)
        .to.match(/^Tarn Round\npoints +85 in 1 part, without times\ndistance +5\.20 km\n/)
        .and.to.include('duration, speeds, stops and gaps: they need times');
      const [line] = (await run('summary demo-lines.geojson --json')).json();
      expect(line)
        .to.include({ name: 'Tarn Round', untimed: true, points: 85 })
        .and.not.to.have.key('duration');
      const { lines } = (await run('measure demo-lines.geojson --json')).json()[0];
      expect(lines[0].distance).to.be.closeTo(line.distance, 0.001);
      expect((await run('report demo-lines.geojson -o lines.html')).out).to.match(/^lines\.html: \d lines, /);
      expect(await readFile(file('lines.html'), 'utf8')).to.include('The points have no times');
      expect((await run('measure demo-lines.geojson 44,1')).err).to.include('positions, or one file');
    });

    it('measures along the slope on request', async () => {
      const { distance, slopeDistance } = (await run('summary walk.gpx --slope --json')).json()[0];
      expect(slopeDistance / distance).to.be.within(1, 1.005);
      expect((await run('summary walk.gpx --slope')).out).to.match(/\nalong the slope +5\.\d\d km\n/);
    });

    it('reads standard input, and several files', async () => {
      const text = await readFile(file('walk.gpx'), 'utf8');
      const [fromPipe] = (await run('summary - --json', text)).json();
      const both = (await run('summary walk.gpx truth.geojson --json')).json();
      expect(both).to.have.length(2);
      expect(fromPipe).to.deep.equal(both[0]);
    });
  });

  describe('day', () => {
    it('tells a walk as stays in named areas and elsewhere, and says when there is none', async () => {
      await run('simulate demo:west-round --rest-every 900m --rest-for 4min --reception meadow -o stays.gpx');
      const { out } = await run('day stays.gpx --fences demo --places demo');
      const [head, ...rows] = out.trimEnd().split('\n');
      expect(head).to.match(/^day +arrival +departure +stay +place$/);
      expect(rows.join('\n'))
        .to.include('Orchard Foot')
        .and.to.match(/\d+ m N of Nethery/);
      const arrivals = rows.map((row) => /\d\d:\d\d:\d\d/.exec(row)![0]);
      expect(arrivals).to.deep.equal([...arrivals].sort());
      const stays = (await run('day stays.gpx --fences demo --json')).json();
      expect(stays).to.have.length(rows.length);
      expect(stays[0]).to.have.keys('name', 'fence', 'from', 'to', 'duration', 'arrival', 'departure');
      expect((await run('day stays.gpx --least 2h')).out).to.equal('no stays\n');
    });
  });

  describe('crossings', () => {
    it('are the sections of the round, in turn, in and out', async () => {
      const { out } = await run('crossings walk.gpx --fences demo');
      expect(out.split('\n')[0]).to.match(/^UTC +kind +fence +place +course +certainty +accuracy +duration$/);
      const crossings = (await run('crossings walk.gpx --fences demo --json')).json();
      const names = crossings.map(({ kind, name }) => `${kind} ${name}`);
      const sections = ['Ox-eye Meadow', 'Sedge Bottom', 'Tarn Head', 'Burnet Slope', 'Bracken Piece'];
      expect(names).to.deep.equal(sections.flatMap((name) => [`enter ${name}`, `exit ${name}`]));
      for (const crossing of crossings)
        expect(crossing).to.include.keys('kind', 'fence', 'time', 'lat', 'lon', 'certainty');
    });

    it('come within a few seconds of the true ones', async () => {
      const times = async (name: string) =>
        (await run(`crossings ${name} --fences demo --json`))
          .json()
          .map(({ time }) => Date.parse(time as string));
      const [seen, truth] = [await times('walk.gpx'), await times('truth.geojson')];
      expect(seen).to.have.length(truth.length);
      for (const [i, time] of seen.entries()) expect(Math.abs(time - truth[i]!)).to.be.below(20_000);
    });
  });

  describe('convert', () => {
    it('goes from GPX through CSV and GeoJSON back to the same bytes', async () => {
      for (const words of [
        'convert walk.gpx c1.csv',
        'convert c1.csv c2.geojson',
        'convert c2.geojson c3.gpx',
      ]) {
        const { code, out, err } = await run(words);
        expect([code, err], words).to.deep.equal([0, '']);
        expect(out).to.match(/^c\d\.\w+: 1 trail with \d+ fixes\n$/);
      }
      expect(await readFile(file('c3.gpx'), 'utf8')).to.equal(await readFile(file('walk.gpx'), 'utf8'));
    });

    it('thins to a tolerance, and keeps waypoints and routes where the format can', async () => {
      const [reported] = (await run('convert walk.gpx thin.gpx --thin 5m --json')).json();
      expect(reported.fixes).to.be.within(40, 400);
      expect(Number(reported.fixes) + Number(reported.leftOut)).to.equal(
        readGpx(await readFile(file('walk.gpx'), 'utf8')).trails[0]!.length,
      );
      const mixed =
        '<gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><wpt lat="1" ' +
        'lon="2"><name>Hut</name></wpt><rte><name>Plan</name><rtept lat="1" lon="2"/><rtept lat="3" ' +
        'lon="4"/></rte></gpx>';
      expect((await run('convert - mixed.geojson', mixed)).out).to.equal(
        'mixed.geojson: 0 trails with 0 fixes, 1 line, 1 waypoint\n',
      );
      await run('convert mixed.geojson mixed.gpx');
      const again = readGpx(await readFile(file('mixed.gpx'), 'utf8'));
      expect(again.routes[0]!.name).to.equal('Plan');
      expect(again.waypoints[0]!.name).to.equal('Hut');
      const { code, err } = await run('convert - mixed.csv', mixed);
      expect([code, err]).to.deep.equal([
        0,
        'aurelian: mixed.csv: 1 waypoint and 1 line left out: the format has no place for them\n',
      ]);
    });

    it('overwrites a file only when asked, and under --strict refuses to drop data', async () => {
      await writeFile(file('there.csv'), 'precious');
      const { code, err } = await run('convert walk.gpx there.csv');
      expect([code, await readFile(file('there.csv'), 'utf8')]).to.deep.equal([1, 'precious']);
      expect(err).to.include('a file with this name exists already. Choose another name, or give --force');
      expect((await run('simulate demo:tarn-round -o there.csv')).code).to.equal(1);
      expect((await run('convert walk.gpx there.csv --force')).code).to.equal(0);
      const odd = 'time,lat,lon\n2026-05-14T08:00:00Z,44.2,-33.6\n2026-05-14T08:00:01Z,144,-33.6\n';
      expect((await run('convert - odd.gpx', odd)).err).to.include(
        'standard input:3: latitude 144 is outside',
      );
      const strict = await run('convert - odd2.gpx --strict', odd);
      expect([strict.code, strict.err.split('\n').length]).to.deep.equal([1, 2]);
      expect((await run('convert walk.gpx walk.xyz')).err).to.include(
        '.gpx, .geojson, .kml, .csv and .nmea are known',
      );
    });
  });

  describe('measure', () => {
    it('lists each leg, also at western and southern places', async () => {
      const [{ legs }] = (await run('measure 44.2,-33.6 44.3,-33.6 -44.2,-33.6 --json')).json() as [
        { legs: { distance: number; bearing: number }[] },
      ];
      expect(legs[0]!.distance).to.be.closeTo(11_112, 2);
      expect(legs.map(({ bearing }) => bearing)).to.deep.equal([0, 180]);
      expect((await run('measure 44.2,-33.6 44.2,-33.6')).out).to.equal('0.0 m  the same place\n');
      expect((await run('measure 44,-33 45,-33 45,-32')).out).to.match(
        /^111 km {2}0° N\n78\.8 km {2}90° E\n190 km {2}in all\n$/,
      );
    });
  });

  describe('place, near and find', () => {
    const places = (features: object[]) =>
      writeFile(
        file('places.geojson'),
        JSON.stringify({ type: 'FeatureCollection', features }, undefined, 1),
      );
    const feature = (properties: object, coordinates = [-33.6, 44.2]) => ({
      type: 'Feature',
      geometry: { type: 'Point', coordinates },
      properties,
    });

    it('list the places at a position of the island, and report a position without any', async () => {
      const { out } = await run('place 44.18668,-33.6082');
      expect(out.split('\n').slice(0, 4)).to.deep.equal([
        '44.18668° N, 33.60820° W',
        '8 Plover Lane',
        'Wick Orrin',
        'Vanesk VK 10',
      ]);
      expect(out).to.match(/^street {4}Plover Lane, Wick Orrin +\d+ m {2}\d+° \w+$/m);
      expect((await run('place 44.16,-33.61')).out).to.include('no address here; 2.95 km S of Wick Orrin');
      const [{ answers }] = (
        await run('place 44.18668,-33.6082 --level locality --language art-x-vanesk --json')
      ).json();
      expect((answers as { text: string }[]).map(({ text }) => text)).to.deep.equal([
        'Vik Orrenn, Vanasker',
        'Vanasker',
      ]);
      expect((await run('place 44.18668,-33.6082 --language sv --pattern DE')).out)
        .to.include('Plover Lane 8\nVK 10 Wick Orrin\n')
        .and.to.include('* not in the language asked for: street, locality, region');
    });

    it('list the places near by, and find by words, also two of one name', async () => {
      const { out } = await run('near 44.2,-33.6 --within 1km');
      expect(
        out
          .trimEnd()
          .split('\n')
          .map((line) => line.trim().split(/ {2,}/)[0]),
      ).to.deep.equal(['away', '574 m', '783 m', '992 m']);
      const [{ places: found }] = (await run('find chapel well --near 44.2,-33.6 --json')).json();
      expect((found as { text: string }[]).map(({ text }) => text)).to.deep.equal([
        'Chapel Well, Tolvay',
        'Chapel Well, Nethery',
      ]);
      expect((await run('find tolvya')).out).to.match(/^no place has the name "tolvya"; similar names:\n/);
      expect((await run('find zzyzx')).out).to.equal('no place has the name "zzyzx"\n');
      expect((await run('find 44.2, -33.6')).out).to.match(/^this is a position/);
    });

    it('read the user’s own file, and list the entries that were skipped, with their lines', async () => {
      await places([
        feature({ name: 'Low Hut', kind: 'hut' }),
        feature({ kind: 'well' }),
        feature({ name: 'Far' }, [44.2, 133]),
        { ...feature({ name: 'None' }), geometry: null },
      ]);
      const { code, out, err } = await run('near 44.2,-33.601 --places places.geojson');
      expect(code).to.equal(0);
      expect(out).to.include('Low Hut');
      const complaints = err.trimEnd().split('\n');
      expect(complaints).to.have.length(3);
      for (const [i, text] of [
        'has neither a name nor',
        'latitude 133 is outside',
        '"None" has no geometry',
      ].entries())
        expect(complaints[i])
          .to.match(/^aurelian: places\.geojson:\d+: /)
          .and.include(text);
    });

    it('describe a bad input in one line', async () => {
      const cases = [
        ['place 120,44', 2, 'swapped?'],
        ['place 44.2,-33.6 --language e_n', 2, 'must be a language tag like "en"'],
        ['place 44.2,-33.6 --pattern XX', 2, 'must be an ISO 3166-1 code'],
        ['place 44.2,-33.6 --level town', 2, 'Allowed choices are house'],
        ['near 44.2,-33.6 --within 500', 2, 'the unit is missing'],
        ['near 44.2,-33.6 --by prominence', 1, 'needs within'],
        ['near 44.2,-33.6 --kind wel', 1, 'did you mean "well"?'],
        ['find --max 0 wick', 2, 'it is 1 to 1000'],
        ['find wick --places nothing.geojson', 1, 'there is no such file'],
        ['find wick --places http://127.0.0.1:9', 1, 'unreachable: no connection to the service'],
        ['serve --port 99999', 2, 'a port is 0 to 65535'],
        ['serve --pages nowhere', 2, 'there is no such folder'],
      ] as const;
      // Two at a time: most of it is starting a process.
      for (let i = 0; i < cases.length; i += 2) {
        await Promise.all(
          cases.slice(i, i + 2).map(async ([words, code, text]) => {
            const { code: got, err } = await run(words);
            expect(got, words).to.equal(code);
            expect(err, words).to.include(text);
          }),
        );
      }
    }).timeout(240_000);

    it('ask a service that serve has started, which ends when asked', async () => {
      const served = started(folder.path, ['serve', '--port', '0', '--host', '127.0.0.1']);
      const [address] = await eventually(
        () => /http:\/\/[\d.:]+(?=\/places\/at)/.exec(served.out()) ?? expect.fail('no address'),
      );
      const own = await run('place 44.18668,-33.6082');
      expect((await run(`place 44.18668,-33.6082 --places ${address}`)).out).to.equal(own.out);
      served.kill('SIGTERM');
      expect((await served.over).code).to.equal(0);
    });
  });

  describe('follow', () => {
    it('prints every fix of a file, only those that pass a filter, or only the accurate ones', async () => {
      const all = (await run('follow walk.gpx --json')).json();
      const [summary] = (await run('summary walk.gpx --json')).json();
      expect(all.length).to.equal(summary.fixes);
      const some = (await run('follow walk.gpx --every 1min --beyond 50m --json')).json();
      for (let i = 1; i < some.length; i++) {
        expect(Date.parse(some[i].time as string) - Date.parse(some[i - 1].time as string)).to.be.at.least(
          60_000,
        );
      }
      expect(some.length).to.be.within(55, 65);
      expect((await run('follow walk.gpx --accuracy 2m')).out).to.equal('');
    });

    it('prints the crossings of the fixes, and records a trail equal to the one it read', async () => {
      const { out, err } = await run('follow walk.gpx --fences demo --record copy.gpx');
      expect(out).to.match(/\d\d:\d\d:\d\d {2}-- enter Ox-eye Meadow\n/);
      expect(err).to.match(/^copy\.gpx: \d+ fixes, 5\.\d\d km in 1 h/);
      const [a, b] = await Promise.all(
        ['walk.gpx', 'copy.gpx'].map(async (name) => [
          ...readGpx(await readFile(file(name), 'utf8')).trails[0]!,
        ]),
      );
      expect(b).to.deep.equal(a);
      const again = await run('follow walk.gpx --record copy.gpx');
      expect([again.code, again.err]).to.deep.equal([
        1,
        'aurelian: copy.gpx: a file with this name exists already. Choose another name, or move the file.\n',
      ]);
    });

    it('walks the island by itself, at the given tempo', async () => {
      const fixes = (await run('follow demo:dune-round --tempo max --every 5min --json')).json();
      expect(fixes.length).to.be.within(7, 11);
      expect(fixes[0].origin).to.equal('simulated');
    });
  });

  describe('follow, live', () => {
    it('ends when it is asked to, by a key or by the system, with all that it recorded', async () => {
      for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) {
        const following = started(folder.path, [
          'follow',
          'demo',
          '--tempo',
          '20',
          '--record',
          `${signal}.gpx`,
          '--json',
        ]);
        await eventually(() => expect(following.out().split('\n').length).to.be.above(10));
        following.kill(signal);
        const outcome = await following.over;
        const fixes = outcome.json().length;
        expect([outcome.code, outcome.err.split(' fixes')[0]]).to.deep.equal([0, `${signal}.gpx: ${fixes}`]);
        expect((await run(`summary ${signal}.gpx --json`)).json()[0].fixes).to.equal(fixes);
      }
    });
  });

  describe('map', () => {
    it('draws the trail on the island as SVG and as a PNG of the size asked', async () => {
      const { code, err } = await run('map walk.gpx -o map.svg --base demo --fences demo');
      expect(code, err).to.equal(0);
      const svg = await readFile(file('map.svg'), 'utf8');
      expect(spawnSync('xmllint', ['--noout', file('map.svg')]).status).to.equal(0);
      for (const words of [
        '<g id="trail">',
        '<g id="kite">',
        'Sedge Bottom',
        'Issel Tarn',
        'Vanesk, an island that does not exist',
      ]) {
        expect(svg).to.include(words);
      }
      await run('map walk.gpx -o map.png --base demo --size 640x400');
      const png = PNG.sync.read(await readFile(file('map.png')));
      expect([png.width, png.height]).to.deep.equal([640, 400]);
      const colours = new Set<string>();
      for (let i = 0; i < png.data.length; i += 4) colours.add(png.data.subarray(i, i + 3).toString('hex'));
      for (const colour of ['b7c6c6', 'dfd9a6', 'f5e8d2', '2b2a33'])
        expect(colours.has(colour), colour).to.equal(true);
    });

    it('draws on a grid when there is no background, and reports it', async () => {
      await run('map walk.gpx -o grid.svg');
      const svg = await readFile(file('grid.svg'), 'utf8');
      expect(svg).to.include('<g id="grid">').and.to.include('No background');
    });
  });

  describe('tour', () => {
    it('writes files that agree with each other', async function () {
      this.timeout(240_000);
      const { code, out, err } = await run('tour --into story');
      expect(code, err).to.equal(0);
      for (const words of [
        '1  Ask',
        'refuses',
        '2  One fix',
        '3  Follow',
        '4  The trail',
        '5  Share',
        'The broker keeps nothing of it.',
        '6  Files',
        'the same to the last digit',
      ]) {
        expect(out).to.include(words);
      }
      const trail = readGpx(await readFile(file('story/trail.gpx'), 'utf8')).trails[0]!;
      const crossings = JSON.parse(await readFile(file('story/crossings.json'), 'utf8')) as unknown[];
      expect((await run('crossings story/trail.gpx --fences demo --json')).json()).to.deep.equal(crossings);
      expect(out).to.include(`${trail.length} fixes`);
      const svg = await readFile(file('story/map.svg'), 'utf8');
      expect(svg).to.include('Tarn Round, 14 May 2026');
      const png = PNG.sync.read(await readFile(file('story/map.png')));
      expect([png.width, png.height]).to.deep.equal([1280, 800]);
      expect(await readFile(file('story/report.html'), 'utf8')).to.include(
        '<h1>Tarn Round, 14 May 2026</h1>',
      );
      const [outcome] = (await run('tour --into story2 --json')).json();
      expect(outcome).to.include({ crossings: crossings.length, readBackSame: true });
      expect(outcome.summary.fixes).to.equal(trail.length);
      // A rest is a stop of the trail, and what the hut saw.
      const rests = Array.from(trail.summary().stops, () => ['still', 'moved']).flat();
      expect(outcome.seenByHut).to.deep.equal(['joined', 'moved', ...rests, 'left']);
    });
  });

  describe('bad input', () => {
    const start = '<gpx>\n<trk><trkseg>\n';
    const point = '<trkpt lat="44.2" lon="-33.6"><time>2026-05-14T08:00:00Z</time></trkpt>\n';
    const fences = (geometry: object, properties: object) =>
      JSON.stringify(
        { type: 'FeatureCollection', features: [{ type: 'Feature', geometry, properties }] },
        undefined,
        1,
      );
    const cases: [string, string, string, string, RegExp][] = [
    ['a file cut short', 'cut.gpx', `${start}${point}${point}<trkpt lat="4`, 'summary --strict',
      /^aurelian: cut\.gpx:5:\d+: the file ends in/],
    ['a file that is not what it says', 'page.gpx', '<html><body>', 'summary',
      /^aurelian: page\.gpx:1:\d+: this is not GPX: it starts with <html>\n$/],
    ['plain text', 'notes.gpx', 'walked far', 'summary',
      /^aurelian: notes\.gpx:1: this is none of GPX, GeoJSON, KML, CSV and NMEA 0183\n$/],
    ['an impossible position', 'far.gpx', `${start}${point}<trkpt lat="133.6" lon="44.2">`, 'summary',
      /^aurelian: far\.gpx:4:\d+: latitude 133\.6 is outside −90…90; latitude and longitude swapped\?\n$/],
    ['waypoints only', 'points.gpx', '<gpx><wpt lat="1" lon="2"/></gpx>', 'summary',
      /^aurelian: points\.gpx: there is no trail in it: it has waypoints only\n$/],
    ['a track without times', 'line.gpx', '<gpx><trk><trkpt lat="1" lon="2"/></trk></gpx>', 'crossings --fences demo',
      /its points have no times\n$/],
    ['an empty file', 'empty.gpx', '', 'summary', /^aurelian: empty\.gpx:1: the file is empty\n$/],
    ['broken JSON', 'broken.geojson', '{\n"type": "FeatureCollection",\n"features": [}', 'summary',
      /^aurelian: broken\.geojson:3: this is not JSON: /],
    ['JSON cut short', 'short.geojson', '{\n"type": "FeatureCollection",\n"features": [', 'summary --strict',
      /^aurelian: short\.geojson:3: the file ends in the middle; it was cut short\n$/],
    ['an impossible position in JSON', 'swap.geojson',
      '{"type":"LineString",\n"coordinates":[\n[-33.6,44.2],\n[44.2,-133.6]]}', 'summary',
      /^aurelian: swap\.geojson:4: latitude -133\.6 .*swapped\?\n$/],
    ['a fence without a radius', 'fences.geojson', fences({ type: 'Point', coordinates: [0, 0] },
      { name: 'A\u0007<b>' }), 'crossings walk.gpx --fences',
        /^aurelian: fences\.geojson:\d+: fence "A <b>" is a Point and needs a radius in metres/],
  ]; // prettier-ignore
    for (const [name, path, text, command, message] of cases) {
      it(`as ${name} is one line with file, line and reason, and exit code 1`, async () => {
        await writeFile(file(path), text);
        const { code, err, out } = await run(`${command} ${path}`);
        expect(err).to.match(message);
        expect([code, out, err.split('\n').length]).to.deep.equal([1, '', 2]);
      });
    }

    it('that does not exist is reported as missing', async () => {
      expect(await run('summary nowhere.gpx')).to.include({
        code: 1,
        err: 'aurelian: nowhere.gpx: there is no such file\n',
      });
    });

    const misuses: [string, RegExp][] = [
      ['summry walk.gpx', /unknown command 'summry'\n\(Did you mean summary\?\)/],
      ['follow walk.gpx --evry 5s', /unknown option '--evry'\n\(Did you mean --every\?\)/],
      ['follow walk.gpx --every 5', /the unit is missing; a duration is written like 5s or 2min/],
      ['follow walk.gpx --beyond 20yd', /a length is written like 20m or 1\.5km/],
      ['simulate demo -o x.gpx --gait wlak', /Allowed choices are walk, run/],
      ['simulate demo -o x.txt', /x\.txt: the ending says the format/],
      ['simulate demo:moon-round -o x.gpx', /demo has no line "moon-round"; it has tarn-round/],
      ['measure 44.2,-33.6', /measure needs two positions/],
      ['measure 120,44 44,1', /latitude 120 is outside −90…90; latitude and longitude swapped\?/],
      ['measure 44.2;-33.6 1,1', /is no position; it is written LAT,LON/],
      ['map walk.gpx -o map.svg --size 10x10', /a size is written like 1280x800/],
      ['map walk.gpx --uot map.svg', /unknown option '--uot'\n\(Did you mean --out\?\)/],
      ['map walk.gpx', /required option '-o, --out <file>' not specified/],
      ['crossings walk.gpx', /required option '--fences <file>' not specified/],
    ];
    for (const [words, message] of misuses) {
      it(`as "aurelian ${words}" exits with code 2 and a message with the remedy`, async () => {
        const { code, err } = await run(words);
        expect(err).to.match(message);
        expect(code).to.equal(2);
      });
    }

    it('of names stays text in a picture', async () => {
      const feature = {
        type: 'Feature',
        geometry: { type: 'Point', coordinates: [-33.61, 44.19] },
        properties: { name: '<script>alert(1)</script>"\u0007', radius: 300 },
      };
      await writeFile(file('sly.geojson'), JSON.stringify(feature));
      expect(fencesFrom(feature)).to.have.length(1);
      await run('map walk.gpx -o sly.svg --fences sly.geojson');
      const svg = await readFile(file('sly.svg'), 'utf8');
      expect(svg).not.to.include('<script');
      expect(spawnSync('xmllint', ['--noout', file('sly.svg')]).status).to.equal(0);
      const { out } = await run('crossings walk.gpx --fences sly.geojson');
      for (const control of ['\u0007', '\u001b']) expect(out).not.to.include(control);
    });
  });

  describe('help', () => {
    it('names every command, and --version the version', async () => {
      const { out, code } = await run('--help');
      expect(code).to.equal(0);
      for (const command of ['tour', 'simulate', 'follow', 'summary', 'crossings', 'measure', 'map'])
        expect(out).to.match(new RegExp(`^ {2}${command} `, 'm'));
      expect((await run('--version')).out).to.match(/^\d+\.\d+\.\d+\n$/);
      expect((await run('follow --help')).out).to.include('--every <duration>');
    });
  });
});
