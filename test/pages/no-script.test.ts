import type { Trail, fixFrom } from 'aurelian-drift';
import type { MapElement, ReceiverElement } from 'aurelian-drift/elements';
import type * as PageParts from 'aurelian-drift/page';
import type { SimulatedDevice } from 'aurelian-drift/testing';
import { expect } from 'chai';
import type { Page } from 'playwright-core';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

const TOLVAY = { latitude: 44.2031, longitude: -33.5812, accuracy: 18 };
const allowed = { permissions: ['geolocation'], geolocation: TOLVAY };

describe('a page without a script of its own', function () {
  this.timeout(240_000);
  const { open } = pages();
  const field = (page: Page, name: string) => page.locator(`input[name=${name}]`).inputValue();

  it('knows the fences around a fix that came before them', async () => {
    const { page, context } = await open('notes/', allowed);
    let fences = () => {};
    const asked = new Promise<void>((resolve) => {
      void page.route('**/sections*.geojson', async (route) => {
        resolve();
        await new Promise<void>((go) => (fences = go));
        await route.continue();
      });
    });
    await page.goto(page.url().replace('notes/', 'no-script/'));
    await asked;
    await page.getByRole('button', { name: 'Where am I?' }).click();
    const shown = page.locator('dl').first();
    await shown.getByText('44.20310° N, 33.58120° W', { exact: true }).waitFor();
    expect(await shown.getByText('Lantern Lea').count()).to.equal(0);
    fences();
    await shown.getByText('Lantern Lea', { exact: true }).waitFor();
    await context.close();
  });

  it('fills its text, its fields and its map from one fix, and sends them in a form', async () => {
    const { page, context, complaints } = await open('no-script/', allowed);
    expect(await page.getByText('Position', { exact: true }).isVisible()).to.equal(false);
    expect(await field(page, 'lat')).to.equal('');
    await page.getByRole('button', { name: 'Where am I?' }).click();
    const shown = page.locator('dl').first();
    for (const text of [
      '44.20310° N, 33.58120° W',
      '±18 m',
      '1 Mill Lane, Tolvay',
      'Lantern Lea',
      '976 m',
      'WNW',
    ])
      await shown.getByText(text, { exact: true }).waitFor();
    expect([await field(page, 'lat'), await field(page, 'lon')]).to.deep.equal(['44.203100', '-33.581200']);
    await eventually(async () => {
      const words = await page.evaluate(() =>
        document.querySelector<MapElement>('aurelian-map')!.sheet!.describe(),
      );
      expect(words).to.include('own place 44.2031');
    });
    const own = page.locator('aurelian-map').getByRole('button', { name: 'Own place' });
    await eventually(async () => expect(await own.getAttribute('data-shown')).to.equal('true'));
    const near = page.locator('aurelian-near');
    await near.getByText('Tolvay Stores', { exact: true }).click();
    await near.getByText('Tolvay Stores, 4 Mill Lane, Tolvay').waitFor();
    expect(await near.locator('summary', { hasText: 'Tolvay Stores' }).textContent()).to.match(
      /51 m ENE\s+shop\s*(?:open|closed) until \d\d:00/,
    );
    await page.getByLabel('What you saw').fill('a tern');
    await page.getByRole('button', { name: 'Send from here' }).click();
    await page.waitForURL(/what=/);
    const sent = Object.fromEntries(new URL(page.url()).searchParams);
    expect(sent).to.deep.include({ what: 'a tern', lat: '44.203100', lon: '-33.581200', accuracy: '18.0' });
    expect(Math.abs(Date.parse(sent['time']!) - Date.now())).to.be.below(60_000);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('sends a form without a place when there is none, and shows a refusal with what helps', async () => {
    const { page, context, complaints } = await open('no-script/', { permissions: [] });
    await page.getByRole('button', { name: 'Where am I?' }).click();
    await page.getByRole('alert').getByText('is not allowed to know your position').waitFor();
    expect(await page.getByRole('alert').count(), 'told once').to.equal(1);
    await page.getByLabel('What you saw').fill('a seal');
    // The place cannot be found: nothing is sent, and the text stays.
    await page.getByRole('button', { name: 'Send from here' }).click();
    await page.getByRole('button', { name: 'Send without my place' }).click();
    await page.waitForURL(/what=/);
    expect([...new URL(page.url()).searchParams.keys()]).to.deep.equal(['what']);
    expect(complaints).to.deep.equal([]);
    await context.close();
  });

  it('lists the places of a service by kinds, and on request only what is open', async () => {
    const { page, context, complaints } = await open('no-script/', allowed);
    await page.getByRole('button', { name: 'Where am I?' }).click();
    await page.evaluate(() => {
      const place = (name: string, opening: object) =>
        ({
          kind: 'shop',
          level: 'spot',
          name,
          text: name,
          lat: 44.204,
          lon: -33.58,
          details: { opening, tel: '12' },
        }) as const;
      const asked: unknown[] = [];
      document.querySelector('aurelian-near')!.places = {
        at: () => Promise.resolve([]),
        named: () => Promise.resolve([]),
        near: (_, options) => {
          asked.push(options?.kinds);
          return Promise.resolve([
            place('<b>Open</b>', {}),
            place('Shut', { dates: '2000-01-01/2000-01-02' }),
          ]);
        },
      };
      Object.assign(window, { asked });
    });
    const near = page.locator('aurelian-near');
    const names = () => near.locator('summary .name').allTextContents();
    await eventually(async () => expect(await names()).to.deep.equal(['<b>Open</b>', 'Shut']));
    await near.getByText('closed now').waitFor();
    await near.evaluate((element) => element.setAttribute('open-now', ''));
    await eventually(async () => expect(await names()).to.deep.equal(['<b>Open</b>']));
    await near.evaluate((element) => element.setAttribute('kinds', 'inn, shop'));
    await eventually(async () => {
      expect(await page.evaluate('window.asked.at(-1)')).to.deep.equal(['inn', 'shop']);
      expect(await names()).to.have.length(1);
    });
    await near.getByText('<b>Open</b>').click();
    await near.getByText('tel').waitFor();
    await near.evaluate((element) => element.setAttribute('within', '-5'));
    await eventually(() => expect(complaints.join()).to.include('within must be 0 to'));
    await context.close();
  });

  it('shows how near the device has come while it looks', async () => {
    const { page, context } = await open('no-script/', {
      ...allowed,
      geolocation: { ...TOLVAY, accuracy: 900 },
    });
    await page.getByRole('button', { name: 'Where am I?' }).click();
    await page.getByText('Looking… ±900 m').waitFor();
    await context.setGeolocation({ ...TOLVAY, accuracy: 300 });
    await page.getByText('Looking… ±300 m').waitFor();
    await context.setGeolocation({ ...TOLVAY, accuracy: 20 });
    await page.getByText('±20 m', { exact: true }).waitFor();
    expect(await page.getByText('Looking…').isVisible()).to.equal(false);
    await context.close();
  });

  it('starts and stops, and lets the device go', async () => {
    const { page, context } = await open('no-script/', allowed);
    const receiver = (of: string) =>
      page.evaluate(`document.querySelector("aurelian-receiver").receiver.${of}`);
    await page.getByRole('button', { name: 'Follow me' }).click();
    await page.getByText('Lantern Lea', { exact: true }).waitFor();
    expect(await page.locator('[data-shows=distance]').textContent()).to.equal('0 m');
    expect(await receiver('receiving')).to.equal(true);
    await page.getByRole('button', { name: 'Stop' }).click();
    expect(await receiver('receiving')).to.equal(false);
    await page.getByRole('button', { name: 'Follow me' }).click();
    expect(await receiver('receiving')).to.equal(true);
    const left = await page.evaluate(() => {
      const element = document.querySelector<ReceiverElement>('aurelian-receiver')!;
      const { receiver: own } = element;
      element.remove();
      return new Promise((resolve) => setTimeout(() => resolve([own!.closed, own!.receiving])));
    });
    expect(left).to.deep.equal([true, false]);
    await context.close();
  });
});

const BENCH = `<!doctype html><html lang="de"><head><meta charset="utf-8"><title>Bench</title><link rel="icon" href="data:," />
  </head><body><main>
  <aurelian-receiver id="outer" purpose="Zeigt, wo Sie sind." acuracy="5" units="imperial">
    <output data-shows="latitude">nirgends</output><output data-shows="lattitude">–</output>
    <b data-when="fund">nie</b><p data-when="unasked">Noch nicht gefragt</p><button data-does="locat">nichts</button><button data-does="locate">Wo bin ich?</button>
    <button data-does="stop">Halt</button><button data-does="follow">Los</button>
    <button data-does="send">Senden</button><p data-when="copied" hidden>Kopiert</p>
    <p data-when="not-sent" hidden>Geht nicht</p><em data-shows="distance"></em><u data-shows="fences"></u>
    <p id="far" data-shows="distance-to" data-to="here">–</p>
    <aurelian-receiver id="inner" purpose="Innen."><i data-shows="purpose"></i></aurelian-receiver>
    <aurelian-map style="display:block;height:200px" ground="grid"><aurelian-pin at="44.2;-33.6"></aurelian-pin>
      <aurelian-pin id="good" at="44.2,-33.6" text="Gut" draggable></aurelian-pin>
      <aurelian-fence name="Lang" radios="5" at="44.2,-33.6"></aurelian-fence></aurelian-map>
    <aurelian-find></aurelian-find>
  </aurelian-receiver></main>
  <script type="module">
    import 'aurelian-drift/elements';
    import { SimulatedDevice } from 'aurelian-drift/testing';
    import * as page from 'aurelian-drift/page';
    import { Trail, fixFrom } from 'aurelian-drift';
    const source = new SimulatedDevice({ at: { lat: 44.2, lon: -33.6 }, warmUp: 0, reception: 'exact', gait: 'drive', every: 0.5 });
    document.getElementById('outer').source = source;
    Object.assign(window, { page, source, Trail, fixFrom, ready: true });
  </script></body></html>`;

declare const window: Window & {
  page: typeof PageParts;
  Trail: typeof Trail;
  fixFrom: typeof fixFrom;
  source: SimulatedDevice;
  chosen: unknown;
};

describe('markup with mistakes, and the parts of a page', function () {
  this.timeout(240_000);
  const { open } = pages({ bench: BENCH });
  const bench = async (options = {}) => {
    const opened = await open('bench.html', options);
    await opened.page.waitForFunction(() => 'ready' in window);
    return opened;
  };

  it('tells each misspelt word and attribute once, with a suggestion, and the rest works in the language of the page', async () => {
    const { page, context, complaints } = await bench();
    await page.locator('#inner').getByText('Innen.').waitFor();
    await page.getByText('Noch nicht gefragt').waitFor();
    await page.getByRole('button', { name: 'Wo bin ich?' }).click();
    await page.getByText('Noch nicht gefragt').waitFor({ state: 'hidden' });
    await page.locator('output', { hasText: '44,20000° N' }).waitFor();
    await page.getByRole('button', { name: 'nichts' }).click();
    await page.getByRole('button', { name: 'Wo bin ich?' }).click();
    expect(complaints.map((text) => text.replace(/.*: /, ''))).to.have.members([
      '<aurelian-receiver> has no attribute "acuracy", did you mean "accuracy"?',
      'data-shows="lattitude" is no word of it, did you mean "latitude"?',
      'data-when="fund" is no word of it, did you mean "found"?',
      'data-does="locat" is no word of it, did you mean "locate"?',
      'data-to is written LAT,LON, like 44.2,-33.6; got "here"',
      'at is written LAT,LON, like 44.2,-33.6; got "44.2;-33.6"',
      '<aurelian-fence> has no attribute "radios", did you mean "radius"?',
    ]);
    // A button that does nothing now stays there for the keyboard.
    const halt = page.getByRole('button', { name: 'Halt' });
    expect(await halt.getAttribute('aria-disabled')).to.equal('true');
    // Pins follow the markup, and the markup a pin that was dragged; a mended fence appears.
    const texts = () =>
      page.evaluate(() =>
        document.querySelector<MapElement>('aurelian-map')!.sheet!.pins.all.map(({ text }) => text),
      );
    expect(await texts()).to.deep.equal(['Gut']);
    await page.evaluate(() => {
      document.getElementById('good')!.setAttribute('text', 'Besser');
      document.querySelector('aurelian-pin')!.setAttribute('at', '44.21,-33.6');
      const fence = document.querySelector('aurelian-fence')!;
      fence.removeAttribute('radios');
      fence.setAttribute('radius', '50');
    });
    await eventually(async () => expect((await texts()).sort()).to.deep.equal(['', 'Besser']));
    await eventually(async () => {
      const inside = await page.evaluate(() =>
        document.querySelector<MapElement>('aurelian-map')!.fences?.map(({ name }) => name),
      );
      expect(inside).to.deep.equal(['Lang']);
    });
    await context.close();
  });

  it('counts the way of a follow, and tells the fences that are crossed', async () => {
    const { page, context } = await bench();
    await page.evaluate(() => {
      const kinds: string[] = [];
      document.addEventListener('receivercrossing', ({ detail }) =>
        kinds.push(`${detail.crossing.kind} ${detail.crossing.name}`),
      );
      const fence = document.createElement('aurelian-fence');
      for (const [name, value] of Object.entries({ name: 'Tor', at: '44.2,-33.5994', radius: '15' }))
        fence.setAttribute(name, value);
      document.querySelector('aurelian-map')!.append(fence);
      window.source.walk([
        { lat: 44.2, lon: -33.6 },
        { lat: 44.2, lon: -33.59 },
      ]);
      Object.assign(window, { kinds });
    });
    await page.getByRole('button', { name: 'Los' }).click();
    await page.locator('u', { hasText: 'Tor' }).waitFor();
    await page.locator('u', { hasText: 'Tor' }).waitFor({ state: 'detached' });
    expect(await page.evaluate('window.kinds')).to.deep.equal(['enter Tor', 'exit Tor']);
    const feet = async () => Number.parseInt((await page.locator('em').textContent())!, 10);
    await eventually(async () => expect(await feet()).to.be.within(190, 330)); // the smoothed way lags behind
    await page.getByRole('button', { name: 'Halt' }).click();
    expect(await page.evaluate(() => window.source.watches)).to.equal(0);
    await context.close();
  });

  it('finds the place where the user is, by keys, and says when it cannot', async () => {
    const { page, context } = await bench();
    await page.evaluate(() => addEventListener('choose', ({ detail }) => (window.chosen = detail)));
    const field = page.locator('aurelian-find').getByRole('combobox');
    await field.focus();
    await page.locator('aurelian-find').getByRole('option', { name: 'Wo ich bin' }).waitFor();
    await field.press('Enter'); // by itself it chooses nothing
    await field.press('ArrowDown');
    await field.press('Enter');
    await eventually(async () => expect(await field.inputValue()).to.match(/^Position 44,20000° N/));
    expect(await page.evaluate(() => window.chosen)).to.nested.include({
      'at.lat': 44.2,
      'fix.origin': 'simulated',
    });
    await page.evaluate(() => window.source.withdraw());
    await field.fill('');
    await field.press('ArrowDown');
    await field.press('Enter');
    await page
      .locator('aurelian-find')
      .getByText('darf Ihren Standort nicht wissen', { exact: false })
      .waitFor();
    await context.close();
  });

  it('sends a place by the system, else to the clipboard, else says that it cannot', async () => {
    const { page, context } = await bench({ permissions: ['clipboard-read', 'clipboard-write'] });
    const send = (share: string) =>
      page.evaluate(async (kind) => {
        const given: unknown[] = [];
        const sheets: Record<string, unknown> = {
          none: undefined,
          works: (data: unknown) => Promise.resolve(void given.push(data)),
          cancels: () => Promise.reject(new DOMException('no', 'AbortError')),
          refuses: () => Promise.reject(new DOMException('no', 'NotAllowedError')),
        };
        Object.defineProperty(navigator, 'share', { configurable: true, value: sheets[kind] });
        const fix = window.fixFrom({ time: Date.UTC(2026, 4, 14, 8), lat: 44.2, lon: -33.6, accuracy: 7 });
        return [await window.page.sendPlace(fix, { title: 'Here', address: 'The hut' }), given];
      }, share);
    const [outcome, given] = (await send('works')) as [string, { title: string; text: string }[]];
    expect([outcome, given[0]!.title]).to.deep.equal(['shared', 'Here']);
    expect(given[0]!.text.split('\n')).to.include.members(['The hut', 'geo:44.2,-33.6;u=7']);
    expect((await send('cancels'))[0]).to.equal('cancelled');
    for (const kind of ['none', 'refuses']) {
      await page.evaluate(() => navigator.clipboard.writeText(''));
      expect((await send(kind))[0], kind).to.equal('copied');
      expect(await page.evaluate(() => navigator.clipboard.readText())).to.include('geo:44.2,-33.6;u=7');
    }
    await page.getByRole('button', { name: 'Wo bin ich?' }).click();
    await page.locator('output', { hasText: '44,20000° N' }).waitFor();
    await page.getByRole('button', { name: 'Senden' }).click();
    await page.getByText('Kopiert').waitFor();
    await page.evaluate(() =>
      Object.defineProperty(navigator, 'clipboard', { configurable: true, value: undefined }),
    );
    await page.getByRole('button', { name: 'Senden' }).click();
    await page.getByText('Geht nicht').waitFor();
    const failed = await send('none').then(
      () => '',
      (error: unknown) => (error as Error).message,
    );
    expect(failed).to.include('neither share a place nor put it on the clipboard');
    await context.close();
  });

  it('saves trails as a file by its ending, and keeps the screen on until it is told', async () => {
    const { page, context } = await bench();
    const download = page.waitForEvent('download');
    const left = await page.evaluate(() => {
      const trail = new window.Trail({ name: 'Walk' });
      trail.append(window.fixFrom({ time: Date.UTC(2026, 4, 14, 8), lat: 44.2, lon: -33.6 }));
      return window.page.saveTracks('walk.csv', { trails: [trail], waypoints: [{ lat: 44, lon: -33 }] });
    });
    expect(left).to.deep.equal(['1 waypoint']);
    const file = await download;
    expect(file.suggestedFilename()).to.equal('walk.csv');
    const text = Buffer.concat(await (await file.createReadStream()).toArray()).toString();
    expect(text).to.include('44.2').and.to.include('2026-05-14T08:00:00');
    const wrong = await page.evaluate(() => {
      try {
        window.page.saveTracks('walk.gpxx', {});
        return '';
      } catch (error) {
        return (error as Error).message;
      }
    });
    expect(wrong).to.include('did you mean "gpx"?');
    const held = await page.evaluate(async () => {
      const calls: string[] = [];
      const lock = {
        request: () => (calls.push('held'), Promise.resolve({ release: () => calls.push('released') })),
      };
      Object.defineProperty(navigator, 'wakeLock', { configurable: true, value: lock });
      const release = window.page.keepScreenOn();
      await new Promise((resolve) => setTimeout(resolve));
      release();
      release();
      window.page.keepScreenOn()(); // let go before it is held
      await new Promise((resolve) => setTimeout(resolve));
      Object.defineProperty(navigator, 'wakeLock', { configurable: true, value: undefined });
      window.page.keepScreenOn((told) => calls.push(told.slice(0, 29)));
      await new Promise((resolve) => setTimeout(resolve));
      return calls;
    });
    expect(held).to.deep.equal(['held', 'released', 'held', 'released', 'the screen is not kept on: th']);
    await context.close();
  });
});
