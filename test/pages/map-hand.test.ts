import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { HUT, drawn, mapPages, reported, viewOf, type MapWindow } from '../support/map-page.js';
import { eventually } from '../support/eventually.js';
import { mapSays } from '../support/pages.js';

declare const window: MapWindow;

describe('a hand on the map', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();

  /** Fingers on the map, through the browser's own touch input. */
  async function touches(page: Page) {
    const devtools = await page.context().newCDPSession(page);
    const send = (
      type: 'touchStart' | 'touchMove' | 'touchEnd',
      ...points: readonly (readonly [number, number])[]
    ) =>
      devtools.send('Input.dispatchTouchEvent', {
        type,
        touchPoints: points.map(([x, y], id) => ({ x, y, id })),
      });
    return {
      down: send.bind(null, 'touchStart'),
      move: send.bind(null, 'touchMove'),
      up: () => send('touchEnd'),
    };
  }

  it(
    'zooms with two fingers: the points under them stay under them, and the zoom follows ' + 'their distance',
    async () => {
      const { page, context } = await sheet({}, { hasTouch: true });
      const fingers = await touches(page);
      const left = await page.evaluate(() => window.sheet.positionAt(220, 240)!);
      await fingers.down([220, 240], [420, 240]);
      for (let i = 1; i <= 10; i++) await fingers.move([220 - i * 10, 240], [420 + i * 10, 240]);
      await fingers.up();
      const { zoom, by, settled, turn } = (await viewOf(page))!;
      expect(zoom).to.be.closeTo(16, 1e-6); // 200 px became 400
      expect([by, settled, turn]).to.deep.equal(['hand', true, 0]);
      const now = await page.evaluate((at) => window.sheet.pixelOf(at)!, left);
      expect(now.x).to.be.closeTo(120, 0.5);
      await context.close();
    },
  );

  it('turns with two fingers once it is meant, and with shift and an arrow', async () => {
    const { page, context, stage } = await sheet({}, { hasTouch: true });
    const fingers = await touches(page);
    const at = (degrees: number): readonly [readonly [number, number], readonly [number, number]] => {
      const [dx, dy] = [100 * Math.cos((degrees * Math.PI) / 180), 100 * Math.sin((degrees * Math.PI) / 180)];
      return [
        [320 - dx, 240 - dy],
        [320 + dx, 240 + dy],
      ];
    };
    await fingers.down(...at(0));
    for (let degrees = 2; degrees <= 8; degrees += 2) await fingers.move(...at(degrees));
    expect((await viewOf(page))!.turn).to.equal(0); // not yet: it may become a pinch
    for (let degrees = 10; degrees <= 60; degrees += 2) await fingers.move(...at(degrees));
    await fingers.up();
    expect((await viewOf(page))!.turn).to.be.within(300, 320); // clockwise fingers turn north clockwise
    await page.evaluate(() => window.sheet.look({ turn: 0 }));
    await stage.focus();
    await page.keyboard.press('Shift+ArrowRight');
    expect((await viewOf(page))!.turn).to.equal(15);
    await page.keyboard.press('Shift+ArrowLeft');
    await page.keyboard.press('Shift+ArrowLeft');
    expect((await viewOf(page))!.turn).to.equal(345);
    await context.close();
  });

  it(
    'pushes the map so that it glides and comes to rest; a hand that comes down stops it; not under ' +
      'reduced motion',
    async () => {
      const push = async (page: Page) => {
        await page.mouse.move(400, 240);
        await page.mouse.down();
        for (let x = 390; x >= 250; x -= 10) await page.mouse.move(x, 240);
        await page.mouse.up();
        return (await viewOf(page))!;
      };
      const free = await sheet({}, { reducedMotion: 'no-preference' });
      // On a loaded machine the pointer may rest before it is released, and then nothing glides: the test drags again.
      await eventually(async () => {
        const letGo = await push(free.page);
        await free.page.waitForFunction(() => window.sheet.$view.get()!.settled);
        expect((await viewOf(free.page))!.centre.lon).to.be.above(letGo.centre.lon);
      });
      await push(free.page);
      await free.page.mouse.down();
      const halted = (await viewOf(free.page))!.centre.lon;
      await drawn(free.page);
      expect((await viewOf(free.page))!.centre.lon).to.equal(halted);
      await free.context.close();
      const still = await sheet();
      const rest = await push(still.page);
      expect(rest.settled).to.equal(true);
      await drawn(still.page);
      expect((await viewOf(still.page))!.centre).to.deep.equal(rest.centre);
      await still.context.close();
    },
  );

  it('zooms in on a double tap about its place, and out with shift', async () => {
    const { page, context } = await sheet();
    const held = await page.evaluate(() => window.sheet.positionAt(200, 150)!);
    await page.mouse.dblclick(200, 150);
    expect((await viewOf(page))!.zoom).to.equal(16);
    const now = await page.evaluate((at) => window.sheet.pixelOf(at)!, held);
    expect([Math.round(now.x), Math.round(now.y)]).to.deep.equal([200, 150]);
    await page.keyboard.down('Shift');
    await page.mouse.dblclick(300, 200);
    expect((await viewOf(page))!.zoom).to.equal(15);
    await context.close();
  });

  it('glides to the next zoom by a button, and reports the end as the hand’s', async () => {
    const { page, context } = await sheet({}, { reducedMotion: 'no-preference' });
    await page.getByRole('button', { name: 'Closer' }).click();
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16);
    const views = (await reported(page, 'view')) as { zoom: number; settled: boolean; by: string }[];
    const flight = views.slice(-3);
    expect(flight.at(-1)).to.include({ zoom: 16, settled: true, by: 'hand' });
    expect(flight[0]!.zoom).to.be.within(15, 16);
    await context.close();
  });

  it('taps and holds, and only one of them; a drag is neither', async () => {
    const { page, context } = await sheet();
    await page.mouse.click(320, 216);
    await page.waitForFunction(() => window.events.some(({ kind }) => kind === 'tap'));
    await page.mouse.move(200, 200);
    await page.mouse.down();
    await page.waitForFunction(() => window.events.some(({ kind }) => kind === 'hold'));
    await page.mouse.up();
    await page.mouse.move(100, 100);
    await page.mouse.down();
    await page.mouse.move(160, 140, { steps: 4 });
    await page.mouse.up();
    const taps = (await reported(page, 'tap')) as { at: typeof HUT; kite: boolean }[];
    const holds = await reported(page, 'hold');
    expect([taps.length, holds.length]).to.deep.equal([1, 1]);
    expect(taps[0]!.at.lat).to.be.closeTo(HUT.lat, 3e-5);
    expect(taps[0]!.at.lon).to.be.closeTo(HUT.lon, 1e-6);
    await context.close();
  });

  it('opens the kite’s label with position, accuracy and age, as text for a screen reader too', async () => {
    const { page, context } = await sheet();
    await page.evaluate(
      (at) => window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now(), accuracy: 12 })),
      HUT,
    );
    const before = await page.locator('#map').screenshot();
    await page.mouse.click(320, 216);
    await drawn(page);
    expect((await page.locator('#map').screenshot()).equals(before)).to.equal(false);
    expect(await reported(page, 'tap')).to.have.nested.property('[0].kite', true);
    await mapSays(page, 'own place 44.20000° N, 33.60000° W ±12 m');
    await context.close();
  });
});

