import type { Receiver } from 'aurelian-drift';
import { expect } from 'chai';
import pixelmatch from 'pixelmatch';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { HUT, drawn, mapPages, putTiles, viewOf, type MapWindow } from '../support/map-page.js';
import { tileColour, tileServer } from '../support/tile-server.js';

declare const window: MapWindow;

const pixels = async (page: Page) => PNG.sync.read(await page.locator('#map').screenshot());
const colourAt = (png: PNG, x: number, y: number) => [
  ...png.data.subarray((y * png.width + x) * 4, (y * png.width + x) * 4 + 3),
];

describe('the layers of a map', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();

  it('have ids and an order, are shown and hidden, and are swapped without touching the rest', async () => {
    const { page, context } = await sheet();
    const ids = await page.evaluate((at) => {
      const { layers, pins } = window.sheet;
      pins.add({ id: 'p', ...at });
      const fence = { kind: 'circle', id: 'f', name: 'F', centre: at, radius: 50 } as const;
      layers.put('areas', { kind: 'fences', fences: [fence] });
      layers.put('plan', { kind: 'line', line: { parts: [[at, window.drift.ahead(at, 90, 100)]] } });
      const first = [...layers.ids];
      layers.moveBelow('areas', 'plan');
      const moved = [...layers.ids];
      layers.put('base', {
        kind: 'ground',
        ground: window.map.groundFrom({ type: 'FeatureCollection', features: [] }),
        credit: 'By nobody',
      });
      layers.remove('grid');
      layers.show('plan', false);
      return { first, moved, now: [...layers.ids], shown: layers.isShown('plan'), pins: pins.all.length };
    }, HUT);
    expect(ids).to.deep.equal({
      first: ['grid', 'plan', 'areas'],
      moved: ['grid', 'areas', 'plan'],
      now: ['base', 'areas', 'plan'],
      shown: false,
      pins: 1,
    });
    const { centre, zoom } = (await viewOf(page))!;
    expect([centre, zoom]).to.deep.equal([HUT, 15]);
    const messages = await page.evaluate(() =>
      [
        () => window.sheet.layers.show('pln', true),
        () => window.sheet.layers.put('x', { kind: 'fence' } as never),
      ].map((act) => {
        try {
          act();
          return '';
        } catch (error) {
          return (error as Error).message;
        }
      }),
    );
    expect(messages[0]).to.include('did you mean "plan"?');
    expect(messages[1]).to.include('did you mean "fences"?');
    await context.close();
  });

  it('a growing trail adds to the line without the map being drawn anew', async () => {
    const { page, context } = await sheet();
    const work = await page.evaluate(async (at) => {
      const trail = new window.drift.Trail();
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      window.sheet.showTrails([trail]);
      const add = (i: number) =>
        trail.append(
          window.drift.fixFrom({ time: 1.7e12 + i * 1000, ...window.drift.ahead(at, i, i / 8), speed: 1.4 }),
        );
      for (let i = 0; i < 400; i++) add(i);
      window.sheet.redraw();
      do await frame();
      while (window.sheet.work.pending);
      const before = window.sheet.work;
      for (let i = 400; i < 700; i++) {
        add(i);
        window.sheet.redraw();
        if (i % 10 === 0) await frame();
      }
      await frame();
      const pyramid = new window.internal.TrailPyramid(trail);
      return { before, after: window.sheet.work, vertices: pyramid.length };
    }, HUT);
    expect(work.vertices).to.equal(700);
    expect(work.after.whole).to.equal(work.before.whole);
    expect(work.after.parts - work.before.parts).to.be.within(1, 3);
    await context.close();
  });

  it('a moved map draws the parts that come into view, and the same picture as a new map', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => {
      const trail = window.drift.Trail.from(
        Array.from({ length: 900 }, (_, i) => ({
          time: 1.7e12 + i * 1000,
          ...window.drift.ahead(at, i * 3, i),
          speed: i % 7,
        })),
      );
      window.sheet.showTrails([trail]);
      const fences = Array.from({ length: 20 }, (_, i) => ({
        kind: 'circle' as const,
        id: `${i}`,
        name: `F${i}`,
        centre: window.drift.ahead(at, i * 40, i * 60),
        radius: 60,
      }));
      window.sheet.showFences(fences, { inside: new Set(['3', '8']) });
    }, HUT);
    await drawn(page);
    const before = await page.evaluate(() => window.sheet.work);
    await page.mouse.move(400, 300);
    await page.mouse.down();
    for (let i = 1; i <= 30; i++) await page.mouse.move(400 - i * 9, 300 - i * 4);
    await page.mouse.up();
    await drawn(page);
    const after = await page.evaluate(() => window.sheet.work);
    expect(after.whole).to.equal(before.whole);
    expect(after.squares).to.be.above(before.squares);
    const moved = await pixels(page);
    await page.evaluate(() => {
      window.sheet.theme = 'dusk';
      window.sheet.theme = 'day'; // everything is drawn again
    });
    await drawn(page);
    const anew = await pixels(page);
    const different = pixelmatch(moved.data, anew.data, undefined, moved.width, moved.height, {
      threshold: 0.2,
    });
    expect(different / (moved.width * moved.height)).to.be.below(0.004);
    await context.close();
  });

  it('a map that is dragged far has its paper, its sea and its grid everywhere', async () => {
    const { page, context } = await sheet();
    const far = async (background: object) => {
      await page.evaluate(
        ([layer, at]) => {
          window.sheet.layers.remove('grid');
          window.sheet.layers.remove('ground');
          window.sheet.layers.put((layer as { kind: string }).kind, layer as never);
          window.sheet.look({ centre: at, zoom: 15 });
        },
        [background, HUT] as const,
      );
      await drawn(page);
      for (let i = 0; i < 4; i++) {
        await page.mouse.move(600, 400);
        await page.mouse.down();
        await page.mouse.move(40, 40, { steps: 6 });
        await page.mouse.up();
      }
      await drawn(page);
      return pixels(page);
    };
    const sea = await far({ kind: 'ground', ground: { type: 'FeatureCollection', features: [] } });
    for (const [x, y] of [
      [60, 60],
      [320, 216],
      [600, 380],
    ] as const)
      expect(colourAt(sea, x, y)).to.deep.equal([0xb7, 0xc6, 0xc6]);
    const grid = await far({ kind: 'grid' });
    const inks = new Set<number>();
    for (let x = 40; x < 600; x++) inks.add(colourAt(grid, x, 216)[0]!);
    expect(inks.has(0xf5) && inks.size > 1).to.equal(true); // paper, and lines across it
    await context.close();
  });

  it('a map that goes on zooming or turning is not stretched for long', async () => {
    const { page, context } = await sheet();
    const wholes = await page.evaluate(async (at) => {
      const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
      const shapes = Array.from({ length: 150 }, (_, i) => ({
        kind: 'circle' as const,
        centre: window.drift.ahead(at, i * 7, i * 4),
        radius: 60,
        hatched: true,
      }));
      window.sheet.layers.put('many', { kind: 'shapes', shapes }); // slow to draw
      while (window.sheet.work.pending) await frame();
      const { whole } = window.sheet.work;
      // Another zoom and turn in each frame, as by a course that turns, until new pictures were shown: a map that
      // shows none reaches the time limit of the test.
      for (let i = 0; window.sheet.work.whole < whole + 2; i++) {
        window.sheet.look({ zoom: 15 + i / 2000, turn: i / 10 });
        await frame();
      }
      return window.sheet.work.whole - whole;
    }, HUT);
    expect(wholes).to.equal(2);
    await context.close();
  });

  it('one fence that is entered changes its own part of the picture only', async () => {
    const { page, context } = await sheet();
    const work = await page.evaluate(async (at) => {
      const frame = async () => {
        do await new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve)));
        while (window.sheet.work.pending); // a slow machine draws the picture in pieces
      };
      const fences = [{ kind: 'circle', id: 'f', name: 'F', centre: at, radius: 100 }] as const;
      window.sheet.showFences(fences);
      await frame();
      const works = [window.sheet.work];
      const f = new Set(['f']);
      // Entered; then undetermined; then not watched; then the same again, which changes nothing.
      for (const paint of [{ inside: f }, { inside: f, uncertain: f }, { off: f }, { off: new Set(['f']) }]) {
        window.sheet.showFences(fences, paint);
        await frame();
        works.push(window.sheet.work);
      }
      return works;
    }, HUT);
    expect(work.map(({ whole }) => whole - work[0]!.whole)).to.deep.equal([0, 0, 0, 0, 0]);
    expect(work.map(({ parts }) => parts - work[0]!.parts)).to.deep.equal([0, 1, 2, 3, 3]);
    await context.close();
  });

  it('is looked around on whatever its listeners throw, and the others hear of it', async () => {
    const { page, context } = await sheet();
    const received = await page.evaluate((at) => {
      const slip = () => {
        throw new Error('a slip in the app');
      };
      const { sheet } = window;
      sheet.onEvent(slip);
      sheet.$view.listen(slip);
      let events = 0;
      sheet.onEvent(({ kind }) => kind === 'view' && events++);
      for (const zoom of [14, 13]) sheet.look({ centre: at, zoom });
      return { events, zoom: sheet.$view.get()!.zoom, warned: window.warned };
    }, HUT);
    expect([received.events, received.zoom]).to.deep.equal([2, 13]);
    expect(new Set(received.warned)).to.deep.equal(
      new Set(['a listener of a MapSheet threw: Error: a slip in the app']),
    );
    await context.close();
  });

  it('has the size of its container however that is displayed, with its padding, and of an element too', async () => {
    for (const style of [
      '#map { display: block }',
      '#map { display: grid; padding: 10px; box-sizing: border-box }',
      '#map { display: flex; flex-direction: row }',
      '#map { display: inline-block }',
      '#map { height: auto; min-height: 480px }',
    ]) {
      const { page, context } = await sheet({}, {}, style);
      await drawn(page);
      const size = await page.evaluate(() => {
        const { width, height } = document
          .querySelector('#map')!
          .shadowRoot!.querySelector('canvas')!
          .getBoundingClientRect();
        return { width, height, warned: window.warned, notes: [...window.sheet.notes.keys()] };
      });
      expect([size.warned, size.notes], style).to.deep.equal([[], []]);
      const padding = style.includes('padding') ? 20 : 0;
      expect(size.width, style).to.equal(640 - padding);
      expect(size.height, style).to.be.within(380, 480 - padding);
      await context.close();
    }
  });

  it(
    'of every kind in the table are described in words, and pins of one are reported when ' +
      'they are tapped',
    async () => {
      const { page, stage } = await sheet();
      await page.evaluate((at) => {
        const { layers } = window.sheet;
        const fence = { kind: 'circle', id: 'f', name: 'Ox-eye', centre: at, radius: 50 } as const;
        const trail = window.drift.Trail.from([{ time: 1.7e12, ...at }]);
        layers.put('plan', { kind: 'line', line: { parts: [[at, window.drift.ahead(at, 90, 100)]] } });
        layers.put('walk', { kind: 'trail', trail });
        layers.put('marks', { kind: 'shapes', shapes: [{ kind: 'circle', centre: at, radius: 20 }] });
        layers.put('fences', { kind: 'fences', fences: [fence], paint: { inside: new Set(['f']) } });
        layers.put('others', {
          kind: 'members',
          members: [{ id: 'm', name: 'Mirel', ...at, state: 'late' }],
        });
        layers.put('huts', {
          kind: 'pins',
          pins: [
            { id: 'hut', ...at, text: 'Hut' },
            { id: 'far', lat: 10, lon: 10 },
          ],
        });
        layers.put('hidden', { kind: 'trail', trail });
        layers.show('hidden', false);
      }, HUT);
      expect(await page.evaluate(() => window.sheet.describe())).to.match(
        /; inside Ox-eye; 1 line; 1 trail; 1 shape; 1 fence; 1 member: Mirel late; 1 pin: Hut$/,
      );
      await drawn(page);
      const box = (await stage.boundingBox())!;
      await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2 - 20);
      await page.mouse.click(box.x + 100, box.y + 100);
      await page.waitForFunction(() => window.events.filter(({ kind }) => kind === 'tap').length === 2);
      const taps = await page.evaluate(() => window.events.filter(({ kind }) => kind === 'tap'));
      expect(taps.map((event) => event.kind === 'tap' && event.pin)).to.deep.equal(['hut', undefined]);
    },
  );

  it('is painted on the canvas as in SVG: the same scene, a small difference', async () => {
    const { page, context } = await sheet();
    await page.route('**/drift-demo/vanesk', (route) => route.fulfill({ path: 'demo/vanesk.geojson' }));
    const shots: PNG[] = [];
    for (const way of ['svg', 'canvas'] as const) {
      await page.evaluate(async (how) => {
        const { Camera, groundFrom, writeSvg, sheetScene } = window.map;
        const ground = groundFrom(await (await fetch('/drift-demo/vanesk')).json());
        const at = { lat: 44.20313, lon: -33.58124 };
        const camera = new Camera({ centre: at, zoom: 15.4, width: 640, height: 480 });
        const trail = window.drift.Trail.from(
          Array.from({ length: 300 }, (_, i) => ({
            time: 1.7e12 + i * 1000,
            ...window.drift.ahead(at, 200 + i / 9, i),
            speed: i % 5,
          })),
        );
        const scene = sheetScene(camera, {
          layers: [
            {
              kind: 'pins',
              pins: [{ id: 'p', ...window.drift.ahead(at, 300, 150), text: 'Wick', open: true }],
            },
            { kind: 'ground', ground },
            { kind: 'trail', trail },
            {
              kind: 'fences',
              fences: [
                {
                  kind: 'circle',
                  id: 'f',
                  name: 'Ox-eye',
                  centre: window.drift.ahead(at, 40, 200),
                  radius: 90,
                },
              ],
              paint: { inside: new Set(['f']) },
            },
          ],
          fix: window.drift.fixFrom({ ...at, time: 0 + 1.7e12, accuracy: 60, course: 40, speed: 1 }),
          margin: { title: 'Same', credit: 'Vanesk' },
        });
        document.body.replaceChildren();
        await document.fonts.ready;
        if (how === 'svg') {
          const image = new Image();
          image.src = `data:image/svg+xml,${encodeURIComponent(writeSvg(scene))}`;
          await image.decode();
          image.style.display = 'block';
          document.body.append(image);
        } else {
          const canvas = document.createElement('canvas');
          canvas.style.display = 'block';
          document.body.append(canvas);
          const painter = new window.internal.CanvasPainter(canvas);
          painter.resize(640, 480, 1);
          painter.paint(scene.layers);
        }
      }, way);
      shots.push(PNG.sync.read(await page.screenshot({ clip: { x: 0, y: 0, width: 640, height: 480 } })));
    }
    const [svg, canvas] = shots as [PNG, PNG];
    const different = pixelmatch(svg.data, canvas.data, undefined, 640, 480, { threshold: 0.25 });
    expect(different / (640 * 480)).to.be.below(0.03); // hatching begins elsewhere
    await context.close();
  });

  it('are coloured for day, dusk and print, with pins and view as they were', async () => {
    const { page, context } = await sheet();
    const papers: number[] = [];
    for (const theme of ['day', 'dusk', 'print'] as const) {
      await page.evaluate((name) => (window.sheet.theme = name), theme);
      await drawn(page);
      papers.push(colourAt(await pixels(page), 3, 3).reduce((a, b) => a + b, 0));
    }
    expect(papers[0]).to.be.above(600);
    expect(papers[1]).to.be.below(200);
    expect(papers[2]).to.equal(765);
    expect((await viewOf(page))!.zoom).to.equal(15);
    expect(
      await page.evaluate(() => {
        try {
          window.sheet.theme = 'dask' as never;
          return '';
        } catch (error) {
          return (error as Error).message;
        }
      }),
    ).to.include('did you mean "dusk"?');
    await context.close();
  });
});

