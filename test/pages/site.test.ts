import { expect } from 'chai';
import { execFile } from 'node:child_process';
import { existsSync } from 'node:fs';
import { cp, mkdir, rm } from 'node:fs/promises';
import type { AddressInfo } from 'node:net';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import type { Browser } from 'playwright-core';
import { preview, type PreviewServer } from 'vite';
import { launchChromium } from '../../scripts/browser.js';

const root = fileURLToPath(new URL('../..', import.meta.url));

describe('the site of the papers', function () {
  this.timeout(300_000);
  const folder = `${root}/build/site-${process.pid}`;
  let server: PreviewServer;
  let browser: Browser;
  before(async () => {
    if (!existsSync(`${root}/build/site/index.html`))
      await promisify(execFile)('npm', ['run', '-s', 'site'], { cwd: root, maxBuffer: 1e8 });
    await mkdir(folder, { recursive: true });
    await cp(`${root}/build/site`, `${folder}/some/where`, { recursive: true });
    const build = { outDir: folder };
    server = await preview({
      logLevel: 'warn',
      configFile: false,
      appType: 'mpa',
      build,
      preview: { port: 0, host: '127.0.0.1' },
    });
    browser = await launchChromium();
  });
  after(async () => {
    await browser.close();
    await server.close();
    await rm(folder, { recursive: true });
  });

  it('works under any path: papers, pictures, the API reference and the search', async () => {
    const { port } = server.httpServer.address() as AddressInfo;
    const page = await browser.newPage();
    const lost: string[] = [];
    page.on('response', (response) => response.status() >= 400 && lost.push(response.url()));
    await page.goto(`http://127.0.0.1:${port}/some/where/index.html`);
    await page.getByRole('heading', { name: 'Aurelian Drift', level: 1 }).waitFor();
    for (const picture of await page.locator('.tsd-typography img').all()) {
      await picture.scrollIntoViewIfNeeded();
      await picture.evaluate((image: HTMLImageElement) => image.decode());
    }
    await page.getByRole('link', { name: 'Troubleshooting' }).first().click();
    await page.getByRole('heading', { name: 'The prompt never comes' }).waitFor();
    await page.locator('#tsd-search-trigger').click();
    await page.locator('#tsd-search-input').pressSequentially('dutyCycling');
    await page.locator('#tsd-search-results').getByRole('option').first().waitFor();
    await page.locator('#tsd-search-results').getByRole('option').first().click();
    await page.waitForURL(/DutyCycling/);
    // Words of a paper are found too.
    await page.locator('#tsd-search-trigger').click();
    await page.locator('#tsd-search-input').fill('');
    await page.locator('#tsd-search-input').pressSequentially('reflections');
    await page.locator('#tsd-search-results').getByText('Troubleshooting').first().waitFor();
    expect(lost.filter((address) => !address.endsWith('/favicon.ico'))).to.deep.equal([]);
    await page.close();
  });
});
