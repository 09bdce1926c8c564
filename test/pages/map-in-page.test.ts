import { AxeBuilder } from '@axe-core/playwright';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { HUT, drawn, mapPages, reported, type MapWindow } from '../support/map-page.js';
import { pages } from '../support/pages.js';

declare const window: MapWindow;

/** A page without any style of its own: its policy would refuse it. */
const STRICT = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Strict</title></head><body><main>
  <h1>Strict</h1><div id="map"></div>
  <aurelian-map centre="44.2,-33.6" zoom="14" ground="grid" label="Element"></aurelian-map>
  <aurelian-consent></aurelian-consent><aurelian-find></aurelian-find><aurelian-inspector></aurelian-inspector>
  <aurelian-near></aurelian-near><aurelian-receiver purpose="Test."><output data-shows="position">nowhere</output>
  <button data-does="locate">Find me</button></aurelian-receiver></main>
  <script type="module">
    import 'aurelian-drift/elements';
    import { Receiver, fixFrom } from 'aurelian-drift';
    import { MapSheet } from 'aurelian-drift/map';
    import { Gazetteer, gazetteerPlaces } from 'aurelian-drift/places';
    import { SimulatedDevice } from 'aurelian-drift/testing';
    const at = { lat: 44.2, lon: -33.6 };
    const container = document.getElementById('map');
    const element = document.querySelector('aurelian-map');
    container.style.height = element.style.height = '300px'; // the object model is not an inline style
    window.sheet = new MapSheet({ container, centre: at, zoom: 15 });
    sheet.layers.put('grid', { kind: 'grid' });
    sheet.showFix(fixFrom({ ...at, time: Date.now(), accuracy: 30 }));
    sheet.pins.add({ ...at, text: 'Hut', open: true });
    const card = document.querySelector('aurelian-consent');
    const source = new SimulatedDevice({ at, answer: 'refuse' });
    const receiver = new Receiver({ source, purpose: 'Test.', explain: card.explain });
    document.querySelector('aurelian-inspector').receiver = card.receiver = receiver;
    document.querySelector('aurelian-receiver').source = new SimulatedDevice({ at, reception: 'exact', warmUp: 0 });
    const near = document.querySelector('aurelian-near');
    near.places = gazetteerPlaces(new Gazetteer([{ kind: 'hut', name: 'A hut', ...at, details: { opening: {} } }]));
    const known = new Receiver({ source: new SimulatedDevice(), purpose: 'Test.' });
    known.placeByHand(at);
    near.receiver = known;
    void receiver.fix().catch(() => {});
    window.ready = true;
  </script></body></html>`;
const POLICY = "default-src 'self'; require-trusted-types-for 'script'; trusted-types lit-html";

describe('the map in a page with a strict policy', function () {
  this.timeout(240_000);
  const served = pages({ strict: STRICT });

  it('has its styles and works, as does each element, and breaks no rule of the policy', async () => {
    const { page, context, complaints } = await served.open('about:blank');
    await page.route('**/favicon.ico', (route) => route.fulfill({ status: 204 }));
    await page.route('**/strict.html', async (route) => {
      const response = await route.fetch();
      await route.fulfill({
        response,
        headers: { ...response.headers(), 'content-security-policy': POLICY },
      });
    });
    await page.goto(`${served.address}strict.html`);
    await page.waitForFunction(() => 'ready' in window);
    for (const map of ['#map', 'aurelian-map']) {
      const box = (await page.locator(`${map} .stage`).boundingBox())!;
      expect(box.height, map).to.be.within(200, 300);
      await page.locator(map).getByRole('button', { name: 'Closer' }).click();
      expect((await page.locator(`${map} .stage`).boundingBox())!.height, map).to.equal(box.height);
    }
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16);
    await page.locator('aurelian-consent').getByRole('button', { name: 'Continue' }).click();
    await page.locator('aurelian-consent').getByText('You did not allow').waitFor();
    await page.locator('aurelian-find').getByRole('combobox').fill('44.2, -33.6');
    await page.locator('aurelian-find').getByRole('option').waitFor();
    await page.locator('aurelian-inspector').getByText('Access').waitFor();
    await page.getByRole('button', { name: 'Find me' }).click();
    await page.locator('output', { hasText: '44.20000° N' }).waitFor();
    await page.locator('aurelian-near').getByText('A hut').click();
    await page.locator('aurelian-near').getByText('open now').waitFor();
    expect(complaints).to.deep.equal([]);
    // A strict policy that does not hold would be no test: an inline style is refused here.
    await page.evaluate(() => document.body.append(document.createElement('style')));
    await page.evaluate(() => (document.querySelector('body > style')!.textContent = 'h1 { color: red }'));
    await eventually(() => expect(complaints.join()).to.include('style'));
    await context.close();
  });
});

describe('the elements in light, dusk and forced colours', function () {
  this.timeout(240_000);
  const served = pages({ strict: STRICT });

  it('have no fault that a checker of accessibility finds', async () => {
    const { page, context } = await served.open('strict.html');
    await page.waitForFunction(() => 'ready' in window);
    const faults = async (...rules: string[]) =>
      (await new AxeBuilder({ page }).disableRules(rules).analyze()).violations.map(
        ({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`,
      );
    // The card of the purpose, then the failure; the field with a choice; the map with its parts.
    await page.locator('aurelian-find').getByRole('combobox').fill('44.2, -33.6');
    await page.locator('aurelian-find').getByRole('option').waitFor();
    for (const theme of ['day', 'dusk', 'auto']) {
      await page.emulateMedia({ colorScheme: theme === 'auto' ? 'dark' : 'light' });
      await page.evaluate((name) => {
        document.body.style.background = name === 'day' ? '#f5e8d2' : '#36323c';
        document.body.style.color = name === 'day' ? '#2b2a33' : '#cdc5bc';
        for (const element of document.querySelectorAll('main > *')) element.setAttribute('theme', name);
        window.sheet.theme = name as 'day';
      }, theme);
      if (theme !== 'auto') expect(await faults(), theme).to.deep.equal([]);
      const ink = await page
        .locator('aurelian-find label')
        .evaluate((label) => getComputedStyle(label).color);
      expect(ink, theme).to.equal(theme === 'day' ? 'rgb(110, 67, 10)' : 'rgb(182, 161, 132)');
    }
    await page.locator('aurelian-consent').getByRole('button', { name: 'Continue' }).click();
    await page.locator('aurelian-consent').getByText('You did not allow').waitFor();
    expect(await faults(), 'a failure').to.deep.equal([]);
    await page.emulateMedia({ forcedColors: 'active' });
    expect(await faults('color-contrast'), 'forced colours').to.deep.equal([]); // those of the system
    await context.close();
  });
});