describe('tiles', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const middle = async (page: Page) => colourAt(await pixels(page), 320, 216);
  const until = (page: Page, z: number) =>
    page.waitForFunction(([r, g, b]) => {
      const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
      const data = canvas.getContext('2d')!.getImageData(320, 216, 1, 1).data;
      return data[0] === r && data[1] === g && data[2] === b;
    }, tileColour(z));

  it(
    'are fetched by z, x and y for the visible part, with their credit, in 256 and 512 ' +
      'pixels, also when the map is turned',
    async () => {
      for (const [size, z] of [
        [256, 15],
        [512, 14],
      ] as const) {
        const server = await tileServer({ size });
        const { page, context } = await sheet({ turn: 30 });
        await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png`, size });
        await until(page, z);
        expect(await middle(page)).to.deep.equal(tileColour(z));
        // 33.6° W at zoom z: x = (180 − 33.6) / 360 · 2^z; the tile with the middle is among the requested ones.
        const x = Math.floor((146.4 / 360) * 2 ** z);
        expect(server.asked.some((path) => path.startsWith(`/${z}/${x}/`))).to.equal(true);
        expect(server.asked.length).to.be.below(40);
        expect(await page.evaluate(() => window.sheet.notes.size)).to.equal(0);
        await context.close();
        await server.close();
      }
    },
  );

  it('that fail are tried again, and meanwhile a parent stands in', async () => {
    const server = await tileServer();
    const { page, context } = await sheet();
    await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png` });
    await until(page, 15);
    server.manner.status = 500;
    const before = server.asked.length;
    await page.evaluate(() => window.sheet.look({ zoom: 17 }));
    await drawn(page);
    expect(await middle(page)).to.deep.equal(tileColour(15)); // the parent, two zooms up
    expect(server.asked.length).to.be.above(before);
    delete server.manner.status;
    await until(page, 17);
    await context.close();
    await server.close();
  });

  const errors: readonly [string, object, object, RegExp][] = [
    ['that do not come', { status: 500 }, {}, /^tiles of 127\.0\.0\.1:\d+ cannot be loaded: it answers 500$/],
    ['of another size', { size: 100 }, {}, /is 100 by 100 pixels, and the option size says 256/],
    ['whose key is refused', { key: 'right' }, { key: 'wrong' }, /refuses the key for its tiles \(401\)/],
    ['whose key is missing', { key: 'right' }, {}, /needs a key, and the option key is missing/],
    ['whose key is blank', { key: 'right' }, { key: '  ' }, /needs a key, and the option key is blank/],
  ];
  for (const [what, manner, options, text] of errors) {
    it(`${what} are shown to the user in a note, and to the developer with the reason`, async () => {
      const server = await tileServer(manner);
      const { page, context } = await sheet();
      const keyed = 'key' in manner ? '?key={key}' : '';
      await putTiles(page, { template: `${server.address}/{z}/{x}/{y}.png${keyed}`, ...options });
      const said = 'key' in manner ? 'is not available to this page.' : 'cannot be loaded.';
      const note = page.locator('#map .note').filter({ hasText: `The background of the map ${said}` });
      await note.waitFor();
      await page.waitForFunction(() => window.warned.length > 0);
      expect((await page.evaluate(() => window.warned)).at(-1)).to.match(text);
      await context.close();
      await server.close();
    });
  }
});

