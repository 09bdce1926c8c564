import { PartyWatch, mqttBroker } from 'aurelian-drift/presence';
import { partyBroker, partyUsersFrom, type PartyBroker } from 'aurelian-drift-node';
import { expect } from 'chai';
import { readFile } from 'node:fs/promises';
import { createServer, type AddressInfo } from 'node:net';
import type { BrowserContext, Page } from 'playwright-core';
import { preview } from 'vite';
import { eventually } from '../support/eventually.js';
import { mapSays, pages } from '../support/pages.js';

/** East over the edge of Sedge Bottom, as in the walk of the page round. */
const STEPS = Array.from({ length: 13 }, (_, i) => ({
  latitude: 44.1951,
  longitude: Number((-33.619208 + i * 1.88e-5).toFixed(6)),
  accuracy: 5,
}));

describe('the page round without a network', function () {
  this.timeout(240_000);
  const served = pages();

  async function freePort(): Promise<number> {
    const server = createServer().listen(0, '127.0.0.1');
    await new Promise((resolve) => server.once('listening', resolve));
    const { port } = server.address() as AddressInfo;
    await new Promise((resolve) => server.close(resolve));
    return port;
  }
  async function walk(context: BrowserContext, page: Page) {
    for (const [i, step] of STEPS.entries()) {
      if (i > 0) await context.setGeolocation(step);
      const text = `${step.latitude.toFixed(5)}° N, ${(-step.longitude).toFixed(5)}° W`;
      await page.locator('#position', { hasText: text }).waitFor();
      await page.waitForTimeout(250); // Chromium dates positions by its own clock: any faster, no runner could do it
    }
  }

  it('opened once, it starts, follows, records, names places, finds ways, and shares when the network is back', async () => {
    const server = await preview({
      logLevel: 'warn',
      configFile: false,
      build: { outDir: served.folder },
      preview: { port: 0, host: '127.0.0.1' },
    });
    const { port } = server.httpServer.address() as AddressInfo;
    const brokerPort = await freePort();
    const broker = encodeURIComponent(`ws://127.0.0.1:${brokerPort}/party`);
    const address = `http://127.0.0.1:${port}/round/?broker=${broker}&as=mirel`;
    const { page: first, context } = await served.open('notes/', {
      permissions: ['geolocation'],
      geolocation: STEPS[0]!,
    });
    await first.goto(address);
    await first.locator('#network', { hasText: 'opens without a network' }).waitFor();
    await first.close();
    await server.close();
    await expectGone(`http://127.0.0.1:${port}/`);

    const page = await context.newPage();
    page.setDefaultTimeout(120_000);
    const complaints: string[] = [];
    page.on('pageerror', (error) => complaints.push(error.message));
    await page.goto(address);
    await page.getByRole('button', { name: 'Start the round' }).click();
    await page.locator('#storage', { hasText: /The browser (keeps|may erase) your trails.* used/ }).waitFor();
    await page.getByRole('switch', { name: 'Share where I am' }).click();
    await page.locator('#share-state', { hasText: 'On, without a network' }).waitFor();
    await walk(context, page);
    await page.locator('#log li', { hasText: 'into Sedge Bottom' }).waitFor();
    await page.locator('#place', { hasText: /[A-Z]\w+/ }).waitFor();
    await mapSays(page, 'inside Sedge Bottom');
    await page.locator('aurelian-find input').fill('Orrin Stores');
    await page.locator('aurelian-find').getByRole('option').first().click();
    await page.getByRole('button', { name: 'On foot' }).click();
    await page.locator('#way-steps li', { hasText: 'You have arrived' }).waitFor();

    // The network is back: the hut hears of the newest place, once, and of each later one in order.
    const users = JSON.parse(
      await readFile(new URL('../../demo/party.json', import.meta.url), 'utf8'),
    ) as unknown;
    const party: PartyBroker = await partyBroker({
      users: partyUsersFrom(users),
      webSocketPort: brokerPort,
    });
    const own = mqttBroker(`ws://127.0.0.1:${brokerPort}/party`, { username: 'hut', password: 'demo-hut' });
    const watch = new PartyWatch({ party: 'vanesk', broker: own });
    const seen: { readonly lon: number; readonly time: number }[] = [];
    watch.$members.subscribe(([member]) => {
      const place = member?.place;
      if (place !== undefined && place.time !== seen.at(-1)?.time)
        seen.push({ lon: place.lon, time: place.time });
    });
    const last = STEPS.at(-1)!.longitude;
    await eventually(() => expect(seen.at(-1)?.lon).to.be.closeTo(last, 1e-6));
    await page.locator('#share-state', { hasText: 'On: you are seen.' }).waitFor();
    const before = seen.length;
    await context.setGeolocation({ ...STEPS[0]!, longitude: last + 0.0004 });
    await eventually(() => expect(seen.at(-1)?.lon).to.be.closeTo(last + 0.0004, 1e-6));
    expect(seen.length).to.equal(before + 1);
    expect(seen.map(({ time }) => time)).to.deep.equal([...new Set(seen.map(({ time }) => time))].sort());
    await page.click('#share');
    await page.locator('#share-state', { hasText: 'Off' }).waitFor();
    const fixes = Number(await page.locator('#fixes').textContent());
    await page.click('#finish');
    await page.locator('#trails li').waitFor();

    // The trail is there when the page is opened again, with the server still gone.
    await page.reload();
    await page.locator('#trails li', { hasText: /Round, \d+ m/ }).waitFor();
    await page.locator('#trails input').check();
    await page.locator('#map canvas').first().waitFor();
    expect(fixes).to.be.at.least(STEPS.length);
    // Nothing else on this address is kept: it may be another app tomorrow.
    expect(
      await page.goto(new URL('/', address).href).then(
        () => 'there',
        () => 'gone',
      ),
    ).to.equal('gone');
    expect(complaints).to.deep.equal([]);
    await watch.close();
    await context.close();
    await party.close();
  });

  it('is a web app that can be installed', async () => {
    const manifest = JSON.parse(await readFile(`${served.folder}/round/round.webmanifest`, 'utf8')) as {
      icons: { src: string; sizes: string }[];
      start_url: string;
      display: string;
    };
    expect(manifest).to.include({ start_url: './', display: 'standalone' });
    for (const { src } of manifest.icons) await readFile(`${served.folder}/round/${src}`);
    const { page, context } = await served.open('round/');
    const link = await page.locator('link[rel=manifest]').getAttribute('href');
    expect(new URL(link!, page.url()).pathname).to.equal('/round/round.webmanifest');
    const session = await context.newCDPSession(page);
    const { errors } = (await session.send('Page.getAppManifest')) as { errors: unknown[] };
    expect(errors).to.deep.equal([]);
    const { installabilityErrors } = (await session.send('Page.getInstallabilityErrors')) as {
      installabilityErrors: { errorId: string }[];
    };
    expect(installabilityErrors.map(({ errorId }) => errorId)).to.deep.equal([
      'in-incognito', // as every page of a test is
    ]);
    await context.close();
  });
});

async function expectGone(address: string): Promise<void> {
  expect(
    await fetch(address).then(
      () => 'there',
      () => 'gone',
    ),
  ).to.equal('gone');
}