describe('a view that follows', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const show = (page: Page, metres: number, more: object = {}) =>
    page.evaluate(
      ([at, away, rest]) =>
        window.sheet.showFix(
          window.drift.fixFrom({ time: Date.now(), ...window.drift.ahead(at, 90, away), ...rest }),
        ),
      [HUT, metres, more] as const,
    );
  const drag = async (page: Page) => {
    await page.mouse.move(300, 200);
    await page.mouse.down();
    await page.mouse.move(200, 160, { steps: 4 });
    await page.mouse.up();
  };

  it('is suspended by a hand, and taken up again by a button, with the zoom that the hand chose', async () => {
    const { page, context } = await sheet();
    await show(page, 0);
    await drag(page);
    await page.mouse.wheel(0, 200);
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 14.5);
    const left = (await viewOf(page))!.centre;
    await show(page, 100);
    expect((await viewOf(page))!.centre).to.deep.equal(left);
    await page.getByRole('button', { name: 'Own place' }).click();
    const view = (await viewOf(page))!;
    expect([view.zoom, view.by]).to.deep.equal([14.5, 'program']);
    expect(view.centre.lon).to.be.closeTo(HUT.lon + 100 / 79_960, 1e-5);
    await context.close();
  });

  it('takes up again by itself after the time that was asked for', async () => {
    const { page, context } = await sheet({ resumeAfter: 0.2 });
    await show(page, 0);
    await drag(page);
    expect(await page.evaluate(() => window.sheet.$following.get())).to.equal(false);
    await page.waitForFunction(() => {
      window.sheet.redraw(); // as an app does each second
      return window.sheet.$following.get();
    });
    const { x, y } = (await page.evaluate((at) => window.sheet.pixelOf(at), HUT))!;
    expect([Math.round(x), Math.round(y)]).to.deep.equal([320, 216]);
    await context.close();
  });

  it('turns with the course by its own switch, sees ahead, and turns north again without it', async () => {
    const { page, context } = await sheet({ ahead: 0.25 });
    await show(page, 0, { course: 90, speed: 1.5 });
    await page.getByRole('switch', { name: 'Course up' }).click();
    expect((await viewOf(page))!.turn).to.equal(90);
    await show(page, 50, { course: 120, speed: 1.5 });
    expect((await viewOf(page))!.turn).to.equal(120);
    const height = (await page.locator('#map .stage').boundingBox())!.height;
    const own = await page.evaluate((at) => window.sheet.pixelOf(window.drift.ahead(at, 90, 50))!, HUT);
    expect(own.y).to.be.closeTo(height * 0.75, 1);
    await page.getByRole('switch', { name: 'Course up' }).click();
    expect([(await viewOf(page))!.turn, await page.evaluate(() => window.sheet.steering)]).to.deep.equal([
      0,
      'centred',
    ]);
    await context.close();
  });

  it('keeps following through a zoom, about the own place', async () => {
    const { page, context } = await sheet();
    await show(page, 0);
    await page.mouse.move(100, 100);
    await page.mouse.wheel(0, -400);
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16);
    expect(await page.evaluate(() => window.sheet.$following.get())).to.equal(true);
    const own = await page.evaluate((at) => window.sheet.pixelOf(at)!, HUT);
    expect([Math.round(own.x), Math.round(own.y)]).to.deep.equal([320, 216]);
    await context.close();
  });
});

