import { AxeBuilder } from '@axe-core/playwright';
import { expect } from 'chai';
import type { MapElement } from 'aurelian-drift/elements';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

/** A page with an element, its attributes, and a control of the app over the map. */
const PAGE = `<!doctype html><html lang="en"><head><title>Map</title><link rel="icon" href="data:," />
  <style>aurelian-map { height: 420px }</style></head><body><main><h1>Map</h1>
  <aurelian-map centre="44.2031,-33.5812" zoom="15" label="The island" ground="ground.json" credit="By nobody"
    units="nautical" zom="3">
    <button id="own" style="position:absolute; right: 0; top: 0">The app’s own</button>
  </aurelian-map>
  <script type="module">
    import 'aurelian-drift/elements';
    import { Receiver } from 'aurelian-drift';
    import { SimulatedDevice } from 'aurelian-drift/testing';
    const map = document.querySelector('aurelian-map');
    window.reported = [];
    window.pressed = 0;
    for (const kind of ['view', 'tap', 'hold', 'drop'])
      map.addEventListener(kind, ({ detail }) => reported.push([kind, detail]));
    document.getElementById('own').onclick = () => window.pressed++;
    window.bind = () => {
      const device = { permission: 'granted', warmUp: 0, reception: 'exact' };
      const source = new SimulatedDevice({ at: { lat: 44.2031, lon: -33.5812 }, ...device });
      map.receiver = new Receiver({ source, purpose: 'Test.' });
      map.sheet.setOwnPlace(true);
    };
  </script></main></body></html>`;

declare const window: Window & {
  reported: [string, { by?: string; at?: { lat: number } }][];
  pressed: number;
  bind(): void;
};

