import { expect } from 'chai';
import type { MapElement } from 'aurelian-drift/elements';
import { eventually } from '../support/eventually.js';
import { faultsOf } from '../support/axe.js';
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
      document.addEventListener('map' + kind, ({ detail }) => reported.push([kind, detail]));
    document.getElementById('own').onclick = () => window.pressed++;
    window.bind = () => {
      const device = { permission: 'granted', warmUp: 0, reception: 'exact' };
      const source = new SimulatedDevice({ at: { lat: 44.2031, lon: -33.5812 }, ...device });
      map.receiver = new Receiver({ source, purpose: 'Test.' });
      map.sheet.setOwnPlace(true);
    };
  </script></main></body></html>`;

/** A page that sets properties before the elements are defined, as frameworks do. */
const EARLY = `<!doctype html><html lang="en"><head><title>Early</title><link rel="icon" href="data:," />
  <style>aurelian-map { height: 420px }</style></head><body><aurelian-map></aurelian-map><aurelian-find></aurelian-find>
  <script>
    Object.assign(document.querySelector('aurelian-map'), {
      zoom: 12, turn: 20, units: 'nautical', theme: 'dusk', centre: { lat: 44.2, lon: -33.6 },
      ground: { type: 'FeatureCollection', features: [] },
    });
    document.querySelector('aurelian-find').places = 'the app’s';
  </script>
  <script type="module">import 'aurelian-drift/elements';</script></body></html>`;

declare const window: Window & {
  reported: [string, { by?: string; at?: { lat: number } }][];
  pressed: number;
  bind(): void;
};

describe('<aurelian-map>', function () {
  this.timeout(240_000);
  const served = pages({ map: PAGE, early: EARLY });
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
    await page.waitForFunction(() => window.reported.some(([kind]) => kind === 'tap'));
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
      return Promise.resolve().then(() => receiver.follows.length);
    });
    expect(follows).to.equal(0);
    await context.close();
  });

  const FIELD = {
    type: 'FeatureCollection',
    features: [
      {
        type: 'Feature',
        properties: { kind: 'land' },
        geometry: {
          type: 'Polygon',
          coordinates: [
            [
              [-33.6, 44.19],
              [-33.58, 44.19],
              [-33.58, 44.21],
              [-33.6, 44.19],
            ],
          ],
        },
      },
    ],
  };

  it('tells what is wrong with an attribute in the map, until the right one mends it', async () => {
    const { page, context, errors } = await start();
    const note = page.locator('aurelian-map .note').filter({ hasText: 'This map is not set up right.' });
    const set = (name: string, value: string) =>
      page.locator('aurelian-map').evaluate((map, [n, v]) => map.setAttribute(n!, v!), [name, value]);
    for (const [name, wrong, told, right] of [
      ['zoom', '99', /zoom must be 0 to 22, got 99/, '16'],
      ['theme', 'dusky', /did you mean "dusk"/, 'dusk'],
      ['centre', '44.2', /LAT,LON/, '44.2,-33.59'],
      ['gestures', 'share', /did you mean "shared"/, 'shared'],
      ['bounds', '1,2,3', /WEST,SOUTH,EAST,NORTH/, '-33.6,44.19,-33.58,44.21'],
      ['decimals', '12', /0 to 9/, '3'],
    ] as const) {
      await set(name, wrong);
      expect(await note.textContent(), name).to.match(told);
      expect(errors.at(-1)).to.match(told);
      await set(name, right);
      expect(await note.count(), name).to.equal(0);
    }
    await context.close();
  });

  it('keeps pins, layers and view as it is moved, taken out for a while, and given other properties', async () => {
    const { page, context } = await start();
    const seen = await page.evaluate(async () => {
      const map = document.querySelector<MapElement>('aurelian-map')!;
      const sheet = map.sheet!;
      sheet.pins.add({ id: 'p', lat: 44.2, lon: -33.6, text: 'Hut' });
      sheet.layers.put('mine', { kind: 'grid' });
      sheet.look({ zoom: 13 });
      const state = () => [map.sheet === sheet, sheet.pins.all.length, sheet.layers.ids.includes('mine')];
      const states = [];
      window.bind();
      states.push(state());
      map.label = 'Another name';
      map.credit = 'By somebody';
      map.keepView = 'test';
      map.controls = false;
      states.push(state());
      document.querySelector('main')!.prepend(map);
      await Promise.resolve();
      states.push([...state(), map.receiver!.follows.length]);
      map.remove();
      await Promise.resolve();
      const out = map.receiver!.follows.length;
      document.querySelector('main')!.append(map);
      states.push([...state(), map.receiver!.follows.length]);
      return { states, out, view: sheet.$view.get()!.zoom, names: [map.label, map.credit, map.controls] };
    });
    expect(seen.states).to.deep.equal([
      [true, 1, true],
      [true, 1, true],
      [true, 1, true, 1],
      [true, 1, true, 1],
    ]);
    expect([seen.out, seen.view, seen.names]).to.deep.equal([0, 13, ['Another name', 'By somebody', false]]);
    expect(await page.locator('aurelian-map .stage').getAttribute('aria-label')).to.equal('Another name');
    expect(await page.locator('aurelian-map .strip').count()).to.equal(0);
    await context.close();
  });

  it('takes up properties that were set before it was defined, and has one for every attribute', async () => {
    const { page, context } = await served.open('early.html');
    await page.waitForFunction(() => document.querySelector<MapElement>('aurelian-map')?.sheet !== undefined);
    const seen = await page.evaluate(() => {
      const map = document.querySelector<MapElement>('aurelian-map')!;
      const find = document.querySelector('aurelian-find')!;
      const { zoom, turn } = map.sheet!.$view.get()!;
      return {
        view: [zoom, turn, map.sheet!.units, map.sheet!.theme],
        ground: map.sheet!.layers.ids,
        own: Object.keys(map).filter((name) => name in HTMLElement.prototype || name === 'zoom'),
        found: (find as unknown as { places: unknown }).places,
        missing: (map.constructor as typeof MapElement).observedAttributes.filter(
          (name) => !(name.replace(/-(.)/g, (_, letter: string) => letter.toUpperCase()) in map),
        ),
      };
    });
    expect(seen.view).to.deep.equal([12, 20, 'nautical', 'dusk']);
    expect(seen.ground).to.include('ground');
    expect([seen.own, seen.found, seen.missing]).to.deep.equal([[], 'the app’s', []]);
    await context.close();
  });

  it('shows the ground that it is given, without a view or a fix, and never the world around 0, 0', async () => {
    const { page, context } = await start(FIELD);
    const views = await page.evaluate(async () => {
      const old = document.querySelector<MapElement>('aurelian-map')!;
      old.remove();
      const map = document.createElement('aurelian-map');
      map.setAttribute('ground', 'ground.json');
      document.querySelector('main')!.append(map);
      const before = [...map.sheet!.notes.keys()];
      const words = map.sheet!.describe();
      await new Promise<void>((resolve) => {
        const look = () => (map.sheet!.layers.ids.includes('ground') ? resolve() : setTimeout(look, 5));
        look();
      });
      const { bounds, zoom } = map.sheet!.$view.get()!;
      return { before, words, bounds, zoom, after: [...map.sheet!.notes.keys()] };
    });
    expect(views.before).to.deep.equal([]); // the ground is on its way
    expect(views.words).to.equal('Map; own place unknown'); // nothing is shown yet
    const [west, south, east, north] = views.bounds;
    expect(west < -33.6 && south < 44.19 && east > -33.58 && north > 44.21).to.equal(true);
    expect(views.zoom).to.be.within(12, 15);
    expect(views.after).to.deep.equal([]);
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
        expect(await page.locator('aurelian-map .stage').getAttribute('aria-label')).to.equal('The island');
        const label = await page.locator('aurelian-map #words').textContent();
        expect(label).to.match(/^The island; own place unknown; [\d.]+ nmi across, centre 44\.2/);
        expect(label).to.include('1 pin: Wick Orrin');
      });
      await page.keyboard.press('Tab');
      expect(
        await page.evaluate(() =>
          document.querySelector('aurelian-map')!.shadowRoot!.activeElement?.getAttribute('aria-label'),
        ),
      ).to.equal('Wick Orrin');
      const problems = () => faultsOf(page);
      expect(await problems()).to.deep.equal([]);
      await page.setViewportSize({ width: 640, height: 500 });
      await page.evaluate(() => (document.documentElement.style.fontSize = '200%'));
      expect(await page.evaluate(() => document.documentElement.scrollWidth <= innerWidth)).to.equal(true);
      expect(await problems()).to.deep.equal([]);
      await context.close();
    },
  );
});