/** A page with a map bound to a receiver. */
type Revealed = MapWindow & { receiver: Receiver };

describe('a map that has nothing to show', function () {
  this.timeout(240_000);
  const { open, sheet } = mapPages();

  /** A map bound to a pretend device, whatever happened before. */
  async function bound(device: object, options: object = {}) {
    const opened = await open('bench.html', { reducedMotion: 'reduce' });
    const { page } = opened;
    await page.waitForFunction(() => 'drift' in window);
    await page.evaluate(
      ([given, more]) => {
        const source = new window.testing.SimulatedDevice({
          at: { lat: 44.2, lon: -33.6 },
          reception: 'exact',
          warmUp: 0,
          ...given,
        });
        const receiver = new window.drift.Receiver({ source, purpose: 'Test.', warn: () => {} });
        window.sheet = new window.map.MapSheet({
          container: document.getElementById('map')!,
          receiver,
          ...more,
        });
        window.sheet.layers.put('grid', { kind: 'grid' });
        Object.assign(window, { receiver, source });
      },
      [device, options] as const,
    );
    return opened;
  }
  const note = (page: Page, text: string | RegExp) => page.locator('#map .note').filter({ hasText: text });

  it(
    'names which of five it is, each with its remedy: no size, no background, tiles, no ' + 'fix, refused',
    async () => {
      const flat = await sheet({}, {}, '#map { height: 0 !important }');
      await note(flat.page, 'This map cannot be shown.').waitFor();
      await flat.context.close();
      const bare = await sheet();
      await bare.page.evaluate(() => window.sheet.layers.remove('grid'));
      await note(bare.page, 'This map has no background.').waitFor();
      await bare.page.evaluate(() => window.sheet.layers.put('grid', { kind: 'grid' }));
      expect(await note(bare.page, 'This map has no background.').count()).to.equal(0);
      await bare.context.close();
      const waiting = await bound({ warmUp: 60 });
      await waiting.page.getByRole('button', { name: 'Own place' }).click();
      await note(waiting.page, 'Waiting for your position.').waitFor();
      await waiting.context.close();
      const refused = await bound({ answer: 'refuse' });
      await refused.page.getByRole('button', { name: 'Own place' }).click();
      await note(refused.page, 'You did not allow this page to know your position.').waitFor();
      await refused.context.close(); // tiles have tests of their own, above
    },
  );

  it('is not revealed by a coarse fix from the network, but by the first good one', async () => {
    const { page, context } = await bound({
      networkFirst: [1500, 1500, 1500],
      reception: 'open',
      permission: 'granted',
    });
    const seen = page.evaluate(() => {
      const { receiver, sheet } = window as unknown as Revealed;
      return new Promise<string[]>((resolve) => {
        const seen: string[] = [];
        receiver.$fix.listen((fix) =>
          requestAnimationFrame(() => {
            seen.push(`±${fix!.accuracy!} ${sheet.describe()}`);
            if (fix!.accuracy! < 100) resolve(seen);
          }),
        );
      });
    });
    await page.getByRole('button', { name: 'Own place' }).click();
    await note(page, 'Waiting for your position.').waitFor();
    const texts = await seen;
    expect(texts.length).to.be.above(2);
    for (const text of texts.slice(0, -1)) expect(text).to.match(/^±1500 .*own place unknown/);
    expect(texts.at(-1)).to.match(/own place 44\.\d+° N/);
    const zoom = await page.evaluate(() => (window as unknown as Revealed).sheet.$view.get()!.zoom);
    expect(zoom).to.be.above(15);
    expect(await note(page, 'Waiting for your position.').count()).to.equal(0);
    await context.close();
  });

  it('shows nothing unrelated before the first fix, and then the own place at once', async () => {
    const { page, context } = await bound({});
    await note(page, 'Your position is not known yet.').waitFor();
    const before = await pixels(page);
    const middle = before.data.subarray((150 * 640 + 200) * 4, (150 * 640 + 400) * 4);
    expect(new Set(middle.filter((_, i) => i % 4 === 0)).size).to.equal(1); // plain paper, not even a grid
    await page.getByRole('button', { name: 'Show my place' }).click();
    await page.waitForFunction(() => window.sheet.describe().includes('own place 44.2'));
    expect((await viewOf(page))!.centre.lat).to.be.closeTo(44.2, 1e-9);
    expect(await page.locator('#map .note').count()).to.equal(0);
    await context.close();
  });

  it(
    'hides the own place and lets the receiver go, and the control follows the state, also after a ' +
      'refusal',
    async () => {
      const { page, context } = await bound({ answer: ['refuse', 'grant'] });
      const own = page.getByRole('button', { name: 'Own place' });
      const pressed = () => own.getAttribute('data-shown');
      await own.click();
      await note(page, 'You did not allow').waitFor();
      expect(await pressed()).to.equal('false');
      await note(page, 'You did not allow').getByRole('button', { name: 'Do it now' }).click(); // asks again
      await page.waitForFunction(
        () =>
          (
            window as unknown as { receiver: { $access: { get(): { permission: string } } } }
          ).receiver.$access.get().permission === 'granted',
      );
      await own.click();
      await page.waitForFunction(() => window.sheet.describe().includes('own place 44.2'));
      expect(await pressed()).to.equal('true');
      const view = await viewOf(page);
      await page.evaluate(() => window.sheet.setOwnPlace(false));
      expect([await pressed(), (await viewOf(page))!.centre]).to.deep.equal(['false', view!.centre]);
      expect(
        await page.evaluate(() => (window as unknown as { source: { watches: number } }).source.watches),
      ).to.equal(0);
      expect(await page.evaluate(() => window.sheet.describe())).to.include('own place unknown');
      await context.close();
    },
  );

  it(
    'keeps the view that a hand chose, zoom included, from visit to visit, and ignores damaged ones ' +
      'with one notice',
    async () => {
      const { page, context } = await sheet({ keepView: 'test' });
      await page.mouse.move(320, 216);
      await page.mouse.wheel(0, -200); // no drag at all
      await page.waitForFunction(() => localStorage.getItem('aurelian-drift/view/test') !== null);
      const again = async (kept?: string) => {
        const result = await page.evaluate((text) => {
          if (text !== undefined) localStorage.setItem('aurelian-drift/view/test', text);
          const warned: string[] = [];
          window.sheet = new window.map.MapSheet({
            container: document.getElementById('map')!,
            keepView: 'test',
            warn: (what) => warned.push(what),
          });
          window.sheet.layers.put('grid', { kind: 'grid' });
          return { view: window.sheet.$view.get()!, warned, words: window.sheet.describe() };
        }, kept);
        return result;
      };
      const { view, warned, words } = await again();
      expect([view.zoom, typeof view.zoom, warned.length]).to.deep.equal([15.5, 'number', 0]);
      expect(view.centre.lat).to.be.closeTo(44.2, 1e-4);
      expect(words).to.include('own place unknown'); // a view is not a fix
      for (const damaged of [
        '{"centre"',
        '{"centre":{"lat":"44","lon":3},"zoom":15,"turn":0}',
        '{"centre":{"lat":44,"lon":3},"zoom":"15","turn":0}',
        'null',
      ]) {
        const ignored = await again(damaged);
        expect(ignored.warned).to.have.length(1);
        expect(ignored.view.zoom).to.equal(1);
        expect(await page.evaluate(() => localStorage.getItem('aurelian-drift/view/test'))).to.equal(null);
      }
      await page.evaluate(() => window.sheet.look({ zoom: 9 }));
      expect(await page.evaluate(() => localStorage.getItem('aurelian-drift/view/test'))).to.equal(null);
      await context.close();
    },
  );

  it('leaves nothing behind after fifty openings and closings, also when one takes the place of another', async () => {
    const { page, context } = await sheet();
    const left = await page.evaluate(async (at) => {
      const container = document.getElementById('map')!;
      const source = new window.testing.SimulatedDevice({ at, permission: 'granted', warmUp: 0 });
      const receiver = new window.drift.Receiver({ source, purpose: 'Test.', warn: () => {} });
      let last = window.sheet;
      for (let i = 0; i < 50; i++) {
        const sheet = new window.map.MapSheet({ container, centre: at, zoom: 12, receiver });
        sheet.setOwnPlace(true);
        sheet.layers.put('grid', { kind: 'grid' });
        await Promise.resolve();
        if (i % 2 === 0) sheet.close();
        last = sheet;
      }
      last.close();
      // Work that the last tests began ends later.
      while (source.watches > 0 || receiver.follows.length > 0)
        await new Promise((resolve) => setTimeout(resolve, 20));
      return {
        canvases:
          document.querySelectorAll('canvas').length + container.shadowRoot!.querySelectorAll('*').length,
        watches: source.watches,
        follows: receiver.follows.length,
      };
    }, HUT);
    expect(left).to.deep.equal({ canvases: 0, watches: 0, follows: 0 });
    await context.close();
  });

  it('is right at its first picture when it is revealed, resized or moved to another screen', async () => {
    const { page, context } = await sheet();
    await page.evaluate(
      (at) => window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now(), accuracy: 30 })),
      HUT,
    );
    await page.evaluate(() => (document.getElementById('map')!.style.width = '400px'));
    await page.waitForFunction(
      () => document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!.style.width === '400px',
    );
    const own = await page.evaluate((at) => window.sheet.pixelOf(at)!, HUT);
    expect(Math.round(own.x)).to.equal(200);
    const png = await pixels(page);
    expect(colourAt(png, 200, 216)).to.deep.equal([0xb8, 0x79, 0x1a]); // the symbol of a fix, at once
    await context.close();
  });
});