describe('pins', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const pinAt = (page: Page, id: string) =>
    page.evaluate((name) => window.sheet.pixelOf(window.sheet.pins.get(name)!)!, id);

  it(
    'with the same id replace one another, get an id when they have none, and are cleared ' +
      'by group without the kite',
    async () => {
      const { page, context } = await sheet();
      const state = await page.evaluate((at) => {
        const { pins } = window.sheet;
        window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now() }));
        const made = pins.add({ ...at });
        pins.add({ id: 'hut', ...at, text: 'one' });
        pins.add({ id: 'hut', lat: at.lat + 0.001, lon: at.lon, text: 'two', group: 'huts' });
        pins.add({ id: 'camp', ...at, group: 'camps' });
        const before = pins.all.map(({ id, text }) => [id, text ?? '']);
        pins.clear('huts');
        pins.remove('gone already');
        return { made, before, after: pins.all.map(({ id }) => id) };
      }, HUT);
      expect(state.before).to.deep.equal([
        [state.made, ''],
        ['hut', 'two'],
        ['camp', ''],
      ]);
      expect(state.after).to.deep.equal([state.made, 'camp']);
      await mapSays(page, 'own place 44.2');
      await context.close();
    },
  );

  it('are dragged by the mouse, by a finger and by keys, and each reports its drop once', async () => {
    const { page, context } = await sheet({}, { hasTouch: true });
    await page.evaluate((at) => {
      window.sheet.pins.add({ id: 'p', ...at, text: 'Wick', draggable: true });
      window.sheet.showFix(window.drift.fixFrom({ ...window.drift.ahead(at, 200, 400), time: Date.now() }));
      window.sheet.steer('free');
      window.sheet.look({ centre: at });
    }, HUT);
    const from = await pinAt(page, 'p');
    await page.mouse.move(from.x, from.y - 20); // the shaft
    await page.mouse.down();
    await page.mouse.move(from.x + 60, from.y + 10, { steps: 5 });
    await page.mouse.up();
    const byMouse = await pinAt(page, 'p');
    expect([byMouse.x, byMouse.y].map(Math.round)).to.deep.equal([from.x + 60, from.y + 30].map(Math.round));

    const devtools = await context.newCDPSession(page);
    const touch = (type: 'touchStart' | 'touchMove' | 'touchEnd', x = 0, y = 0) =>
      devtools.send('Input.dispatchTouchEvent', { type, touchPoints: type === 'touchEnd' ? [] : [{ x, y }] });
    await touch('touchStart', byMouse.x, byMouse.y - 10);
    for (let i = 1; i <= 5; i++) await touch('touchMove', byMouse.x - i * 10, byMouse.y - 10 - i * 8);
    await touch('touchEnd');
    const byTouch = await pinAt(page, 'p');
    expect([byTouch.x, byTouch.y].map(Math.round)).to.deep.equal(
      [byMouse.x - 50, byMouse.y - 40].map(Math.round),
    );

    await page.getByRole('button', { name: 'Wick, can be moved: Space lifts it' }).focus();
    for (const key of [' ', 'ArrowRight', 'ArrowRight', 'ArrowDown', 'Enter']) await page.keyboard.press(key);
    const byKeys = await pinAt(page, 'p');
    expect([byKeys.x, byKeys.y].map(Math.round)).to.deep.equal(
      [byTouch.x + 20, byTouch.y + 10].map(Math.round),
    );
    for (const key of [' ', 'ArrowLeft', 'Escape']) await page.keyboard.press(key);
    expect((await pinAt(page, 'p')).x).to.be.closeTo(byKeys.x, 0.01);

    const drops = (await reported(page, 'drop')) as { at: typeof HUT; pin: string }[];
    expect(drops.map(({ pin }) => pin)).to.deep.equal(['p', 'p', 'p']);
    // It works as a manual position, and stays there when the next fix arrives.
    const manual = await page.evaluate(
      (at) => window.drift.fixFrom({ ...at, time: Date.now(), origin: 'manual' }),
      drops[2]!.at,
    );
    expect(manual).to.include({ origin: 'manual', ...drops[2]!.at });
    await page.evaluate((at) => window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now() })), HUT);
    expect((await pinAt(page, 'p')).x).to.be.closeTo(byKeys.x, 0.01);
    await context.close();
  });

  it('open and close their label by a tap, show markup as text, and may be open from the start', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => {
      window.sheet.pins.add({ id: 'p', ...at, text: '<b>Wick</b> & "co"', open: true });
    }, HUT);
    await drawn(page);
    const open = await page.locator('#map').screenshot();
    await page.mouse.click(320, 205);
    await drawn(page);
    expect(await page.evaluate(() => window.sheet.pins.get('p')!.open)).to.equal(false);
    expect((await page.locator('#map').screenshot()).equals(open)).to.equal(false);
    expect(await page.locator('#map b').count()).to.equal(0);
    expect(await page.getByRole('button', { name: '<b>Wick</b> & "co"' }).count()).to.equal(1);
    expect((await reported(page, 'tap'))[0]).to.include({ pin: 'p', kite: false });
    await context.close();
  });

  it('put before there is a size are there when there is one', async () => {
    const { page, context } = await sheet({}, {}, '#map { display: none !important }');
    await page.evaluate((at) => window.sheet.pins.add({ id: 'early', ...at, text: 'Early' }), HUT);
    await page.addStyleTag({ content: '#map { display: flex !important }' });
    await page.getByRole('button', { name: 'Early' }).waitFor({ state: 'attached' });
    expect(await page.evaluate(() => window.sheet.pins.get('early'))).to.include({ id: 'early' });
    await context.close();
  });

  it('are found under a finger among ten thousand, the nearest first', async () => {
    const { page, context } = await sheet();
    const found = await page.evaluate((at) => {
      const { pins } = window.sheet;
      pins.addAll(
        Array.from({ length: 10_000 }, (_, i) => ({
          id: `p${i}`,
          ...window.drift.ahead(at, (i * 137.5) % 360, 30 * Math.sqrt(i)),
        })),
      );
      const own = window.sheet.pixelOf(pins.get('p40')!)!;
      const stage = document.querySelector('#map')!.shadowRoot!.querySelector('.stage')!;
      for (const type of ['pointerdown', 'pointerup'])
        stage.dispatchEvent(
          new PointerEvent(type, { clientX: own.x, clientY: own.y - 12, pointerId: 1, bubbles: true }),
        );
      return window.events.filter(({ kind }) => kind === 'tap');
    }, HUT);
    expect(found[0]).to.include({ pin: 'p40' });
    await context.close();
  });

  it('a hundred thousand at one place are named in a note, and the rest is drawn all the same', async () => {
    const { page, context } = await sheet();
    const note = await page.evaluate((at) => {
      window.sheet.pins.add({ id: 'other', ...window.drift.ahead(at, 90, 200), text: 'Other' });
      const { refused } = window.sheet.pins.addAll(
        Array.from({ length: 100_001 }, (_, i) => (i === 5 ? { lat: 95, lon: 0 } : { ...at })),
      );
      return { refused, note: window.sheet.notes.get('pins')?.text };
    }, HUT);
    expect(note.note).to.equal('100000 pins stand at one place; one is drawn.');
    expect(note.refused).to.deep.equal(['latitude 95 is outside −90…90; latitude and longitude swapped?']);
    await page.getByText('100000 pins stand at one place').waitFor();
    await page.getByRole('button', { name: 'Other' }).waitFor({ state: 'attached' });
    await page.evaluate(() => window.sheet.pins.clear());
    expect(await page.getByText('stand at one place').count()).to.equal(0);
    await context.close();
  });

  it('refuse misspelt and impossible values', async () => {
    const { page, context } = await sheet();
    const messages = await page.evaluate((at) => {
      const message = (pin: object) => {
        try {
          window.sheet.pins.add({ ...at, ...pin });
          return '';
        } catch (error) {
          return (error as Error).message;
        }
      };
      return [
        message({ colour: 'violet' }),
        message({ shape: 'rond' }),
        message({ lat: 100 }),
        message({ text: 3 }),
        message({ name: 'an app’s own field' }),
      ];
    }, HUT);
    expect(messages[0]).to.include('must be a colour like #5b4a8a');
    expect(messages[1]).to.include('did you mean "round"?');
    expect(messages[2]).to.include('latitude 100');
    expect(messages[3]).to.include('must be a text');
    expect(messages[4]).to.equal('');
    await context.close();
  });
});
