import type { MapElement } from 'aurelian-drift/elements';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { eventually } from '../support/eventually.js';
import { TOLVAY, mapSays, pages } from '../support/pages.js';
import { tileServer } from '../support/tile-server.js';

const PHONE = { viewport: { width: 390, height: 844 }, hasTouch: true } as const;
/** Each page, and what brings its map and its figures onto it. */
const PAGES: Readonly<Record<string, (page: Page) => Promise<unknown>>> = {
  '': async () => {},
  'whereabouts/?pretend': async (page) => {
    await page.locator('#find').click();
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.locator('#map canvas').first().waitFor();
  },
  'round/?pretend': async (page) => {
    await page.locator('#sighting-text').fill('Two blues');
    await page.getByRole('button', { name: 'Note it' }).click();
    await page.locator('#start').click();
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.locator('#map canvas').first().waitFor();
  },
  'hut/?pretend': (page) => page.locator('#roster button').first().waitFor(),
  'replay/': async (page) => {
    await page.locator('#demo').click();
    await page.locator('#crossings li').first().waitFor();
  },
  'react/?pretend': (page) => page.getByRole('button', { name: 'Start' }).click(),
  'vue/?pretend': (page) => page.getByRole('button', { name: 'Start' }).click(),
  'plain/?pretend': (page) => page.getByRole('button', { name: 'Start' }).click(),
  'no-script/?pretend': async (page) => {
    await page.getByRole('button', { name: 'Where am I?' }).click();
    await page.locator('aurelian-near').getByText('Tolvay Stores', { exact: true }).waitFor();
  },
  'notes/': (page) => page.locator('#no-background .note').waitFor(),
};

describe('every example page', function () {
  this.timeout(240_000);
  const { open } = pages();

  for (const [path, act] of Object.entries(PAGES)) {
    it(`has no fault and fits, on a desk by day and on a phone at dusk: ${path || 'the list of them'}`, async () => {
      for (const options of [{ colorScheme: 'light' }, { ...PHONE, colorScheme: 'dark' }] as const) {
        const { page, context, complaints } = await open(path, options);
        const warned: string[] = [];
        page.on('console', (message) => message.type() === 'warning' && warned.push(message.text()));
        await act(page);
        expect(await faultsOf(page)).to.deep.equal([]);
        const width = await page.evaluate(() => document.documentElement.scrollWidth - innerWidth);
        expect(width, 'pixels beside the screen').to.be.at.most(0);
        const paper = await page.evaluate(() => getComputedStyle(document.documentElement).backgroundColor);
        expect(paper).to.equal(options.colorScheme === 'light' ? 'rgb(245, 232, 210)' : 'rgb(33, 30, 44)');
        const sheet = page.locator('.aurelian-map, aurelian-map').first();
        if ((await sheet.count()) > 0 && path !== 'notes/') await sheet.waitFor();
        // The page with the notes provokes what it shows.
        if (path !== 'notes/') expect([...complaints, ...warned]).to.deep.equal([]);
        await context.close();
      }
    });
  }

  it('shows the visitor’s own tiles with their credit, also when it is opened again', async () => {
    const tiles = await tileServer();
    const template = `${tiles.address}/{z}/{x}/{y}.png`;
    for (const path of ['whereabouts/?pretend', 'react/?pretend', 'no-script/?pretend']) {
      const { page, context } = await open(path);
      await page.getByText('See your own town').click();
      const field = (name: string) => page.locator(`#own-map input[name=${name}]`);
      for (const [map, credit, problem] of [
        ['nonsense://', 'X', 'The address begins with https: or http:.'],
        [`${tiles.address}/{z}/{x}.png`, 'X', '{y} is missing'],
        [template, '', 'Name the source of the tiles'],
      ] as const) {
        await field('map').fill(map);
        await field('credit').fill(credit);
        await page.getByRole('button', { name: 'Show it' }).click();
        await page.locator('#own-map [role=status]', { hasText: problem }).waitFor();
      }
      await field('credit').fill('<b>Own</b> tiles');
      await page.getByRole('button', { name: 'Show it' }).click();
      await page.waitForURL(/credit=/);
      await page.reload();
      await PAGES[path]!(page);
      await eventually(() => expect(tiles.asked.length).to.be.above(0));
      if (path.startsWith('no-script')) {
        const credits = await page.evaluate(
          () =>
            (
              document.querySelector<MapElement>('aurelian-map')!.sheet!.layers as never as {
                credits: string[];
              }
            ).credits,
        );
        expect(credits).to.deep.equal(['<b>Own</b> tiles']);
      }
      await page.getByText('See your own town').click();
      await page.getByRole('button', { name: 'Show the island' }).click();
      await page.waitForURL((url) => !url.search.includes('credit='));
      tiles.asked.length = 0;
      await context.close();
    }
    await tiles.close();
  });

  it('shows the visitor’s own file, and says in the map when there is none', async () => {
    const town = JSON.stringify({
      type: 'FeatureCollection',
      features: [
        {
          type: 'Feature',
          properties: { kind: 'water' },
          geometry: { type: 'Polygon', coordinates: [[[-33.59, 44.2], [-33.57, 44.2], [-33.57, 44.21], [-33.59, 44.2]]] }, // prettier-ignore
        },
      ],
    });
    const { page, context } = await open('notes/', { permissions: ['geolocation'], geolocation: TOLVAY });
    const start = page.url().replace('notes/', 'whereabouts/');
    let asked = 0;
    await page.route('**/town.geojson', (route) => {
      asked++;
      return route.fulfill({ body: town, contentType: 'application/json' });
    });
    await page.goto(`${start}?map=${encodeURIComponent('./town.geojson')}&credit=The+town`);
    await page.locator('#find').click();
    await mapSays(page, 'own place 44.20313');
    await eventually(() => expect(asked).to.equal(1));
    expect(await page.locator('#map .note').count()).to.equal(0);
    await page.goto(`${start}?map=${encodeURIComponent('./city.geojson')}`);
    await page.locator('#find').click();
    await page.locator('#map [data-kind=content]').waitFor();
    await context.close();
  });

  it('names files that are there: the list of the pages has a picture of each', async () => {
    const { page, context } = await open('');
    for (const picture of await page.locator('.cards img').all()) {
      await picture.scrollIntoViewIfNeeded();
      await eventually(async () =>
        expect(await picture.evaluate((image: HTMLImageElement) => image.naturalWidth)).to.equal(1280),
      );
    }
    for (const link of await page.locator('main a').all()) {
      const address = await link.evaluate((a: HTMLAnchorElement) => a.href);
      expect((await page.request.get(address)).status(), address).to.equal(200);
    }
    await context.close();
  });
});
