import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { HUT, drawn, mapPages, reported, viewOf, type MapWindow } from '../support/map-page.js';

declare const window: MapWindow;

describe('a map by every hand', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const taps = async (page: Page) => (await reported(page, 'tap')) as { pin?: string; kite: boolean }[];

  it('opens labels of pins and of the kite by Enter, and reports the tap', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => {
      window.sheet.pins.add({ id: 'hut', ...window.drift.ahead(at, 90, 200), text: 'Hut' });
      window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now() }));
    }, HUT);
    await drawn(page);
    const hut = page.getByRole('button', { name: 'Hut' });
    for (const open of ['true', 'false', 'true']) {
      await hut.press('Enter');
      await eventually(async () => expect(await hut.getAttribute('aria-expanded')).to.equal(open));
    }
    const kite = page.getByRole('button', { name: 'Where you are' });
    await kite.press('Enter');
    await eventually(async () => expect(await kite.getAttribute('aria-expanded')).to.equal('true'));
    expect((await taps(page)).map(({ pin, kite: own }) => pin ?? own)).to.deep.equal([
      'hut',
      'hut',
      'hut',
      true,
    ]);
    await context.close();
  });

  it('keeps the focus on a button at the limit of the zoom, and its name while fixes come', async () => {
    const { page, context } = await sheet({ zoom: 21.5 });
    const closer = page.getByRole('button', { name: 'Closer' });
    await closer.focus();
    await page.keyboard.press('Enter');
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 22);
    await eventually(async () => expect(await closer.getAttribute('aria-disabled')).to.equal('true'));
    await page.keyboard.press('Enter');
    expect(await closer.evaluate((button) => button.matches(':focus'))).to.equal(true);
    const name = () => page.locator('#map .stage').getAttribute('aria-label');
    const before = await name();
    await page.evaluate((at) => {
      for (let i = 0; i < 20; i++)
        window.sheet.showFix(
          window.drift.fixFrom({ ...window.drift.ahead(at, 0, i * 20), time: Date.now() + i }),
        );
    }, HUT);
    await drawn(page);
    expect([before, await name()]).to.deep.equal(['Map', 'Map']);
    await context.close();
  });

  it('does not also tap on a double tap; a pin takes its tap at once', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => window.sheet.pins.add({ id: 'p', ...at, text: 'Hut' }), HUT);
    await drawn(page);
    await page.mouse.dblclick(200, 300);
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16);
    const pin = await page.evaluate(() => window.sheet.pixelOf(window.sheet.pins.get('p')!)!);
    await page.mouse.click(pin.x, pin.y - 15);
    expect(await page.evaluate(() => window.sheet.pins.get('p')!.open)).to.equal(true);
    await page.mouse.click(500, 100);
    await page.waitForFunction(() => window.events.filter(({ kind }) => kind === 'tap').length === 2);
    expect((await taps(page)).map(({ pin: id }) => id)).to.deep.equal(['p', undefined]);
    await context.close();
  });

  it('zooms by a pinch on a trackpad in its own scale, and by notches of a wheel in theirs', async () => {
    const { page, context } = await sheet();
    const wheel = (deltaY: number, more: object = {}) =>
      page.locator('#map .stage').evaluate(
        (stage, [delta, rest]) =>
          stage.dispatchEvent(
            new WheelEvent('wheel', {
              deltaY: delta,
              bubbles: true,
              cancelable: true,
              clientX: 320,
              clientY: 216,
              ...rest,
            }),
          ),
        [deltaY, more] as const,
      );
    const zoomed = async (act: () => Promise<unknown>) => {
      const before = (await viewOf(page))!.zoom;
      await act();
      return (await viewOf(page))!.zoom - before;
    };
    // A pinch to the double: many small events, whose sum is 100 times the natural logarithm of 2.
    const pinch = async () => {
      for (let i = 0; i < 10; i++) await wheel(-10 * Math.LN2, { ctrlKey: true });
    };
    expect(await zoomed(pinch)).to.be.closeTo(1, 1e-6);
    expect(await zoomed(() => wheel(-100))).to.be.closeTo(0.25, 1e-6);
    expect(await zoomed(() => wheel(-100, { ctrlKey: true }))).to.be.closeTo(0.25, 1e-6);
    expect(await zoomed(() => wheel(3, { deltaMode: 1 }))).to.be.closeTo(-0.3, 1e-6);
    await context.close();
  });

  it('leaves the wheel and one finger to a page that scrolls, and tells how the map is moved', async () => {
    const { page, context } = await sheet({ gestures: 'shared' }, { hasTouch: true });
    await page.evaluate(() => (document.body.style.height = '4000px'));
    await page.mouse.move(320, 200);
    await page.mouse.wheel(0, 120);
    await page.waitForFunction(() => scrollY > 0);
    const hint = page.locator('#map .note');
    await hint.filter({ hasText: 'Hold Ctrl and turn the wheel to zoom the map.' }).waitFor();
    expect((await viewOf(page))!.zoom).to.equal(15);
    await page.evaluate(() => scrollTo(0, 0));
    await page.keyboard.down('Control');
    await page.mouse.wheel(0, -100);
    await page.keyboard.up('Control');
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 15.25);

    const devtools = await context.newCDPSession(page);
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', ...points: [number, number][]) =>
      devtools.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: points.map(([x, y], id) => ({ x, y, id })),
      });
    const before = (await viewOf(page))!;
    await touch('touchStart', [320, 300]);
    for (let y = 290; y > 180; y -= 10) await touch('touchMove', [320, y]);
    await touch('touchEnd');
    await page.waitForFunction(() => scrollY > 40);
    await hint.filter({ hasText: 'Move the map with two fingers.' }).waitFor();
    expect((await viewOf(page))!.centre).to.deep.equal(before.centre);
    await page.evaluate(async () => {
      // The page glides on for a while after a finger.
      for (let rested = 0; rested < 5;) {
        await new Promise((resolve) => requestAnimationFrame(resolve));
        rested = scrollY === 0 ? rested + 1 : 0;
        scrollTo(0, 0);
      }
    });
    await touch('touchStart', [250, 200], [350, 200]);
    for (let i = 1; i <= 10; i++) await touch('touchMove', [250 - i * 5, 200], [350 + i * 5, 200]);
    await touch('touchEnd');
    await eventually(async () => expect((await viewOf(page))!.zoom).to.be.closeTo(before.zoom + 1, 0.01));
    expect(await page.evaluate(() => scrollY)).to.equal(0);
    await context.close();
  });

  it('frames what it is given: fences, with positions among them, and a trail', async () => {
    const { page, context } = await sheet();
    await drawn(page);
    const framed = (what: 'fences' | 'both' | 'trail') =>
      page.evaluate(
        async ([kind, hut]) => {
          const { ahead, fixFrom, Trail } = window.drift;
          const east = (metres: number) => ahead(hut, 90, metres);
          const fence = { kind: 'circle', id: 'a', name: 'A', centre: east(1000), radius: 500 } as const;
          const trail = new Trail();
          for (let i = 0; i < 3; i++) trail.append(fixFrom({ time: 1.8e12 + i * 1e4, ...east(i * 1000) }));
          window.sheet.frame({ fences: [fence], both: [fence, east(3000)], trail }[kind]);
          await new Promise(requestAnimationFrame);
          const { centre, bounds } = window.sheet.$view.get()!;
          return [centre.lon, bounds[2] - bounds[0]] as const;
        },
        [what, HUT] as const,
      );
    // 1000 m are 0.0125° of longitude at this latitude.
    const [lon, width] = await framed('fences');
    expect(lon).to.be.closeTo(-33.5875, 2e-4);
    expect(width).to.be.within(0.0125, 0.03);
    expect((await framed('both'))[0]).to.be.closeTo(-33.5781, 2e-4); // the middle of 500 and 3000 m
    expect((await framed('trail'))[0]).to.be.closeTo(-33.5875, 2e-4);
    await context.close();
  });

  it('anchors an element of the app to a pin or a position: it moves with it, and is reached by keys', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => {
      const card = document.createElement('div');
      card.innerHTML = '<button id="card">Call the hut</button>';
      window.sheet.pins.add({ id: 'hut', ...at, draggable: true });
      window.sheet.anchor(card, { pin: 'hut' }, 'right');
      const picture = document.createElement('img');
      picture.alt = 'Far away';
      picture.tabIndex = 0;
      window.sheet.anchor(picture, { lat: 10, lon: 10 });
    }, HUT);
    await drawn(page);
    const card = page.getByRole('button', { name: 'Call the hut' });
    const left = async () => (await card.boundingBox())!.x;
    expect(await left()).to.be.closeTo(320, 12);
    await page.evaluate((at) => window.sheet.pins.change('hut', window.drift.ahead(at, 90, 300)), HUT);
    await drawn(page);
    const pin = await page.evaluate(() => window.sheet.pixelOf(window.sheet.pins.get('hut')!)!);
    expect(await left()).to.be.closeTo(pin.x, 12);
    await page.locator('#map .stage').focus();
    for (let i = 0; i < 4 && !(await card.evaluate((each) => each.matches(':focus'))); i++)
      await page.keyboard.press('Tab');
    expect(await card.evaluate((each) => each.matches(':focus'))).to.equal(true);
    expect(await page.locator('#map img').isVisible()).to.equal(false); // its place is out of view
    const wrong = await page.evaluate(() => {
      const errors: string[] = [];
      const tries: (() => void)[] = [
        () => window.sheet.anchor('card' as never, { lat: 1, lon: 2 }),
        () => window.sheet.anchor(document.createElement('p'), { lat: 1, lng: 2 } as never),
        () => window.sheet.anchor(document.createElement('p'), { lat: 1, lon: 2 }, 'rigth' as never),
      ];
      for (const attempt of tries)
        try {
          attempt();
        } catch (error) {
          errors.push((error as Error).message);
        }
      return errors;
    });
    expect(wrong.join('|')).to.match(/got "card".*"lng", here it is "lon".*did you mean "right"/);
    await page.evaluate(() => window.sheet.close());
    expect(await page.locator('#map > *').count()).to.equal(0);
    await context.close();
  });
});

