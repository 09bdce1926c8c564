import { Trail, ahead, tracksFrom, readCsv, readGpx, readKml, writeGpx } from 'aurelian-drift';
import { AxeBuilder } from '@axe-core/playwright';
import { expect } from 'chai';
import { createServer } from 'node:net';
import { open, readFile, readdir, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { Browser } from 'playwright-core';
import { launchChromium } from '../../scripts/browser.js';
import { aurelian, workFolder } from '../support/aurelian.js';

const START = Date.UTC(2026, 4, 14, 8);
const HUT = { lat: 44.2, lon: -33.6 };

describe('the command line, with trails in files', function () {
  this.timeout(240_000);
  const folder = workFolder();
  const run = (words: string, input?: string) => aurelian(folder.path, words.split(' '), input);
  const file = (name: string) => join(folder.path, name);
  const text = (name: string) => readFile(file(name), 'utf8');

  before(async () => {
    expect((await run('simulate demo:tarn-round -o walk.gpx --seed 7')).code).to.equal(0);
    expect((await run('simulate demo:tarn-round -o deep.gpx --seed 7 --reception deep')).code).to.equal(0);
  });

  describe('convert', () => {
    it('goes through every format, and back to the same bytes where nothing had to be left out', async () => {
      for (const format of ['kml', 'geojson', 'csv']) {
        expect((await run(`convert walk.gpx a.${format}`)).err).to.equal('');
        expect((await run(`convert a.${format} back-${format}.gpx`)).err).to.equal('');
        expect(await text(`back-${format}.gpx`)).to.equal(await text('walk.gpx'));
      }
      const { out, err } = await run('convert walk.gpx a.nmea');
      const count = Number(/with (\d+) fixes/.exec(out)![1]);
      expect(err).to.equal(
        `aurelian: a.nmea: 1 name, ${count} accuracies and ${count} altitude accuracies left out: the ` +
          `format has no place for them\n`,
      );
      const strict = await run('convert walk.gpx b.nmea --strict');
      expect([strict.code, (await readdir(folder.path)).includes('b.nmea')]).to.deep.equal([1, false]);
      expect((await run('convert a.nmea sea.kml')).code).to.equal(0);
      expect(readKml(await text('sea.kml')).trails[0]!.length).to.equal(count);
    });

    it('recognises a file by its content, whatever its name and encoding', async () => {
      const gpx = writeGpx({ trails: [Trail.from([{ time: START, ...HUT }], { name: 'Über die Düne' })] });
      await writeFile(file('wrong.csv'), gpx);
      await writeFile(file('utf16.dat'), Buffer.from(`\uFEFF${gpx.replace('UTF-8', 'UTF-16')}`, 'utf16le'));
      await writeFile(file('latin.gpx'), Buffer.from(gpx.replace('UTF-8', 'ISO-8859-1'), 'latin1'));
      await writeFile(file('mislabelled.gpx'), Buffer.from(gpx, 'latin1'));
      await writeFile(file('bom.gpx'), `\uFEFF${gpx}`);
      for (const name of ['wrong.csv', 'utf16.dat', 'latin.gpx', 'mislabelled.gpx', 'bom.gpx']) {
        const { code, err } = await run(`convert ${name} out.gpx --force`);
        expect(code, err).to.equal(0);
        expect(readGpx(await text('out.gpx')).trails[0]!.name, name).to.equal('Über die Düne');
        const reported =
          name === 'mislabelled.gpx'
            ? /^aurelian: mislabelled\.gpx:1: the text is not UTF-8; read as Windows-1252\n$/
            : /^$/;
        expect(err).to.match(reported);
      }
      for (const [name, bytes, reason] of [
        ['packed.kmz', 'PK\u0003\u0004', 'this is an archive (zip); unpack it first'],
        ['packed.gz', '\u001F\u008B\u0008', 'this is compressed (gzip); unpack it first'],
        ['odd.gpx', '<?xml version="1.0" encoding="quill-8"?><gpx/>', 'the encoding "quill-8" is unknown'],
        [
          'deep.json',
          `{"features":${'['.repeat(100_000)}`,
          'brackets stand more than 500 deep in one another',
        ],
        ['cut.geojson', '{"type":"FeatureCollection","features":[', 'there is no trail in it: it is empty'],
      ] as const) {
        await writeFile(file(name), Buffer.from(bytes, 'latin1'));
        const { code, err } = await run(`summary ${name}`);
        expect(code).to.equal(1);
        expect(err.trimEnd().split('\n').at(-1))
          .to.match(/^aurelian: /)
          .and.include(reason);
      }
    });

    it('reads the whole part of a file that was cut off, and names where it ends', async () => {
      const features = ['One', 'Two', 'Three'].map((name) =>
        JSON.stringify({
          type: 'Feature',
          geometry: { type: 'Point', coordinates: [-33.6, 44.2] },
          properties: { name },
        }),
      );
      await writeFile(
        file('cut.json'),
        `{"type":"FeatureCollection","features":[\n${features.join(',\n').slice(0, -20)}`,
      );
      const { code, err } = await run('convert cut.json points.geojson');
      expect([code, err]).to.deep.equal([
        0,
        'aurelian: cut.json:4: the file ends in the middle; it was cut short\n',
      ]);
      const { waypoints } = tracksFrom(JSON.parse(await text('points.geojson')));
      expect(waypoints.map(({ name }) => name)).to.deep.equal(['One', 'Two']);
      const walk = await text('walk.gpx');
      await writeFile(file('cut.gpx'), walk.slice(0, walk.length / 2));
      const half = await run('summary cut.gpx --json');
      expect(half.err).to.match(/^aurelian: cut\.gpx:\d+: the file ends /);
      expect(half.json()[0].fixes).to.be.within(1800, 2000);
    });

    it('lets a large file through in little memory, and leaves nothing behind when it fails', async () => {
      const big = await open(file('big.gpx'), 'w');
      const walk = await text('walk.gpx');
      const [start] = walk.split('<trkpt', 1) as [string];
      const points = walk.slice(start.length, walk.indexOf('</trkseg>'));
      await big.write(start);
      const times = Math.ceil(35e6 / points.length);
      for (let i = 0; i < times; i++) await big.write(points);
      await big.write('</trkseg>\n</trk>\n</gpx>\n');
      await big.close();
      process.env['NODE_OPTIONS'] = '--max-old-space-size=40';
      try {
        const fixes = times * points.split('<trkpt').slice(1).length;
        const { out, err } = await run('convert big.gpx big.geojson');
        expect([out, err]).to.deep.equal([`big.geojson: 1 trail with ${fixes} fixes\n`, '']);
        const [summary] = (await run('summary big.gpx --raw --json')).json();
        // Its times go back to the start again and again, as those of a clock that is set back.
        expect(summary).to.include({ fixes, segments: times, path: 'fixes' });
      } finally {
        delete process.env['NODE_OPTIONS'];
      }
      const { trails } = tracksFrom(JSON.parse(await text('big.geojson')));
      expect(trails[0]!.at(-1)).to.deep.equal(readGpx(walk).trails[0]!.at(-1));
      await writeFile(file('precious.kml'), 'precious');
      const end = await open(file('big.gpx'), 'a');
      await end.write('<trk>');
      await end.close();
      expect((await run('convert big.gpx precious.kml --force --strict')).code).to.equal(1);
      expect(await text('precious.kml')).to.equal('precious');
      const left = (await readdir(folder.path)).filter((name) => /part|aside/.test(name));
      expect(left).to.deep.equal([]);
    });

    it('steadies a path on request, beside the raw one', async () => {
      await run('simulate demo:tarn-round -o trees.gpx --seed 4001 --reception trees --truth true.gpx');
      expect((await run('convert trees.gpx steady.gpx --smooth')).out).to.match(
        /^steady\.gpx: 1 trail with \d+ fixes\n$/,
      );
      const figures = async (name: string) =>
        (await run(`summary ${name} --raw --json`)).json()[0] as { fixes: number; distance: number };
      const [raw, steady, truth] = [
        await figures('trees.gpx'),
        await figures('steady.gpx'),
        await figures('true.gpx'),
      ];
      expect(steady.fixes).to.equal(raw.fixes);
      expect(raw.distance / truth.distance).to.be.above(2);
      expect(steady.distance / truth.distance).to.be.closeTo(1, 0.02);
    });

    it('keeps the data under a veil out of every output', async () => {
      const home = {
        type: 'FeatureCollection',
        features: [
          {
            type: 'Feature',
            id: 'home',
            geometry: { type: 'Point', coordinates: [-33.6096, 44.1864] },
            properties: { name: 'Home', radius: 120 },
          },
        ],
      };
      await writeFile(file('home.geojson'), JSON.stringify(home));
      const { out, err } = await run('convert walk.gpx veiled.gpx --veil home.geojson');
      expect(err).to.match(/^aurelian: veiled\.gpx: veiled: \d+ fixes in 2 cuts\n$/);
      expect(out).to.match(/^veiled\.gpx: 1 trail with \d+ of 3890 fixes\n$/);
      const [trail] = readGpx(await text('veiled.gpx')).trails;
      const centre = { lat: 44.1864, lon: -33.6096 };
      for (const fix of trail!)
        expect(Math.hypot((fix.lat - centre.lat) * 111_000, (fix.lon - centre.lon) * 79_700)).to.be.above(
          119,
        );
      expect((await run('summary veiled.gpx')).out).to.match(/^veiled +2 parts cut out$/m);
      expect((await run('convert walk.gpx far.gpx --veil demo')).code).to.equal(0);
    });
  });

  describe('summary', () => {
    it('reports splits, time in fences, gaps and pace, in the chosen units', async () => {
      const { out } = await run('summary walk.gpx --splits 1km --fences demo');
      expect(out)
        .to.match(/^pace +\d\d:\d\d min\/km in motion$/m)
        .and.to.match(/^resting +\d+ s$/m);
      expect(out).to.match(/^split +distance +time +moving +pace +up +down$/m);
      expect(out)
        .to.match(/^ +6 +\d+ m /m)
        .and.to.match(/^Ox-eye Meadow +\d+ min \d+ s +1$/m);
      const [{ splits, inside, distance }] = (
        await run('summary walk.gpx --splits 1mi --fences demo --json')
      ).json();
      const sum = (splits as { distance: number }[]).reduce((total, split) => total + split.distance, 0);
      expect(sum).to.be.closeTo(distance as number, 0.01);
      expect((splits as { distance: number }[])[0]!.distance).to.be.closeTo(1609.344, 0.01);
      expect((inside as { fence: string; inside: number; visits: number }[])[0]).to.include.keys(
        'fence',
        'name',
        'duration',
        'visits',
      );
      const sea = await run('summary deep.gpx --units nautical');
      expect(sea.out)
        .to.match(/^distance +2\.\d\d nmi /m)
        .and.to.match(/^moving speed +\d\.\d kn$/m);
      expect(sea.out).to.match(/^gaps +(\d+ min )?\d+ s, .*, /m);
    });

    it('measures every fix as it stands when that is wanted', async () => {
      const [raw] = (await run('summary walk.gpx --raw --json')).json();
      expect(raw.path).to.equal('fixes');
      expect(raw.distance).to.be.closeTo(raw.rawDistance, 0.01);
    });
  });

  describe('follow', () => {
    it('follows sentences from a network as they come, and records them', async () => {
      await run('convert walk.gpx live.nmea');
      const lines = (await text('live.nmea')).split(/(?<=\r\n)/).slice(0, 20);
      const server = createServer((socket) => {
        void (async () => {
          for (const line of [...lines, '$GNRMC,1,A*00\r\n']) {
            socket.write(line);
            await new Promise((resolve) => setImmediate(resolve));
          }
          socket.end();
        })();
      });
      await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
      const { port } = server.address() as { port: number };
      const { code, out, err } = await run(`follow tcp://127.0.0.1:${port} --json --record live.gpx`);
      server.close();
      expect(code).to.equal(0);
      expect(out.trimEnd().split('\n')).to.have.length(10);
      expect(err).to.include(`aurelian: tcp://127.0.0.1:${port}:21: the checksum of GNRMC is`);
      expect(readGpx(await text('live.gpx')).trails[0]!.length).to.equal(10);
      const gone = await run(`follow tcp://127.0.0.1:${port}`);
      expect([gone.code, gone.err]).to.deep.equal([1, `aurelian: connect ECONNREFUSED 127.0.0.1:${port}\n`]);
      expect((await run('follow tcp://nowhere')).err).to.include(
        'a stream is written like tcp://127.0.0.1:10110',
      );
    });

    it('takes sentences from standard input, and any other format too', async () => {
      const lines = (await text('live.nmea')).split(/(?<=\r\n)/).slice(0, 6);
      expect((await run('follow -', lines.join(''))).out.trimEnd().split('\n')).to.have.length(3);
      expect((await run('follow - --json', await text('a.kml'))).json()).to.have.length(3890);
      expect((await run('follow -', 'walked far')).err).to.include('this is none of GPX, GeoJSON, KML');
    });
  });

  describe('report', () => {
    let browser: Browser;
    before(async () => {
      browser = await launchChromium();
    });
    after(() => browser.close());

    it(
      'is one page that asks the network for nothing, runs no script, and holds map, figures, ' +
        'profiles, splits, crossings',
      async () => {
        const { code, out, err } = await run('report walk.gpx -o round.html --base demo --fences demo');
        expect(code, err).to.equal(0);
        expect(out).to.match(/^round\.html: 1 trail with 3890 fixes, \d+ kB\n$/);
        const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
        const page = await context.newPage();
        const asked: string[] = [];
        page.on('request', (request) => asked.push(request.url()));
        await page.goto(`file://${file('round.html')}`);
        expect(asked.filter((url) => !/^(file|data):/.test(url))).to.deep.equal([]);
        expect(await page.locator('script').count()).to.equal(0);
        expect(await page.locator('h1').textContent()).to.equal('Tarn Round');
        const figures = await page.locator('.figures div').allTextContents();
        const [summary] = (await run('summary walk.gpx --json')).json();
        expect(figures).to.include(`Distance${((summary.distance as number) / 1000).toFixed(2)} km`);
        expect(await page.locator('.sheet svg').count()).to.equal(2);
        expect(await page.locator('.sheet svg').first().isVisible()).to.equal(true);
        expect(await page.locator('.chart figcaption').allTextContents()).to.deep.equal([
          'Height over distance m above the sea · thin line: as measured',
          'Height over time m above the sea · thin line: as measured',
          'Speed over distance km/h',
          'Speed over time km/h',
        ]);
        const captions = await page.locator('caption').allTextContents();
        expect(captions).to.deep.equal(['Splits of 1.00 km', 'Time in each fence', 'Crossings']);
        const crossings = (await run('crossings walk.gpx --fences demo --json')).json();
        const rows = page
          .locator('table', { has: page.locator('caption', { hasText: 'Crossings' }) })
          .locator('tbody tr');
        expect(await rows.count()).to.equal(crossings.length);
        const { violations } = await new AxeBuilder({ page }).analyze();
        expect(violations.map(({ id }) => id)).to.deep.equal([]);
        // On a phone nothing is wider than the screen, and the page uses the map for narrow screens.
        await page.setViewportSize({ width: 390, height: 844 });
        expect(await page.evaluate(() => document.documentElement.scrollWidth)).to.equal(390);
        expect(await page.locator('.narrow svg').isVisible()).to.equal(true);
        expect(await page.locator('.wide svg').isVisible()).to.equal(false);
        await context.close();
      },
    );

    it('prints on two pages of A4', async () => {
      const page = await browser.newPage();
      await page.goto(`file://${file('round.html')}`);
      const pdf = (await page.pdf({ preferCSSPageSize: true })).toString('latin1');
      expect(pdf.startsWith('%PDF-')).to.equal(true);
      expect(pdf.match(/\/Type\s*\/Page\b/g)).to.have.length(2);
      const [width, height] = /\/MediaBox\s*\[\s*0 0 ([\d.]+) ([\d.]+)\s*\]/.exec(pdf)!.slice(1).map(Number);
      expect(width).to.be.closeTo(595, 1);
      expect(height).to.be.closeTo(842, 1);
      await page.close();
    });

    it('treats names as text, reports unknown fields, and counts the gaps', async () => {
      const trail = Trail.from(
        Array.from({ length: 60 }, (_, i) => ({
          time: START + (i < 30 ? i : i + 600) * 1000,
          ...ahead(HUT, 90, i * 1.4),
        })),
        { name: '<img src=x onerror=alert(1)> & "walk"' },
      );
      await writeFile(file('names.gpx'), writeGpx({ trails: [trail, trail] }));
      expect((await run('report names.gpx -o names.html --units imperial --locale de')).code).to.equal(0);
      const page = await browser.newPage();
      await page.goto(`file://${file('names.html')}`);
      expect(await page.locator('img').count()).to.equal(0);
      expect(await page.locator('h2').first().textContent()).to.equal(
        '<img src=x onerror=alert(1)> & "walk"',
      );
      expect(await page.locator('body').textContent())
        .to.include('No height is known.')
        .and.include('The path is unknown for 10 min 1 s in 1 gap')
        .and.match(/Distance\d+ ft/);
      await page.close();
      expect((await run('report names.gpx -o names.html')).err).to.include(
        'a file with this name exists already',
      );
      expect((await run('report names.gpx -o names.pdf')).err).to.include('a report is written as .html');
      expect((await run('report names.gpx -o n.html --zone Nowhere')).err).to.include('is not a time zone');
    });
  });

  it('reads CSV of one’s own making into all of it', async () => {
    await writeFile(
      file('own.csv'),
      'time,lat,lon,"{urn:example:quill}pulse"\n2026-05-14T08:00:00Z,44.2,-33.6,90\n',
    );
    await run('convert own.csv own.gpx');
    expect(await text('own.gpx')).to.include('<pulse xmlns="urn:example:quill">90</pulse>');
    expect(readCsv(await text('own.csv')).trails[0]!.extraKeys).to.deep.equal(['{urn:example:quill}pulse']);
  });
});
