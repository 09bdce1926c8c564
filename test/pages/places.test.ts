import { placesServer } from 'aurelian-drift-node';
import { Gazetteer, type PlaceAnswer } from 'aurelian-drift/places';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { HUT, drawn, mapPages, type MapWindow } from '../support/map-page.js';
import { faultsOf } from '../support/axe.js';
import { mapSays, pages } from '../support/pages.js';

const DOOR = { latitude: 44.187034, longitude: -33.607412, accuracy: 12 };
const allowed = { permissions: ['geolocation'], geolocation: DOOR };
const field = (page: Page) => page.locator('aurelian-find').getByRole('combobox');

describe('places on the example pages', function () {
  this.timeout(240_000);
  const built = pages();
  const { open } = built;

  describe('whereabouts', () => {
    it('shows the address under the numbers', async () => {
      const { page, context, complaints } = await open('whereabouts/', allowed);
      await page.click('#find');
      await page.locator('#place', { hasText: '14 Plover Lane, Wick Orrin' }).waitFor();
      expect(await page.locator('#position').textContent()).to.equal('44.18703° N, 33.60741° W');
      expect(complaints).to.deep.equal([]);
      await context.close();
    });

    it('keeps the numbers and the map when the service fails, and reports it', async () => {
      const { page, context } = await open('whereabouts/?places=http://127.0.0.1:9', allowed);
      expect(await page.locator('#purpose').textContent()).to.include('127.0.0.1:9 is asked');
      await page.click('#find');
      await page.locator('#place', { hasText: 'Looking up the place…' }).waitFor();
      expect(await page.locator('#position').textContent()).to.equal('44.18703° N, 33.60741° W');
      await page.locator('#map canvas').first().waitFor();
      await page.locator('#place', { hasText: 'The service cannot be reached' }).waitFor();
      expect(await page.locator('#position').textContent()).to.equal('44.18703° N, 33.60741° W');
      await context.close();
    });

    it('asks a service on another origin, when one is given', async () => {
      const gazetteer = new Gazetteer([
        { kind: 'hut', name: 'Hut of the Service', lat: 44.187, lon: -33.6074 },
      ]);
      const server = await placesServer({ gazetteer });
      const address = await server.listen({ port: 0, host: '127.0.0.1' });
      const { page, context } = await open(`whereabouts/?places=${address}`, allowed);
      await page.click('#find');
      await page.locator('#place', { hasText: 'Hut of the Service' }).waitFor();
      await server.close();
      await context.close();
    });

    it('takes a typed place after a refusal: no dead end', async () => {
      const { page, context, complaints } = await open('whereabouts/'); // headless Chromium refuses
      await page.click('#find');
      await page.getByRole('button', { name: 'Continue' }).click();
      await page.getByRole('alert').waitFor();
      await field(page).fill('chapel well');
      const both = page.locator('aurelian-find').getByRole('option');
      await both.nth(1).waitFor();
      expect(await both.allTextContents()).to.satisfy((texts: string[]) =>
        ['Chapel Well, Nethery', 'Chapel Well, Tolvay'].every((text) =>
          texts.some((each) => each.includes(text)),
        ),
      );
      await both.filter({ hasText: 'Tolvay' }).click();
      await page.locator('#position', { hasText: '44.20423° N, 33.58224° W' }).waitFor();
      expect(await page.locator('#place').textContent()).to.equal('Chapel Well, Tolvay');
      expect(await page.locator('#accuracy').textContent()).to.equal('given by hand');
      await page.locator('#map canvas').first().waitFor();
      expect(await page.getByRole('alert').count()).to.equal(0);
      // And numbers, by keyboard alone.
      await field(page).fill('44,1868; -33,6082');
      await page
        .locator('aurelian-find')
        .getByRole('option', { name: 'Position 44.18680° N, 33.60820° W' })
        .waitFor();
      await field(page).press('Enter');
      await page.locator('#place', { hasText: 'Plover Lane' }).waitFor();
      expect(complaints).to.deep.equal([]);
      await context.close();
    });
  });

  describe('the field to find a place in', () => {
    it('is a combobox: arrows go through the list, Enter chooses, Escape closes', async () => {
      const { page, context } = await open('whereabouts/');
      const input = field(page);
      await input.fill('wick');
      await page.locator('aurelian-find').getByRole('option').first().waitFor();
      expect(await input.getAttribute('aria-expanded')).to.equal('true');
      await input.press('ArrowDown');
      await input.press('ArrowDown');
      const active = await input.getAttribute('aria-activedescendant');
      expect(active).to.equal('choice-1');
      expect(await page.locator('aurelian-find').getByRole('option', { selected: true }).count()).to.equal(1);
      await input.press('Escape');
      expect(await page.locator('aurelian-find').getByRole('option').count()).to.equal(0);
      expect(await input.getAttribute('aria-expanded')).to.equal('false');
      await context.close();
    });

    it('chooses by Enter from the list of what is typed now, never of what was typed before', async () => {
      const { page, context } = await open('whereabouts/');
      const input = field(page);
      const options = page.locator('aurelian-find').getByRole('option');
      await input.fill('wick');
      await options.first().waitFor();
      await page.evaluate(() => {
        const find = document.querySelector('aurelian-find')!;
        find.addEventListener('choose', ({ detail }) => (document.title = detail.text));
        // A service that is slow: Enter comes before its answer.
        const { places } = find as unknown as { places: { named(...given: unknown[]): Promise<unknown> } };
        const named = places.named.bind(places);
        Object.assign(find, {
          places: {
            named: async (...given: unknown[]) => {
              await new Promise((resolve) => setTimeout(resolve, 300));
              return named(...given);
            },
          },
        });
      });
      await input.fill('tolvay');
      await input.press('Enter');
      await page.waitForFunction(() => document.title.startsWith('Tolvay'));
      expect(await options.count()).to.equal(0);
      expect(await input.inputValue()).to.match(/^Tolvay/);
      await context.close();
    });

    it('tells two places of one name apart by their kind and region, to eyes and to screen readers', async () => {
      const { page, context } = await open('whereabouts/');
      await page.evaluate(() => {
        const find = document.querySelector('aurelian-find')!;
        const place = { lat: 44.2, lon: -33.6, level: 'locality', text: 'Orrin', distance: 900, bearing: 90 };
        Object.assign(find, {
          places: {
            named: () =>
              Promise.resolve([
                { ...place, kind: 'hamlet', region: 'North Vanesk' },
                { ...place, kind: 'hamlet', region: 'South Vanesk' },
                { ...place, kind: 'well', text: 'Orrin Well' },
              ]),
          },
        });
      });
      await field(page).fill('orrin');
      const options = page.locator('aurelian-find').getByRole('option');
      await options.first().waitFor();
      const texts = await options.allInnerTexts();
      expect(texts.map((text) => text.split(/\s*\n\s*/))).to.deep.equal([
        ['Orrin', 'hamlet, North Vanesk', '900 m E'],
        ['Orrin', 'hamlet, South Vanesk', '900 m E'],
        ['Orrin Well', '900 m E'],
      ]);
      await context.close();
    });

    it('reports that there is no match, or only an inexact one, and shows markup as text', async () => {
      const { page, context, complaints } = await open('whereabouts/');
      const note = page.locator('aurelian-find .note');
      await field(page).fill('zzyzx');
      await note.filter({ hasText: 'No place has this name.' }).waitFor();
      await field(page).fill('tolvya');
      await note.filter({ hasText: 'Similar names:' }).waitFor();
      await field(page).fill('<img src=x onerror=alert(1)>');
      await note.filter({ hasText: 'No place has this name.' }).waitFor();
      expect(complaints).to.deep.equal([]);
      await context.close();
    });

    it('has no fault that a checker of accessibility finds, open on a phone', async () => {
      const { page, context } = await open('whereabouts/', { viewport: { width: 390, height: 844 } });
      await field(page).fill('wick');
      await page.locator('aurelian-find').getByRole('option').first().waitFor();
      await field(page).press('ArrowDown');
      expect(await faultsOf(page)).to.deep.equal([]);
      await context.close();
    });
  });

  it('work as served by the serve command, under its own content policy', async () => {
    const server = await placesServer({
      gazetteer: new Gazetteer([]),
      pages: built.folder,
    });
    const address = await server.listen({ port: 0, host: '127.0.0.1' });
    const { page, context, complaints } = await open(`${address}/whereabouts/`, allowed);
    await context.grantPermissions(['geolocation'], { origin: address });
    await page.click('#find');
    await page.locator('#place', { hasText: '14 Plover Lane, Wick Orrin' }).waitFor();
    await page.locator('#map canvas').first().waitFor();
    expect(complaints).to.deep.equal([]);
    // While the browser still holds its connections.
    await server.close();
    await context.close();
  });

  it('round names the place while it follows, finds by name, and answers a tap on the map', async () => {
    // At walking speed: the map follows, and at sixty times that speed the pin soon leaves the view.
    const { page, context, complaints } = await open('round/?tempo=1');
    await page.click('#use-pretend');
    await page.getByRole('button', { name: 'Continue' }).click();
    await page.locator('#place', { hasText: /Skerrin$/ }).waitFor();
    const { x, y, width, height } = (await page.locator('#map .stage').boundingBox())!;
    await page.mouse.click(x + width * 0.3, y + height * 0.3);
    await page.locator('#tapped', { hasText: /^\d\d\.\d{5}° N, .*: .*(Skerrin|Hide|Vanesk)/ }).waitFor();
    await mapSays(page, 'pins: ');
    await field(page).fill('tern hide');
    await page.locator('aurelian-find').getByRole('option').first().waitFor();
    await field(page).press('Enter');
    await mapSays(page, 'Tern Hide, Vanesk');
    expect(complaints).to.deep.equal([]);
    await context.close();
  });
});

