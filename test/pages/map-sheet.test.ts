import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { PNG } from 'pngjs';
import { HUT, drawn as frame, mapPages, viewOf as view, type MapWindow } from '../support/map-page.js';

declare const window: MapWindow;

describe('a map sheet', function () {
  this.timeout(240_000);
  const { sheet: make } = mapPages();
  const sheet = (style?: string) => make({}, {}, style);
  const goldPixels = async (page: Page) => {
    const { data } = PNG.sync.read(await page.locator('#map').screenshot());
    let count = 0;
    for (let i = 0; i < data.length; i += 4)
      count += data[i] === 0xb8 && data[i + 1] === 0x79 && data[i + 2] === 0x1a ? 1 : 0;
    return count;
  };

  it('reads back the centre and zoom it was given, within its bounds', async () => {
    const { page, context } = await sheet();
    const { centre, zoom, bounds, by } = (await view(page))!;
    expect([centre, zoom, by]).to.deep.equal([HUT, 15, 'program']);
    expect(HUT.lon).to.be.within(bounds[0], bounds[2]);
    expect(HUT.lat).to.be.within(bounds[1], bounds[3]);
    await context.close();
  });

  it('moves with the hand: drag, wheel, keys and the strip, and reports the hand as the cause', async () => {
    const { page, context, stage } = await sheet();
    const box = (await stage.boundingBox())!;
    const [x, y] = [box.x + 200, box.y + 150];
    const under = () => page.evaluate(([px, py]) => window.sheet.positionAt(px!, py!), [200, 150]);
    const held = (await under())!;
    await page.mouse.move(x, y);
    await page.mouse.down();
    await page.mouse.move(x + 60, y + 40, { steps: 4 });
    await page.mouse.up();
    const moved = await page.evaluate((at) => window.sheet.pixelOf(at), held);
    expect(moved!.x).to.be.closeTo(260, 0.01);
    expect(moved!.y).to.be.closeTo(190, 0.01);
    expect((await view(page))!.by).to.equal('hand');

    await page.mouse.move(x, y);
    const beforeWheel = (await under())!;
    await page.mouse.wheel(0, -400);
    await page.waitForFunction(() => window.sheet.$view.get()!.zoom === 16);
    const after = await page.evaluate((at) => window.sheet.pixelOf(at), beforeWheel);
    expect(after!.x).to.be.closeTo(200, 0.01);

    await stage.focus();
    await page.keyboard.press('-');
    expect((await view(page))!.zoom).to.equal(15);
    const west = (await view(page))!.centre.lon;
    await page.keyboard.press('ArrowRight');
    expect((await view(page))!.centre.lon).to.be.above(west);

    await page.getByRole('button', { name: 'Closer' }).click();
    expect((await view(page))!.zoom).to.equal(16);
    await page.getByRole('button', { name: 'Wider' }).click();
    expect((await view(page))!.zoom).to.equal(15);
    await context.close();
  });

  it('goes no closer than its limit, and refuses a zoom beyond it with the range', async () => {
    const { page, context } = await sheet();
    await page.evaluate(() => window.sheet.look({ zoom: 22 }));
    await page.getByRole('button', { name: 'Closer', disabled: true }).waitFor();
    const message = await page.evaluate(() => {
      try {
        window.sheet.look({ zoom: 37 });
        return '';
      } catch (error) {
        return (error as Error).message;
      }
    });
    expect(message).to.equal('look: zoom must be 0 to 22, got 37');
    await context.close();
  });

  it(
    'has one kite however many fixes came, keeps it in the middle, and has none after its ' + 'removal',
    async () => {
      const { page, context } = await sheet();
      const pixels: number[] = [];
      for (const count of [1, 100]) {
        await page.evaluate(
          ([centre, times]) => {
            for (let i = 0; i < times; i++)
              window.sheet.showFix(
                window.drift.fixFrom({ time: Date.now(), ...window.drift.ahead(centre, 90, i) }),
              );
          },
          [HUT, count] as const,
        );
        await frame(page);
        pixels.push(await goldPixels(page));
      }
      expect(pixels[0]).to.be.above(100);
      expect(pixels[1]).to.be.closeTo(pixels[0]!, 20);
      const middle = await page.evaluate(
        (centre) => window.sheet.pixelOf(window.drift.ahead(centre, 90, 99)),
        HUT,
      );
      const { width, height } = (await page.locator('#map .stage').boundingBox())!;
      expect(middle!.x).to.be.closeTo(width / 2, 0.5);
      expect(middle!.y).to.be.closeTo(height / 2, 0.5);
      await page.evaluate(() => window.sheet.showFix(undefined));
      await frame(page);
      expect(await goldPixels(page)).to.be.below(60); // only the drawing on the button remains
      await context.close();
    },
  );

  it(
    'keeps the zoom of the hand while it follows, and asks for a fix when the own place is wanted ' +
      'and there is none',
    async () => {
      const { page, context } = await sheet();
      await page.getByRole('button', { name: 'Own place' }).click();
      expect(await page.evaluate(() => window.asked)).to.equal(1);
      const show = (metres: number) =>
        page.evaluate(
          ([centre, away]) =>
            window.sheet.showFix(
              window.drift.fixFrom({
                time: Date.now(),
                ...window.drift.ahead(centre, 0, away),
                accuracy: 40,
              }),
            ),
          [HUT, metres] as const,
        );
      await show(0);
      const first = (await view(page))!.zoom;
      await page.getByRole('button', { name: 'Wider' }).click();
      await show(200);
      expect((await view(page))!.zoom).to.equal(first - 1);
      expect((await view(page))!.centre.lat).to.be.above(HUT.lat);
      await context.close();
    },
  );

  it('of no height is diagnosed; one that is hidden on purpose stays silent, and is right when revealed', async () => {
    const flat = await sheet('#map { height: 0 }');
    expect(await flat.page.evaluate(() => window.warned)).to.deep.equal([
      "the map's container is 640 by 0 pixels; give it a height in CSS",
    ]);
    await flat.context.close();
    const { page, context } = await sheet('#map { display: none !important }');
    expect(await page.evaluate(() => window.warned)).to.deep.equal([]);
    expect(await view(page)).to.equal(undefined);
    await page.evaluate(() =>
      window.sheet.showFix(window.drift.fixFrom({ time: Date.now(), lat: 1, lon: 2 })),
    );
    await page.addStyleTag({ content: '#map { display: flex !important }' });
    await page.waitForFunction(() => window.sheet.$view.get() !== undefined);
    expect((await view(page))!.centre).to.include({ lat: 1, lon: 2 });
    await context.close();
  });

  it('refuses a misspelt option', async () => {
    const { page, context } = await sheet();
    const message = await page.evaluate(() => {
      try {
        new window.map.MapSheet({ container: document.body, zom: 3 } as never);
        return '';
      } catch (error) {
        return (error as Error).message;
      }
    });
    expect(message).to.equal('MapSheet has no option "zom", did you mean "zoom"?');
    await context.close();
  });
});