describe('the labels of a map', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();

  it('are as wide as their text in the font that is used, also in a page from right to left', async () => {
    const { page, context } = await sheet();
    const width = async (font: string, text: string, direction = 'ltr') => {
      await page.evaluate(
        ([family, words, at, dir]) => {
          document.documentElement.dir = dir;
          const container = document.getElementById('map')!;
          container.style.setProperty('--aurelian-font', family);
          window.sheet = new window.map.MapSheet({ container, centre: at, zoom: 15 });
          window.sheet.layers.put('ground', {
            kind: 'ground',
            ground: { type: 'FeatureCollection', features: [] },
          });
          window.sheet.pins.add({ ...at, text: words, open: true });
        },
        [font, text, HUT, direction] as const,
      );
      await drawn(page);
      return page.evaluate(
        ([family, words]) => {
          const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
          const context = canvas.getContext('2d')!;
          // The paper of the label on the water, just inside its upper edge: above the letters.
          const row = context.getImageData(320, 216 - 25 - 8, 320, 1).data;
          let paper = 0;
          for (let x = 0; x < 290; x++) if (row[4 * x]! > 0xf0 && row[4 * x + 2]! > 0xc8) paper++;
          context.font = `400 13px ${family}`;
          context.letterSpacing = '0px';
          return [paper, context.measureText(words).width + 14];
        },
        [font, text] as const,
      );
    };
    const texts = ['iiiiiiiiiiiiiiii', 'WWWWWWWW', 'שלום עולם', '漢字かな 🦋', 'é à ô'];
    for (const font of ['monospace', 'serif'])
      for (const text of texts)
        for (const direction of ['ltr', 'rtl']) {
          const [paper, expected] = await width(font, text, direction);
          expect(paper, `${font} ${text} ${direction}`).to.be.closeTo(expected!, 3);
        }
    await context.close();
  });
});