/** Layouts of a page: markup with a container, and what reveals it. */
const LAYOUTS: Readonly<Record<string, { html: string; reveal?: string }>> = {
  block: { html: `<div id="c" style="height: 300px"></div>` },
  'inline-block': {
    html: `<div id="c" style="display: inline-block; width: 420px; height: 300px"></div>`,
  },
  flex: {
    html: `<div style="display: flex; height: 320px"><p>Side</p><div id="c" style="flex: 1"></div></div>`,
  },
  'a column of flex': {
    html: `<div style="display: flex; flex-direction: column; height: 360px"><p>Above</p>
      <div id="c" style="flex: 1"></div></div>`,
  },
  grid: {
    html: `<div style="display: grid; grid-template: 300px / 1fr 2fr"><p>Side</p><div id="c"></div></div>`,
  },
  table: {
    html: `<table style="width: 600px"><tr><td>Side</td><td style="width: 400px; height: 300px">
      <div id="c" style="height: 300px"></div></td></tr></table>`,
  },
  'percentages of heights': {
    html: `<div style="height: 400px"><div style="height: 90%"><div id="c" style="height: 80%"></div></div></div>`,
  },
  'a ratio of sides': { html: `<div id="c" style="width: 480px; aspect-ratio: 3 / 2"></div>` },
  'a fixed place in a hidden panel': {
    html: `<div id="panel" style="display: none">
      <div id="c" style="position: fixed; inset: 40px 200px 200px 40px"></div></div>`,
    reveal: `panel.style.display = 'block'`,
  },
  'a tab panel': {
    html: `<div id="panel" hidden><div id="c" style="height: 300px"></div></div>`,
    reveal: `panel.hidden = false`,
  },
  'a dialog': {
    html: `<dialog id="panel" style="width: 500px"><div id="c" style="height: 300px"></div></dialog>`,
    reveal: `panel.showModal()`,
  },
  'closed details': {
    html: `<details id="panel"><summary>Map</summary><div id="c" style="height: 300px"></div></details>`,
    reveal: `panel.open = true`,
  },
  'content that is skipped': {
    html: `<div id="panel" style="content-visibility: hidden"><div id="c" style="height: 300px"></div></div>`,
    reveal: `panel.style.contentVisibility = 'visible'`,
  },
  'a page that is scaled': {
    html: `<div style="transform: scale(.6); transform-origin: 0 0">
      <div id="c" style="width: 700px; height: 400px"></div></div>`,
  },
  'a page that is zoomed': {
    html: `<div style="zoom: 1.5"><div id="c" style="width: 400px; height: 300px"></div></div>`,
  },
  'a page from right to left': {
    html: `<div dir="rtl" lang="he"><div id="c" style="width: 500px; height: 300px"></div></div>`,
  },
  'styles for all elements': {
    html: `<style>* { position: relative; box-sizing: content-box; line-height: 3; letter-spacing: 2px; max-width: 90% }
      canvas, button { width: 100%; height: auto; display: block; margin: 9px } div { padding: 3px }</style>
      <div id="c" style="height: 320px"></div>`,
  },
};