describe('<aurelian-map>', function () {
  this.timeout(240_000);
  const served = pages({ map: PAGE });
  const start = async (ground: object | number = { type: 'FeatureCollection', features: [] }) => {
    const opened = await served.open('about:blank');
    await opened.page.route('**/ground.json', (route) =>
      typeof ground === 'number' ? route.fulfill({ status: ground }) : route.fulfill({ json: ground }),
    );
    const errors: string[] = [];
    opened.page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
    await opened.page.goto(`${served.address}map.html`);
    await opened.page.waitForFunction(() => customElements.get('aurelian-map') !== undefined);
    return { ...opened, errors };
  };

  it('is a map by its attributes, which stay live, and reports a misspelt one', async () => {
    const { page, context, errors } = await start();
    const view = () =>
      page.evaluate(() => document.querySelector<MapElement>('aurelian-map')!.sheet!.$view.get());
    expect(await view()).to.deep.include({ centre: { lat: 44.2031, lon: -33.5812 }, zoom: 15 });
    expect(errors).to.deep.equal(['<aurelian-map> has no attribute "zom", did you mean "zoom"?']);
    await page.evaluate(() => {
      const map = document.querySelector('aurelian-map')!;
      map.setAttribute('zoom', '17');
      map.setAttribute('theme', 'dusk');
      map.setAttribute('turn', '90');
      map.setAttribute('zoom', 'seventeen');
      map.setAttribute('centre', '33.6');
    });
    expect(await view()).to.deep.include({ zoom: 17, turn: 90 });
    expect(errors[1]).to.include('zoom must be a number, got "seventeen"');
    expect(errors[2]).to.include('centre is written LAT,LON');
    expect(
      await page.evaluate(() => document.querySelector<MapElement>('aurelian-map')!.sheet!.theme),
    ).to.equal('dusk');
    await context.close();
  });

  it('has a size however the page displays it: as a block, inline-block, in a grid, hidden for a while', async () => {
    const { page, context } = await start();
    for (const style of [
      'display: block',
      'display: inline-block; width: 600px',
      'display: grid',
      'display: none',
      'display: block; position: absolute; inset: 40px',
    ]) {
      const seen = await page.evaluate(async (css) => {
        const map = document.querySelector('aurelian-map')!;
        map.setAttribute('style', css);
        await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
        return {
          notes: [...map.sheet!.notes.keys()],
          height: map.shadowRoot!.querySelector('canvas')!.clientHeight,
        };
      }, style);
      expect(seen.notes, style).not.to.include('no-size');
      if (style !== 'display: none') expect(seen.height, style).to.be.above(300);
    }
    await context.close();
  });

  it('reports view, tap, hold and drop as events of its own', async () => {
    const { page, context } = await start();
    const box = (await page.locator('aurelian-map').boundingBox())!;
    await page.mouse.click(box.x + 200, box.y + 150);
    await page.mouse.wheel(0, -100);
    await page.waitForFunction(() =>
      window.reported.some(([kind, detail]) => kind === 'view' && detail.by === 'hand'),
    );
    const [tap] = await page.evaluate(() => window.reported.filter(([kind]) => kind === 'tap'));
    expect(tap![1].at!.lat).to.be.closeTo(44.204, 0.01);
    await context.close();
  });

  it(
    'has the app’s own controls above the map: they take their own touches, are reached by keys, and ' +
      'hide no credit',
    async () => {
      const { page, context } = await start();
      const own = page.locator('#own');
      await own.click();
      expect(await page.evaluate(() => window.pressed)).to.equal(1);
      expect(await page.evaluate(() => window.reported.filter(([kind]) => kind === 'tap').length)).to.equal(
        0,
      );
      await own.focus();
      await page.keyboard.press('Enter');
      expect(await page.evaluate(() => window.pressed)).to.equal(2);
      const [control, map] = [
        (await own.boundingBox())!,
        (await page.locator('aurelian-map').boundingBox())!,
      ];
      // above the margin with the credit, and the strip
      expect(control.y + control.height).to.be.below(map.y + map.height - 48 - 32);
      await context.close();
    },
  );

  it('shows its receiver’s user, and lets it all go when it is taken out of the page', async () => {
    const { page, context } = await start();
    await page.evaluate(() => window.bind());
    await page.waitForFunction(() =>
      document.querySelector<MapElement>('aurelian-map')!.sheet!.describe().includes('own place 44.2031'),
    );
    const follows = await page.evaluate(() => {
      const map = document.querySelector<MapElement>('aurelian-map')!;
      const receiver = map.receiver!;
      map.remove();
      return [receiver.follows.length, map.sheet === undefined, map.shadowRoot!.childElementCount];
    });
    expect(follows).to.deep.equal([0, true, 0]);
    await context.close();
  });

  it('names a background that is broken, in a note, and shows the rest', async () => {
    const broken: readonly [object | number, RegExp][] = [
      [
        {
          type: 'FeatureCollection',
          features: [
            { type: 'Feature', properties: {}, geometry: { type: 'Point', coordinates: [44, 133] } },
          ],
        },
        /latitude 133 is outside/,
      ],
      [
        {
          type: 'FeatureCollection',
          features: [{ type: 'Feature', properties: {}, geometry: { type: 'Circle', coordinates: [] } }],
        },
        /this is not GeoJSON/,
      ],
      [404, /ground\.json answers 404/],
    ];
    for (const [ground, text] of broken) {
      const { page, context, errors } = await start(ground);
      const note = page.locator('aurelian-map .note');
      await note.filter({ hasText: 'The background of the map cannot be read.' }).waitFor();
      expect(errors.join()).to.match(text);
      await page.getByRole('button', { name: 'Closer' }).click();
      await page.waitForFunction(
        () => document.querySelector<MapElement>('aurelian-map')!.sheet!.$view.get()!.zoom === 16,
      );
      await context.close();
    }
  });

  it(
    'is used by keyboard alone, described in words, and has no fault that a checker of accessibility ' +
      'finds, at 200 % too',
    async () => {
      const { page, context } = await start();
      await page.evaluate(() => {
        const { sheet } = document.querySelector<MapElement>('aurelian-map')!;
        sheet!.pins.add({ id: 'p', lat: 44.2031, lon: -33.5812, text: 'Wick Orrin' });
      });
      await page.locator('aurelian-map .stage').focus();
      for (const key of ['ArrowRight', '+', 'Shift+ArrowLeft']) await page.keyboard.press(key);
      await page.waitForFunction(
        () => document.querySelector<MapElement>('aurelian-map')!.sheet!.$view.get()!.zoom === 16,
      );
      await eventually(async () => {
        const label = await page.locator('aurelian-map .stage').getAttribute('aria-label');
        expect(label).to.match(/^The island; own place unknown; [\d.]+ k?m across, centre 44\.2/);
        expect(label).to.include('1 pin: Wick Orrin');
      });
      await page.keyboard.press('Tab');
      expect(
        await page.evaluate(() =>
          document.querySelector('aurelian-map')!.shadowRoot!.activeElement?.getAttribute('aria-label'),
        ),
      ).to.equal('Wick Orrin');
      const problems = async () => (await new AxeBuilder({ page }).analyze()).violations.map(({ id }) => id);
      expect(await problems()).to.deep.equal([]);
      await page.setViewportSize({ width: 640, height: 500 });
      await page.evaluate(() => (document.documentElement.style.fontSize = '200%'));
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).to.equal(true);
      expect(await problems()).to.deep.equal([]);
      await context.close();
    },
  );
});