describe('what a developer misspells on a map', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const at = HUT;
  const cases: readonly [what: string, call: string, error: RegExp][] = [
    ['an option of a pin', `sheet.pins.add({ lat: 1, lon: 2, dragable: true })`, /did you mean "draggable"/],
    ['a position of a pin', `sheet.pins.add({ lat: 1, lng: 2 })`, /"lng", here it is "lon"/],
    [
      'a text of a pin',
      `sheet.pins.add({ lat: 1, lon: 2, text: document.body })`,
      /must be a text.*map\.anchor/,
    ],
    ['a kind of layer', `sheet.layers.put('a', { kind: 'tile' })`, /did you mean "tiles"/],
    ['an option of tiles', `put({ templte: 'x' })`, /did you mean "template"/],
    [
      'a placeholder',
      `put({ template: '{z}/{x}/{yy}' })`,
      /unknown placeholder \{yy\}, did you mean "\{y\}"/,
    ],
    [
      'no credit',
      `sheet.layers.put('a', { kind: 'tiles', template: '{z}/{x}/{y}' })`,
      /the credit is missing/,
    ],
    [
      'a radius',
      `shape({ kind: 'circle', centre: at, radius: '500' })`,
      /radius must be a number of metres, got "500"/,
    ],
    [
      'an option of a shape',
      `shape({ kind: 'circle', centre: at, radius: 5, color: '#112233' })`,
      /did you mean "colour"/,
    ],
    ['a kind of shape', `shape({ kind: 'cricle', centre: at, radius: 5 })`, /did you mean "circle"/],
    ['points of a shape', `shape({ kind: 'line', points: [{ lat: 95, lon: 2 }] })`, /latitude 95 is outside/],
    ['a trail', `sheet.layers.put('t', { kind: 'trail', trail: [at] })`, /trail must be a Trail/],
    [
      'a paint',
      `sheet.layers.put('f', { kind: 'fences', fences: [], paint: { inside: ['a'] } })`,
      /inside must be a Set/,
    ],
    ['a missing list', `sheet.layers.put('f', { kind: 'fences' })`, /layer "f": fences is missing/],
    [
      'no container',
      `new map.MapSheet({ container: null })`,
      /container must be an element, got null; is the script run/,
    ],
    ['a selector', `new map.MapSheet({ container: '#map' })`, /document\.querySelector\("#map"\)/],
    ['no options', `new map.MapSheet()`, /MapSheet needs options/],
    ['a ground', `new map.MapSheet({ container, ground: { type: 'Topology' } })`, /GeoJSON/],
    [
      'bounds',
      `new map.MapSheet({ container, bounds: [1, 2, 3] })`,
      /bounds must be \[west, south, east, north\]/,
    ],
    ['a steering', `sheet.steer('center')`, /did you mean "centred"/],
  ];
  it('gets the library’s own error with a suggestion, and the map is as it was', async () => {
    const { page, context } = await sheet();
    const told = await page.evaluate(
      ([calls, place]) => {
        const { sheet: own, map } = window;
        const scope = {
          sheet: own,
          map,
          at: place,
          container: document.createElement('div'),
          put: (more: object) => own.layers.put('a', { kind: 'tiles', credit: 'c', ...more } as never),
          shape: (shape: object) => own.layers.put('s', { kind: 'shapes', shapes: [shape] } as never),
        };
        return calls.map((call) => {
          try {
            // eslint-disable-next-line @typescript-eslint/no-implied-eval -- calls as an app writes them, without types
            const attempt = new Function(...Object.keys(scope), call) as (...values: unknown[]) => void;
            attempt(...Object.values(scope));
            return 'no error';
          } catch (error) {
            return `${(error as Error).name}: ${(error as Error).message}`;
          }
        });
      },
      [cases.map(([, call]) => call), at] as const,
    );
    cases.forEach(([what, , error], i) => {
      expect(told[i], what).to.match(/^InputError: /);
      expect(told[i], what).to.match(error);
    });
    expect(await page.evaluate(() => [window.sheet.layers.ids, window.sheet.pins.all.length])).to.deep.equal([
      ['grid'],
      0,
    ]);
    await context.close();
  });

  it('is not an id of its own: numbers are ids, made-up ones never collide, raw GeoJSON is a ground', async () => {
    const { page, context } = await sheet();
    const seen = await page.evaluate((place) => {
      const { pins, layers } = window.sheet;
      const made = pins.add({ ...place, name: 'any object' } as never);
      pins.add({ ...place, id: made });
      pins.add({ ...place, id: 7 });
      pins.change(7, { text: 'Seven' });
      const other = pins.add(place);
      layers.put('ground', { kind: 'ground', ground: { type: 'FeatureCollection', features: [] } });
      return [other === made, pins.all.length, pins.get(7)!.text, pins.get('7')!.text, layers.ids];
    }, at);
    expect(seen).to.deep.equal([false, 3, 'Seven', 'Seven', ['grid', 'ground']]);
    await context.close();
  });
});