declare const window: MapWindow & {
  answers: ((found: PlaceAnswer[] | Error) => void)[];
  tapped: string[];
};

describe('a tap on a map', function () {
  this.timeout(240_000);
  const { sheet } = mapPages();

  /** A map that is tapped for addresses, which arrive when the test releases them. */
  const tappable = async () => {
    const opened = await sheet();
    await opened.page.evaluate(() => {
      window.answers = [];
      const at = () =>
        new Promise<PlaceAnswer[]>((resolve, reject) => {
          window.answers.push((found) => (found instanceof Error ? reject(found) : resolve(found)));
        });
      window.places.addressOnTap(window.sheet, { at, near: at, named: at });
    });
    const tap = async (x: number, y: number) => {
      await opened.stage.click({ position: { x, y } });
      await drawn(opened.page);
    };
    const hutPixel = () =>
      opened.page.evaluate((hut) => {
        const { x, y } = window.sheet.pixelOf(hut)!;
        return [x, y] as [number, number];
      }, HUT);
    const pin = () =>
      opened.page.evaluate(() => window.sheet.pins.all.map(({ text, open }) => ({ text, open })));
    /** A tap is reported when no second one follows. */
    const asked = (i: number) =>
      opened.page.waitForFunction((index) => window.answers[index] !== undefined, i);
    const answer = async (i: number, text: string) => {
      await asked(i);
      await opened.page.evaluate(
        ([index, found]) =>
          window.answers[index]!([{ kind: 'house', level: 'house', text: found, lat: 44.2, lon: -33.6 }]),
        [i, text] as const,
      );
    };
    return { ...opened, tap, hutPixel, pin, asked, answer };
  };

  it('puts the pin there at once with numbers, and the address when that comes', async () => {
    const { context, tap, hutPixel, pin, asked, answer } = await tappable();
    await tap(...(await hutPixel()));
    await asked(0);
    const [numbers] = await pin();
    expect(numbers!.text).to.match(/^44\.20000° N, 33\.60000° W$/);
    expect(numbers!.open).to.equal(true);
    await answer(0, '14 Plover Lane, Wick Orrin');
    expect(await pin()).to.deep.equal([{ text: '14 Plover Lane, Wick Orrin', open: true }]);
    await context.close();
  });

  it('shows the newest tap’s address only, when answers come out of order', async () => {
    const { context, tap, pin, answer } = await tappable();
    await tap(200, 200);
    await tap(420, 200);
    await answer(1, 'New Lane');
    await answer(0, 'Old Lane');
    expect(await pin()).to.deep.equal([{ text: 'New Lane', open: true }]);
    await context.close();
  });

  it('keeps the numbers when there is no answer', async () => {
    const { context, page, tap, hutPixel, pin, asked } = await tappable();
    await tap(...(await hutPixel()));
    await asked(0);
    await page.evaluate(() => window.answers[0]!(new Error('no')));
    expect((await pin())[0]!.text).to.equal('44.20000° N, 33.60000° W (no address found)');
    await context.close();
  });

  it('is not for a pin, and records of an app appear as pins', async () => {
    const { context, page, tap, hutPixel, pin } = await tappable();
    const shown = await page.evaluate((hut) => {
      const fix = window.drift.fixFrom({ time: Date.UTC(2026, 4, 14), ...hut, accuracy: 5 });
      const seen = [
        { what: 'Clouded Yellow', place: window.places.placeRecord(fix) },
        { what: 'Marbled White' },
      ];
      const kept = JSON.parse(JSON.stringify(seen)) as { what: string; place?: unknown }[];
      const records = kept.flatMap(({ what, place }) =>
        place === undefined ? [] : [{ ...window.places.placeRecordFrom(place), text: what, open: true }],
      );
      return window.sheet.pins.addAll(records);
    }, HUT);
    expect(shown.refused).to.deep.equal([]);
    expect(await pin()).to.deep.equal([{ text: 'Clouded Yellow', open: true }]);
    const [x, y] = await hutPixel();
    await tap(x, y - 15);
    expect(await page.evaluate(() => window.answers.length)).to.equal(0);
    await context.close();
  });
});
