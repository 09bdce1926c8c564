import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { HUT, drawn, mapPages, reported, viewOf, type MapWindow } from '../support/map-page.js';
import { mapSays } from '../support/pages.js';

declare const window: MapWindow & { late: number };

describe('the truth of a map while it runs', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();
  const show = (page: Page, more: object = {}) =>
    page.evaluate(
      ([at, rest]) => window.sheet.showFix(window.drift.fixFrom({ ...at, time: Date.now(), ...rest })),
      [HUT, more] as const,
    );

  it('fades the kite of a silent receiver, and lets the ages of labels run, by itself', async () => {
    const { page, context } = await sheet({ staleAfter: 2 });
    await show(page);
    await page.evaluate(() => window.sheet.steer('free'));
    await drawn(page);
    const middle = () =>
      page.evaluate(() => {
        const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
        return [...canvas.getContext('2d')!.getImageData(320, 216, 1, 1).data].slice(0, 3).join();
      });
    expect(await middle()).to.equal('184,121,26'); // gold
    await eventually(async () => expect(await middle()).not.to.equal('184,121,26'));
    // An open label: its picture changes with the seconds, and nothing else does.
    await page.mouse.click(320, 216);
    const label = () =>
      page.evaluate(() => {
        const canvas = document.querySelector('#map')!.shadowRoot!.querySelector('canvas')!;
        return canvas.getContext('2d')!.getImageData(330, 160, 280, 60).data.join();
      });
    await drawn(page);
    const before = await label();
    await eventually(async () => expect((await label()) === before).to.equal(false));
    await context.close();
  });

  it('keeps the own place hidden when fixes come for others, until it is shown again', async () => {
    const { page, context } = await sheet();
    const seen = await page.evaluate(async (at) => {
      const clock = new window.testing.VirtualClock();
      const source = new window.testing.SimulatedDevice({ clock, at, permission: 'granted', warmUp: 0 });
      const receiver = new window.drift.Receiver({ source, purpose: 'Test.', clock, warn: () => {} });
      receiver.follow(); // of the app
      window.sheet.receiver = receiver;
      window.sheet.setOwnPlace(true);
      await clock.advance(5);
      const words = [window.sheet.describe()];
      window.sheet.setOwnPlace(false);
      await clock.advance(5);
      words.push(window.sheet.describe());
      window.sheet.setOwnPlace(true);
      await clock.advance(5);
      words.push(window.sheet.describe());
      return words.map((text) => text.includes('own place unknown'));
    }, HUT);
    expect(seen).to.deep.equal([false, true, false]);
    await context.close();
  });

  it('keeps a dragged pin under the finger while the view follows, and drops it where the finger is', async () => {
    const { page, context } = await sheet();
    await page.evaluate((at) => {
      window.sheet.pins.add({ id: 'p', ...window.drift.ahead(at, 45, 150), draggable: true });
    }, HUT);
    await show(page);
    await drawn(page);
    const from = await page.evaluate(() => window.sheet.pixelOf(window.sheet.pins.get('p')!)!);
    await page.mouse.move(from.x, from.y - 15);
    await page.mouse.down();
    await page.mouse.move(from.x + 40, from.y - 15, { steps: 4 });
    await show(page, { lat: HUT.lat + 0.001 }); // the view goes on
    await drawn(page);
    await page.mouse.up();
    const [drop] = (await reported(page, 'drop')) as { at: typeof HUT }[];
    const at = await page.evaluate((place) => window.sheet.pixelOf(place)!, drop!.at);
    expect([at.x, at.y].map(Math.round)).to.deep.equal([from.x + 40, from.y].map(Math.round));
    expect((await viewOf(page))!.centre.lat).to.be.closeTo(HUT.lat + 0.001, 1e-6);
    await context.close();
  });

  it('does not bring back a pin that the app removed or moved while it was dragged', async () => {
    const { page, context } = await sheet();
    for (const act of ['remove', 'move', 'rename'] as const) {
      await page.evaluate((at) => {
        window.events.length = 0;
        window.sheet.pins.add({ id: 'p', ...at, draggable: true, text: 'Old' });
      }, HUT);
      await drawn(page);
      await page.mouse.move(320, 200);
      await page.mouse.down();
      await page.mouse.move(380, 220, { steps: 4 });
      await page.evaluate(
        ([what, at]) => {
          if (what === 'remove') window.sheet.pins.remove('p');
          else if (what === 'move') window.sheet.pins.change('p', { lat: at.lat + 0.002 });
          else window.sheet.pins.change('p', { text: 'New' });
        },
        [act, HUT] as const,
      );
      await page.mouse.move(400, 230, { steps: 2 });
      await page.mouse.up();
      const pin = await page.evaluate(() => window.sheet.pins.get('p'));
      const drops = (await reported(page, 'drop')).length;
      if (act === 'remove') expect([pin, drops]).to.deep.equal([undefined, 0]);
      else if (act === 'move') expect([pin!.lat, drops]).to.deep.equal([HUT.lat + 0.002, 0]);
      else expect([pin!.text, pin!.lon > HUT.lon, drops]).to.deep.equal(['New', true, 1]);
    }
    await context.close();
  });

  it('costs nothing else when a listener or a callback throws', async () => {
    const { page, context, complaints } = await sheet();
    await page.evaluate(() => {
      window.late = 0;
      window.sheet.onEvent(() => {
        throw new Error('of the app');
      });
      window.sheet.onEvent(() => window.late++);
    });
    await page.getByRole('button', { name: 'Closer' }).click();
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16 && window.late > 0);
    await page.evaluate(
      ([at]) => {
        window.sheet.close();
        window.sheet = new window.map.MapSheet({
          container: document.getElementById('map')!,
          centre: at,
          zoom: 15,
          warn: (text) => window.warned.push(text),
          onOwnPlace: () => {
            throw new Error('no place');
          },
        });
      },
      [HUT] as const,
    );
    await page.getByRole('button', { name: 'Own place' }).click();
    const warned = await page.evaluate(() => window.warned.join());
    expect(warned).to.match(/a listener of a MapSheet threw: Error: of the app/);
    expect(warned).to.match(/threw: Error: no place/);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('is described in the chosen units, decimals and language', async () => {
    const { page, context } = await sheet({ units: 'nautical', decimals: 2 });
    await show(page, { accuracy: 12 });
    await mapSays(page, 'own place 44.20° N, 33.60° W ±12 m');
    const german = await page.evaluate(() => {
      window.sheet.texts = {
        language: 'de',
        map: {
          ...window.sheet.texts?.map,
          ownPlaceAt: 'eigener Ort {place}',
          view: '{length} breit, Mitte {place}',
        },
      };
      window.sheet.units = 'metric';
      return window.sheet.describe();
    });
    expect(german).to.match(/eigener Ort 44,20° N; 33,60° W ±12 m; [\d,]+ k?m breit, Mitte 44,20° N/);
    await context.close();
  });
});