describe('the map in any layout', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const put = (page: Page, html: string) =>
    page.evaluate(
      ([markup, at]) => {
        window.sheet.close();
        document.getElementById('map')?.remove();
        document.querySelector('main')?.remove();
        const host = document.createElement('main');
        host.innerHTML = markup;
        document.body.append(host);
        window.warned = [];
        window.events = [];
        window.sheet = new window.map.MapSheet({
          container: document.getElementById('c')!,
          centre: at,
          zoom: 15,
          warn: (text) => window.warned.push(text),
        });
        window.sheet.layers.put('grid', { kind: 'grid' });
        window.sheet.onEvent((event) => window.events.push(event));
      },
      [html, HUT] as const,
    );

  let shared: Awaited<ReturnType<typeof sheet>>;
  before(async () => (shared = await sheet()));
  after(() => shared.context.close());

  for (const [name, { html, reveal }] of Object.entries(LAYOUTS)) {
    it(`has its size, and takes taps and drags where they are: ${name}`, async () => {
      const { page } = shared;
      await put(page, html);
      await drawn(page);
      expect(await page.evaluate(() => window.warned)).to.deep.equal([]);
      if (reveal !== undefined) {
        await page.evaluate(`{ const panel = document.getElementById('panel'); ${reveal} }`);
      }
      await page.waitForFunction(() => window.sheet.$view.get() !== undefined);
      await drawn(page);
      const stage = page.locator('#c .stage');
      const box = (await stage.boundingBox())!;
      const canvas = (await page.locator('#c canvas').boundingBox())!;
      expect(canvas.width).to.be.closeTo(box.width, 1);
      expect(canvas.height).to.be.closeTo(box.height, 1);
      const dots = await page.locator('#c canvas').evaluate((drawn) => (drawn as HTMLCanvasElement).width);
      expect(dots, 'a dot for each pixel of the screen').to.be.at.least(Math.floor(box.width));
      expect(box.height).to.be.above(150);
      expect(await page.evaluate(() => window.sheet.notes.size)).to.equal(0);
      await page.mouse.click(box.x + box.width / 4, box.y + box.height / 3);
      await page.waitForFunction(() => window.events.some(({ kind }) => kind === 'tap'));
      const [tap] = (await reported(page, 'tap')) as { at: typeof HUT }[];
      const expected = await page.evaluate(() => {
        const { offsetWidth, offsetHeight } = document
          .querySelector('#c')!
          .shadowRoot!.querySelector<HTMLElement>('.stage')!;
        return window.sheet.positionAt(offsetWidth / 4, offsetHeight / 3)!;
      });
      expect(tap!.at.lat).to.be.closeTo(expected.lat, 1e-4);
      expect(tap!.at.lon).to.be.closeTo(expected.lon, 1e-4);
      // What is dragged stays under the pointer.
      await page.mouse.move(box.x + box.width / 4, box.y + box.height / 3);
      await page.mouse.down();
      await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2, { steps: 6 });
      await page.mouse.up();
      const centre = await page.evaluate(() => window.sheet.$view.get()!.centre);
      expect(centre.lat).to.be.closeTo(expected.lat, 1e-4);
      expect(centre.lon).to.be.closeTo(expected.lon, 1e-4);
    });
  }

  it('fills the screen, and is printed in the colours of paper, without its controls', async () => {
    const { page, context } = await sheet();
    await page.evaluate(() => document.getElementById('map')!.requestFullscreen());
    await eventually(async () => {
      const { width } = (await page.locator('#map canvas').boundingBox())!;
      expect(width).to.be.above(1200);
    });
    await page.evaluate(() => document.exitFullscreen());
    await eventually(async () => {
      expect((await page.locator('#map canvas').boundingBox())!.width).to.equal(640);
    });
    const paper = () =>
      page.evaluate(() => {
        const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
        return [...canvas.getContext('2d')!.getImageData(3, 3, 1, 1).data];
      });
    expect(await paper()).to.deep.equal([0xf5, 0xe8, 0xd2, 255]);
    await page.emulateMedia({ media: 'print' });
    await eventually(async () => expect((await paper())[2]).to.be.above(245));
    expect(await page.locator('#map .strip').isVisible()).to.equal(false);
    await page.emulateMedia({ media: 'screen' });
    await eventually(async () => expect((await paper())[2]).to.equal(0xd2));
    await context.close();
  });

  it('is sharp on another screen without a change of size, and follows the preference of the device', async () => {
    const { page, context } = await sheet({ theme: 'auto' });
    const devtools = await context.newCDPSession(page);
    const width = () =>
      page.evaluate(() => document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!.width);
    expect(await width()).to.equal(640);
    const metrics = { width: 1281, height: 800, mobile: false }; // the window changes, the map does not
    await devtools.send('Emulation.setDeviceMetricsOverride', { ...metrics, deviceScaleFactor: 2 });
    await eventually(async () => expect(await width()).to.equal(1280));
    const corner = () =>
      page.evaluate(() => {
        const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
        return canvas.getContext('2d')!.getImageData(3, 3, 1, 1).data[0];
      });
    expect(await corner()).to.equal(0xf5);
    await page.emulateMedia({ colorScheme: 'dark' });
    await eventually(async () => expect(await corner()).to.be.below(60));
    await page.emulateMedia({ colorScheme: 'light' });
    await eventually(async () => expect(await corner()).to.equal(0xf5));
    await context.close();
  });

  it('in forced colours shows which switch is on, and has no fault that a checker finds, at dusk too', async () => {
    const { page, context } = await sheet({ theme: 'dusk' });
    await page.evaluate((at) => window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now() })), HUT);
    const faults = async (...rules: string[]) =>
      (await new AxeBuilder({ page }).include('#map').disableRules(rules).analyze()).violations.map(
        ({ id, nodes }) => `${id}: ${nodes[0]?.html ?? ''}`,
      );
    expect(await faults()).to.deep.equal([]);
    await page.emulateMedia({ forcedColors: 'active' });
    const follow = page.getByRole('switch', { name: 'Follow' });
    const look = () => follow.evaluate((button) => getComputedStyle(button, '::before').background);
    const on = await look();
    expect(await follow.getAttribute('aria-checked')).to.equal('true');
    await follow.click();
    expect(await look()).not.to.equal(on);
    expect(await faults('color-contrast')).to.deep.equal([]); // the colours are those of the system
    await context.close();
  });
});
