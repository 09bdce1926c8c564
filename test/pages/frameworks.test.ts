import react from '@vitejs/plugin-react';
import vue from '@vitejs/plugin-vue';
import { expect } from 'chai';
import { execFile } from 'node:child_process';
import { cp, readFile, rm, writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import type { Browser, Page } from 'playwright-core';
import { promisify } from 'node:util';
import { build, createServer, type ViteDevServer } from 'vite';
import { launchChromium } from '../../scripts/browser.js';
import { eventually } from '../support/eventually.js';
import { pages } from '../support/pages.js';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));
const run = promisify(execFile);
const EXAMPLES = here('../../examples');
const metres = async (page: Page) => Number.parseFloat((await page.locator('#walked').textContent()) ?? '');

describe('the same small app in React, in Vue and plain', function () {
  this.timeout(240_000);
  const { open } = pages();
  const sources = { react: 'react/stroll.tsx', vue: 'vue/Stroll.vue', plain: 'plain/stroll.ts' };

  for (const [name, source] of Object.entries(sources)) {
    it(`follows, records and goes on with its trail when it is opened again: ${name}`, async () => {
      const lines = (await readFile(`${EXAMPLES}/${source}`, 'utf8')).trimEnd().split('\n').length;
      expect(lines, 'short enough to be read at once').to.be.below(40);
      const { page, context, complaints } = await open(`${name}/?pretend`);
      expect(await page.locator('#position').textContent(), 'nothing before the start').to.match(/^–\s*$/);
      await page.getByRole('button', { name: 'Start' }).click();
      await eventually(async () => {
        expect(await page.locator('#position').textContent()).to.match(
          /^44\.20\d{3}° N, 33\.58\d{3}° W ±\d+ m$/,
        );
        expect(await metres(page)).to.be.above(0);
      });
      await page.getByRole('button', { name: 'Stop' }).click();
      const walked = await metres(page);
      await page.reload();
      await eventually(async () => expect(await metres(page)).to.be.at.least(walked));
      await page.getByRole('button', { name: 'Start' }).click();
      await eventually(async () => expect(await metres(page)).to.be.above(walked));
      expect(complaints).to.deep.equal([]);
      await context.close();
    });

    it(`shows why there is no position: ${name}`, async () => {
      const { page, context } = await open(`${name}/`, { permissions: [] });
      await page.getByRole('button', { name: 'Start' }).click();
      await page.getByRole('alert').filter({ hasText: 'is not allowed to know your position' }).waitFor();
      expect(await page.getByRole('alert').count(), 'told once').to.equal(1);
      await context.close();
    });
  }
});

interface Counts {
  readonly open: number;
  readonly running: number;
  readonly receivers: { readonly size: number };
  readonly follows: { readonly size: number };
  readonly device: { readonly watches: number };
}
declare const window: Window & {
  seen: Readonly<Record<'react' | 'vue', Counts>>;
  taps: string[];
  setReact: (change: object) => void;
  setVue: (change: object) => void;
  leave: () => void;
  kept: unknown;
};

const SCREENS = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Screens</title>
  <link rel="icon" href="data:," /></head><body><main><div id="react"></div><div id="vue"></div></main>
  <script type="module" src="../../test/support/screens.tsx"></script></body></html>`;

describe('a screen that comes and goes', function () {
  this.timeout(240_000);
  const { open } = pages({ screens: SCREENS });

  for (const [name, setter] of [
    ['react', 'setReact'],
    ['vue', 'setVue'],
  ] as const) {
    it(`has one receiver, one follow and one trail, whatever the framework does: ${name}`, async () => {
      const { page, context, complaints } = await open('screens.html');
      await page.waitForFunction(() => 'leave' in window);
      const counts = () =>
        page.evaluate((of) => {
          const { open: receivers, running, device } = window.seen[of];
          return [receivers, running, device.watches];
        }, name);
      const set = (change: object) => page.evaluate(([of, to]) => window[of](to), [setter, change] as const);
      const fixes = async () => Number(await page.locator(`#${name} .fixes`).textContent());
      const shows = () =>
        eventually(async () => {
          expect(await page.locator(`#${name} .place`).textContent()).to.match(/^44\.2000, \d+ s$/);
          expect(await counts()).to.deep.equal([1, 1, 1]);
        });
      const gone = () => eventually(async () => expect(await counts()).to.deep.equal([0, 0, 0]));

      // The double mount of StrictMode makes one of each.
      await shows();
      const made = await page.evaluate((of) => window.seen[of].receivers.size, name);
      expect(made).to.equal(1);
      await eventually(async () => expect(await fixes()).to.be.above(3));
      // Another option: another follow, and the device is not let go.
      await set({ every: 1 });
      await eventually(async () => {
        expect(await page.evaluate((of) => window.seen[of].follows.size, name)).to.equal(2);
        expect(await counts()).to.deep.equal([1, 1, 1]);
        expect(await page.locator(`#${name} [aria-label^="Every 1 s"]`).count()).to.equal(1);
      });
      await set({ every: 0 });
      // Stopped and started: the receiver stays, the device is let go.
      await set({ off: true });
      await eventually(async () => expect(await counts()).to.deep.equal([1, 0, 0]));
      await set({ off: false });
      await shows();
      // Hidden, and shown again; then left, and opened again: the trail goes on.
      for (const change of [{ hidden: true }, { shown: false }]) {
        await eventually(async () => expect(await fixes()).to.be.above(3));
        const before = await fixes();
        await set(change);
        await gone();
        await set({ hidden: false, shown: true });
        await shows();
        await eventually(async () => expect(await fixes()).to.be.above(before));
      }
      // The elements take texts, objects and listeners as the framework passes them.
      const map = page.locator(`#${name} aurelian-map`);
      expect(await map.getAttribute('controls')).to.equal('none');
      expect(
        await map.evaluate((element) => 'receiver' in element && element.receiver !== undefined),
      ).to.equal(true);
      await map.locator('.stage').click();
      await eventually(async () => expect(await page.evaluate(() => window.taps)).to.include('44.20'));
      await page.evaluate(() => window.leave());
      await gone();
      expect(complaints).to.deep.equal([]);
      await context.close();
    });
  }
});

