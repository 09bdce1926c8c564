import { expect } from 'chai';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type * as Stores from 'aurelian-drift/stores';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { aurelian } from '../support/aurelian.js';
import { eventually } from '../support/eventually.js';
import { HUT, drawn, mapPages, putTiles, type MapWindow } from '../support/map-page.js';
import { tileColour, tileServer } from '../support/tile-server.js';

declare const window: MapWindow & {
  stores: typeof Stores;
  progress: { done: number; bytes: number }[];
};

describe('tiles of a service as it really is', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const colour = (page: Page) =>
    page.evaluate(() => {
      const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
      const [x, y] = [canvas.width / 2, canvas.height / 2];
      return [...canvas.getContext('2d')!.getImageData(x, y, 1, 1).data].slice(0, 3);
    });
  const shows = (page: Page, z: number) =>
    eventually(async () => expect(await colour(page)).to.deep.equal(tileColour(z)));

  it('that failed are asked for again when the network is back, and only so often before', async () => {
    const server = await tileServer({ status: 503 });
    const { page, context } = await sheet();
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
    const note = page.locator('#map .note').filter({ hasText: 'cannot be loaded' });
    await note.waitFor();
    const asked = server.asked.length;
    const tiles = new Set(server.asked).size;
    expect(asked).to.be.at.most(3 * tiles); // three times each until it is told, in some seconds
    for (let i = 0; i < 20; i++) await page.evaluate(() => window.sheet.look({ turn: 0 }));
    await drawn(page);
    // Wanted again twenty times, and asked for at most once more.
    expect(server.asked.length).to.be.at.most(asked + 2 * tiles);
    delete server.manner.status;
    await page.evaluate(() => window.dispatchEvent(new Event('online')));
    await shows(page, 15);
    await eventually(async () => expect(await note.count()).to.equal(0));
    await context.close();
    await server.close();
  });

  it('some of which are missing, refused or served get the right note, or none', async () => {
    const odd = (path: string) => Number(path.split('/')[2]) % 2 === 1;
    const server = await tileServer({ statusOf: (path) => (odd(path) ? 404 : undefined) });
    const { page, context } = await sheet();
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
    await eventually(() => expect(server.asked.length).to.be.above(8));
    await drawn(page);
    expect(await page.locator('#map .note').count()).to.equal(0); // over the open sea there may be none
    server.manner.statusOf = (path) => (odd(path) ? 401 : undefined);
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png?again` });
    const refused = page.locator('#map .note').filter({ hasText: 'not available to this page' });
    await refused.waitFor();
    server.manner.statusOf = () => 404;
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png?third` });
    await page.locator('#map .note').filter({ hasText: 'cannot be loaded' }).waitFor();
    expect((await page.evaluate(() => window.warned)).at(-1)).to.include('is the template right?');
    expect(await refused.count()).to.equal(0);
    await context.close();
    await server.close();
  });

  it('are sharp on a sharp screen: those of the next zoom, or those of a placeholder', async () => {
    for (const ratio of [2, 3]) {
      const server = await tileServer();
      // A small map: very many pixels are read back slowly.
      const { page, context } = await sheet(
        {},
        { deviceScaleFactor: ratio },
        '#map { width: 260px !important; height: 240px !important }',
      );
      await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
      await shows(page, 16);
      server.manner.size = 512;
      await putTiles(page, { template: `${server.address}/{z}/{x}/{y}{sharp}.png`, sharp: '-fine' });
      await shows(page, 15);
      expect(server.asked.at(-1)).to.match(/^\/15\/\d+\/\d+-fine\.png$/);
      await context.close();
      await server.close();
    }
  });

  it('are asked for a few at a time, from the middle, and those out of view are taken back', async () => {
    let go = () => {};
    const server = await tileServer({ hold: new Promise((resolve) => (go = resolve)) });
    const { page, context } = await sheet();
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
    await eventually(() => expect(server.asked.length).to.equal(6));
    await drawn(page);
    expect(server.asked.length).to.equal(6);
    const x = Math.floor((146.4 / 360) * 2 ** 15);
    expect(Math.abs(Number(server.asked[0]!.split('/')[2]) - x)).to.be.at.most(1);
    await page.evaluate(() => window.sheet.look({ centre: { lat: 10, lon: 10 } }));
    await eventually(() => expect(server.dropped.length).to.equal(6));
    go();
    await shows(page, 15);
    const far = Math.floor((190 / 360) * 2 ** 15);
    const late = server.asked.slice(6).map((path) => Math.abs(Number(path.split('/')[2]) - far));
    expect(Math.max(...late)).to.be.at.most(3); // nothing of the place that was left
    await context.close();
    await server.close();
  });

  it('come into view as the map is dragged, however far', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
    await shows(page, 15);
    for (let i = 0; i < 4; i++) {
      await page.mouse.move(600, 216);
      await page.mouse.down();
      await page.mouse.move(40, 216, { steps: 8 });
      await page.mouse.up();
    }
    await shows(page, 15);
    // Four drags of 560 pixels: the tile in the middle is eight or nine columns on.
    const middle = await page.evaluate(() => window.sheet.$view.get()!.centre.lon);
    expect(middle - HUT.lon).to.be.closeTo(((4 * 560) / (256 * 2 ** 15)) * 360, 1e-3);
    const column = Math.floor(((180 + middle) / 360) * 2 ** 15);
    expect(server.asked.some((path) => path.startsWith(`/15/${column}/`))).to.equal(true);
    await context.close();
    await server.close();
  });
});

