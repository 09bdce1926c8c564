import type { MapElement } from 'aurelian-drift/elements';
import { expect } from 'chai';
import type { Locator, Page } from 'playwright-core';
import { faultsOf } from '../support/axe.js';
import { eventually } from '../support/eventually.js';
import { TOLVAY, mapSays, pages } from '../support/pages.js';
import { tileServer } from '../support/tile-server.js';

const PHONE = { viewport: { width: 390, height: 844 }, hasTouch: true } as const;
type Press = (target: Locator) => Promise<void>;
const metres = async (page: Page) => Number.parseFloat((await page.locator('#walked').textContent()) ?? '');

/** Each page, used from its start to its end, by a hand that clicks or taps. */
const PAGES: Readonly<Record<string, (page: Page, press: Press) => Promise<unknown>>> = {
  '': async () => {},
  'whereabouts/?pretend': async (page, press) => {
    await press(page.locator('#find'));
    await press(page.getByRole('button', { name: 'Continue' }));
    await page.locator('#place', { hasText: 'Tolvay' }).waitFor();
    await page.locator('#map canvas').first().waitFor();
  },
  'round/?pretend': async (page, press) => {
    await page.locator('#sighting-text').fill('Two blues');
    await press(page.getByRole('button', { name: 'Note it' }));
    await press(page.locator('#start'));
    await press(page.getByRole('button', { name: 'Continue' }));
    await page.locator('#map canvas').first().waitFor();
    await page.waitForFunction(() => Number(document.getElementById('fixes')!.textContent) > 40);
    await press(page.getByRole('switch', { name: 'Share where I am' }));
    await page.locator('#share-state', { hasText: 'On: you are seen.' }).waitFor();
    await press(page.locator('#finish'));
    await page.locator('#trails li').waitFor();
  },
  'hut/?pretend&tempo=200': async (page, press) => {
    await page.locator('#roster button').nth(2).waitFor();
    await press(page.getByRole('button', { name: 'Show all on the map' }));
    await page.locator('#alarms li').first().waitFor();
  },
  'replay/': async (page, press) => {
    await press(page.locator('#demo'));
    await press(page.locator('#crossings button').last());
    await eventually(async () => expect(Number(await page.locator('#time').inputValue())).to.be.above(1000));
  },
  'react/?pretend': stroll,
  'vue/?pretend': stroll,
  'plain/?pretend': stroll,
  'no-script/?pretend': async (page, press) => {
    await press(page.getByRole('button', { name: 'Where am I?' }));
    await page.locator('aurelian-near').getByText('Tolvay Stores', { exact: true }).waitFor();
    await press(page.getByRole('button', { name: 'Follow me' }));
    await eventually(async () =>
      expect(await page.locator('input[name=lat]').inputValue()).to.match(/^44\.20/),
    );
    await press(page.getByRole('button', { name: 'Stop' }));
  },
  'notes/': (page) => page.locator('#no-background .note').waitFor(),
};

async function stroll(page: Page, press: Press): Promise<void> {
  await press(page.getByRole('button', { name: 'Start' }));
  await eventually(async () => expect(await metres(page)).to.be.above(0));
  await press(page.getByRole('button', { name: 'Stop' }));
}

describe('every example page', function () {
  this.timeout(240_000);
  const { open } = pages();

  for (const [path, act] of Object.entries(PAGES)) {
    it(`can be used, has no fault and fits, by mouse by day and by touch on a phone at dusk: ${path || 'the list of them'}`, async () => {
      for (const options of [{ colorScheme: 'light' }, { ...PHONE, colorScheme: 'dark' }] as const) {
        const { page, context, complaints } = await open(path, options);
        const warned: string[] = [];
        page.on('console', (message) => message.type() === 'warning' && warned.push(message.text()));
        await act(page, (target) => ('hasTouch' in options ? target.tap() : target.click()));
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
      await PAGES[path]!(page, (target) => target.click());
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
    let give = () => {};
    const given = new Promise<void>((resolve) => (give = resolve));
    await page.route('**/town.geojson', async (route) => {
      asked++;
      await given;
      await route.fulfill({ body: town, contentType: 'application/json' });
    });
    const warned: string[] = [];
    page.on('console', (message) => message.type() === 'warning' && warned.push(message.text()));
    await page.goto(`${start}?map=${encodeURIComponent('./town.geojson')}&credit=The+town`);
    await page.locator('#find').click();
    await mapSays(page, 'own place 44.20313');
    await eventually(() => expect(asked).to.equal(1));
    // On its way: nothing says that there is none.
    expect(await page.locator('#map .note').count()).to.equal(0);
    give();
    await page.locator('#place', { hasText: /[A-Z]/ }).waitFor();
    expect(await page.locator('#map .note').count()).to.equal(0);
    expect(warned).to.deep.equal([]);
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