/** The page of an example in a folder of its own, on a development server. */
for (const [name, file, plugin] of [
  ['react', 'stroll.tsx', react],
  ['vue', 'Stroll.vue', vue],
] as const) {
  describe(`the small app on a development server: ${name}`, function () {
    this.timeout(240_000);
    const folder = here(`../../build/dev-${name}-${process.pid}/examples`);
    let server: ViteDevServer;
    let browser: Browser;

    before(async function () {
      this.timeout(120_000);
      for (const part of [name, 'shared'])
        await cp(`${EXAMPLES}/${part}`, `${folder}/${part}`, { recursive: true });
      await cp(here('../../demo/vanesk.geojson'), `${folder}/../demo/vanesk.geojson`);
      await writeFile(
        `${folder}/${name}/render.js`,
        name === 'react'
          ? `import { createElement } from 'react'; import { renderToString } from 'react-dom/server';
            import { Stroll } from './stroll.tsx'; console.log(renderToString(createElement(Stroll)).trim());`
          : `import { createSSRApp } from 'vue'; import { renderToString } from 'vue/server-renderer';
            import Stroll from './Stroll.vue'; console.log((await renderToString(createSSRApp(Stroll))).trim());`,
      );
      const resolve = (...more: string[]) => ({ conditions: ['aurelian-source', 'module', ...more] });
      await build({
        configFile: false,
        root: folder,
        logLevel: 'silent',
        plugins: [plugin()],
        ssr: { noExternal: [/^aurelian-drift/], resolve: resolve('node') },
        build: { ssr: `${folder}/${name}/render.js`, outDir: `${folder}/server` },
      });
      process.env['NODE_ENV'] = 'development'; // the build has set it
      server = await createServer({
        configFile: false,
        root: folder,
        cacheDir: `${folder}/cache`,
        logLevel: 'error',
        plugins: [plugin()],
        resolve: resolve('browser', 'development|production'),
        // All that is no module: what is found later would load the page again.
        optimizeDeps: {
          noDiscovery: true,
          include: ['react', 'react/jsx-dev-runtime', 'react-dom/client', 'saxes'],
        },
        server: { port: 0, host: '127.0.0.1', fs: { strict: false } },
      });
      await server.listen();
      browser = await launchChromium();
    });
    after(async () => {
      delete process.env['NODE_ENV'];
      await browser.close();
      await server.close();
      await rm(`${folder}/..`, { recursive: true, force: true });
    });

    const visit = async (path: string) => {
      const context = await browser.newContext();
      const page = await context.newPage();
      const said: string[] = [];
      page.on('pageerror', (error) => said.push(error.message));
      page.on('console', (message) => {
        if (['error', 'warning'].includes(message.type())) said.push(message.text());
      });
      await page.goto(`${server.resolvedUrls!.local[0]!}${name}/${path}`);
      return { page, context, said };
    };

    it('starts from what a server has rendered, and takes changed code over without losing anything', async () => {
      const { stdout: rendered } = await run('node', [`${folder}/server/render.js`]);
      expect(rendered).to.include('–').and.to.include('Start');
      const start =
        name === 'react'
          ? `import { createElement } from 'react'; import { hydrateRoot } from 'react-dom/client';
            import { Stroll } from './stroll.tsx';
            hydrateRoot(document.getElementById('app'), createElement(Stroll), { onRecoverableError: console.error });`
          : `import { createSSRApp } from 'vue'; import Stroll from './Stroll.vue';
            createSSRApp(Stroll).mount('#app');`;
      await writeFile(`${folder}/${name}/hydrate.js`, start);
      await writeFile(
        `${folder}/${name}/hydrate.html`,
        `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Stroll</title><link rel="icon" href="data:,">
        <style>.map { height: 200px }</style></head><body><main id="app">${rendered.trim()}</main>
        <script type="module" src="./hydrate.js"></script></body></html>`,
      );
      const { page, context, said } = await visit('hydrate.html?pretend');
      await page.locator('.map canvas').waitFor();
      await page.getByRole('button', { name: 'Start' }).click();
      await eventually(async () => expect(await metres(page)).to.be.above(0));
      expect(said, 'no difference').to.deep.equal([]);
      await page.evaluate(() => (window.kept = true));
      const walked = await metres(page);
      const path = `${folder}/${name}/${file}`;
      const source = await readFile(path, 'utf8');
      await writeFile(path, source.replace('<h1>Stroll</h1>', '<h1>Changed</h1>'));
      await page.getByRole('heading', { name: 'Changed' }).waitFor();
      expect(await page.evaluate(() => window.kept), 'the page was not loaded again').to.equal(true);
      await eventually(async () => expect(await metres(page)).to.be.above(walked));
      await page.getByRole('button', { name: 'Stop' }).waitFor();
      expect(said).to.deep.equal([]);
      await context.close();
    });
  });
}