describe('the tiles of an area', function () {
  this.timeout(240_000);
  const { sheet, served } = mapPages();
  const AREA = [-33.61, 44.195, -33.59, 44.205];
  /** Keeps the area, and returns it or the error; `stopAt` cancels after so many tiles. */
  const keep = (page: Page, template: string, more: object = {}, stopAt = 1e9) =>
    page.evaluate(
      async ([area, address, rest, last]) => {
        window.progress = [];
        const stop = new AbortController();
        const tiles = { template: address, credit: 'Tiles of nobody', mayKeep: true };
        const options = {
          ...{ tiles, area, zooms: [13, 15], name: 'island', signal: stop.signal, ...rest },
          onProgress: (progress: { done: number; bytes: number }) => {
            window.progress.push(progress);
            if (progress.done >= last) stop.abort();
          },
        };
        try {
          return await window.map.keepTiles(options as never);
        } catch (error) {
          return `${(error as Error).name}: ${(error as Error).message}`;
        }
      },
      [AREA, template, more, stopAt] as const,
    );
  const show = async (page: Page, template: string) => {
    await putTiles(page, { template });
    await eventually(async () => {
      const data = await page.evaluate(() => {
        const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
        return [...canvas.getContext('2d')!.getImageData(320, 216, 1, 1).data].slice(0, 3);
      });
      expect(data).to.deep.equal(tileColour(15));
    });
  };

  /** Counted apart: columns and rows of Web Mercator tiles. */
  const count = [13, 14, 15].reduce((sum, z) => {
    const x = (lon: number) => Math.floor(((lon + 180) / 360) * 2 ** z);
    const y = (lat: number) => {
      const tan = Math.tan((lat * Math.PI) / 180);
      return Math.floor(((1 - Math.asinh(tan) / Math.PI) / 2) * 2 ** z);
    };
    return sum + (x(-33.59) - x(-33.61) + 1) * (y(44.195) - y(44.205) + 1);
  }, 0);

  it('are measured, kept with progress, cancelled and taken up again, and used offline, by a service worker too', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    const template = `${server.address}/{z}/{x}/{y}.png`;
    const measured = await page.evaluate(
      ([area, address]) =>
        window.map.measureTiles({
          tiles: { template: address, credit: 'Tiles of nobody', mayKeep: true },
          area: area as never,
          zooms: [13, 15],
        }),
      [AREA, template] as const,
    );
    expect([measured.count, measured.free! > 1e6]).to.deep.equal([count, true]);
    expect(await keep(page, template, {}, 3)).to.match(/^AbortError/);
    const [partly] = await page.evaluate(() => window.map.keptAreas());
    expect(partly).to.include({ name: 'island', count });
    expect(partly!.kept).to.be.within(3, 7);
    const before = server.asked.length;
    const kept = await keep(page, template);
    expect(kept).to.include({ name: 'island', count, kept: count, credit: 'Tiles of nobody' });
    expect(server.asked.length - before).to.be.within(count - 7, count - 3); // those that were there are not asked for
    const { bytes } = kept as { bytes: number };
    expect(bytes).to.be.within(measured.bytes * 0.8, measured.bytes * 1.2);
    expect(await page.evaluate(() => window.progress.at(-1))).to.deep.equal({ done: count, count, bytes });

    await writeFile(
      `${served.folder}/worker.js`,
      `self.addEventListener('activate', (event) => event.waitUntil(clients.claim()));
       self.addEventListener('fetch', (event) => event.respondWith(
         caches.match(event.request).then((kept) => kept ?? fetch(event.request))));`,
    );
    await page.evaluate(async () => {
      await navigator.serviceWorker.register('/worker.js');
      if (navigator.serviceWorker.controller === null)
        await new Promise((resolve) => navigator.serviceWorker.addEventListener('controllerchange', resolve));
    });
    await server.close(); // the network is gone
    const asked = server.asked.length;
    await show(page, template);
    // 44.2° N, 33.6° W, by the formula of Web Mercator.
    const row = Math.floor(((1 - Math.asinh(Math.tan((44.2 * Math.PI) / 180)) / Math.PI) / 2) * 2 ** 15);
    const tile = `${server.address}/15/${Math.floor((146.4 / 360) * 2 ** 15)}/${row}.png`;
    const plain = await page.evaluate((address) => fetch(address).then(({ status }) => status), tile);
    expect([plain, server.asked.length]).to.deep.equal([200, asked]);
    await context.close();
  });

  it('are saved as an archive, which a still picture on the command line draws', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    const template = `${server.address}/{z}/{x}/{y}.png`;
    await keep(page, template, { zooms: [13, 16], area: [-33.63, 44.185, -33.57, 44.215] });
    const folder = await mkdtemp(join(tmpdir(), 'drift-tiles-'));
    const bytes = await page.evaluate(async () => [
      ...new Uint8Array(await (await window.map.keptArchive('island')).arrayBuffer()),
    ]);
    await writeFile(join(folder, 'tiles.zip'), Uint8Array.from(bytes));
    const trail = {
      type: 'LineString',
      coordinates: [
        [-33.605, 44.199],
        [-33.595, 44.201],
      ],
    };
    await writeFile(join(folder, 'line.geojson'), JSON.stringify(trail));
    const draw = async (...more: string[]) =>
      aurelian(folder, ['map', 'line.geojson', '-o', 'map.png', ...more]);
    await server.close();
    const { code, err } = await draw('--tiles', 'tiles.zip', '--size', '600x400');
    expect([code, err]).to.deep.equal([0, '']);
    const picture = PNG.sync.read(await readFile(join(folder, 'map.png')));
    const at = (600 * 100 + 300) * 4;
    expect([...picture.data.subarray(at, at + 3)]).to.deep.equal(tileColour(16));
    const wrong = await Promise.all([
      draw('--tiles', 'line.geojson'),
      draw('--tiles', '{z}/{x}/{y}'),
      draw('--tiles', '{z}/{x}', '--tile-credit', 'c'),
      draw('--tiles', '.', '--tile-credit', 'c', '--base', 'demo'),
    ]);
    expect(wrong.map((each) => [each.code, each.err.trim()])).to.deep.equal([
      [2, `aurelian: line.geojson: this is not a ZIP file of tiles`],
      [
        2,
        'aurelian: {z}/{x}/{y}: name the source of the tiles with --tile-credit, or in about.json beside them',
      ],
      [1, 'aurelian: tiles: the template has no {y}: "{z}/{x}"'],
      [2, 'aurelian: --base and --tiles: a map has one background'],
    ]);
    await rm(folder, { recursive: true });
    await context.close();
  });

  it('expire, are removed without those that another area needs, and go with all that is forgotten', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    const template = `${server.address}/{z}/{x}/{y}.png`;
    await keep(page, template);
    await keep(page, template, { name: 'west', area: [-33.61, 44.195, -33.6, 44.205] });
    const size = () =>
      page.evaluate(async () => (await (await caches.open(window.map.KEPT_TILES)).keys()).length);
    expect(await size()).to.equal(count + 2);
    expect(await page.evaluate(() => window.map.removeKeptArea('island'))).to.equal(1);
    const left = await page.evaluate(() => window.map.keptAreas());
    expect(left.map(({ name }) => name)).to.deep.equal(['west']);
    expect(await size()).to.equal(left[0]!.count + 1);
    // A month later the service is asked again, and the area is gone.
    const asked = server.asked.length;
    await page.evaluate(() => {
      const { now } = Date;
      Date.now = () => now() + 31 * 86_400_000;
    });
    await show(page, template);
    expect(server.asked.length).to.be.above(asked);
    expect(await page.evaluate(() => window.map.keptAreas())).to.deep.equal([]);
    expect(await size()).to.equal(0);

    await keep(page, template);
    await page.evaluate(async (at) => {
      localStorage.setItem('of the app', 'stays');
      const store = window.stores.browserStore();
      const recorder = new window.drift.Recorder({ store });
      recorder.start();
      recorder.take(window.drift.fixFrom({ ...at, time: 1.7e12 }));
      await recorder.finish();
      await store.close();
      const container = document.getElementById('map')!;
      window.sheet = new window.map.MapSheet({ container, centre: at, zoom: 12, keepView: 'test' });
    }, HUT);
    await page.getByRole('button', { name: 'Closer' }).click();
    await page.waitForFunction(() => localStorage.getItem('aurelian-drift/view/test') !== null);
    const erased = await page.evaluate(() => window.stores.forgetAll());
    expect(erased).to.deep.equal({ trails: 1, views: 1, sharing: 0, areas: 1, tiles: count, failed: [] });
    expect(await page.evaluate(() => window.stores.forgetAll())).to.deep.equal({
      ...{ trails: 0, views: 0, sharing: 0, areas: 0, tiles: 0, failed: [] },
    });
    expect(await page.evaluate(() => localStorage.getItem('of the app'))).to.equal('stays');
    await context.close();
    await server.close();
  });

  it('are refused with a reason: a provider that does not allow it, too many, a service that refuses or fails', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    const template = `${server.address}/{z}/{x}/{y}.png`;
    const tiles = { template, credit: 'c' };
    expect(await keep(page, template, { tiles })).to.match(/^InputError: .*mayKeep must be true/);
    expect(await keep(page, template, { zooms: [0, 19], area: [-40, 40, -30, 50] })).to.match(
      /tiles at zooms 0 to 19/,
    );
    expect(await keep(page, template, { zooms: [15, 13] })).to.match(/two whole zooms of 0 to 24/);
    expect(await keep(page, template, { areas: 1 })).to.match(/did you mean "area"/);
    expect(await keep(page, template, { area: [-33, 45, -32, 44] })).to.match(/south 45 is north of 44/);
    server.manner.statusOf = () => 403;
    expect(await keep(page, template)).to.match(/the service refuses tile 13\/\d+\/\d+: it answers 403/);
    server.manner.statusOf = () => 404;
    expect(await keep(page, template)).to.include({ kept: count, bytes: 0 });
    await context.close();
    await server.close();
  });
});
