import { expect } from 'chai';
import type { Browser, BrowserContext, BrowserContextOptions, Page } from 'playwright-core';
import { rmSync } from 'node:fs';
import { mkdir, writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { launchChromium, servePages, type ServedPages } from '../../scripts/browser.js';
import { eventually } from './eventually.js';

export interface Pages {
  readonly address: string;
  /** Folder of the built pages. */
  readonly folder: string;
  /** A page in a new context; its console errors are collected. */
  readonly open: (
    path: string,
    options?: BrowserContextOptions,
  ) => Promise<{ page: Page; context: BrowserContext; complaints: string[] }>;
}

/** The browser of this process: starting one takes long on a loaded machine, and each page has a context of its own. */
let shared: Promise<Browser> | undefined;
/** Pages that this process has built: the same ones are built once for all tests in it. */
const built = new Map<string, Promise<ServedPages>>();
process.once('exit', () => {
  for (const folder of folders) rmSync(folder, { recursive: true, force: true });
});
const folders: string[] = [];

/**
 * Serves pages in Chromium for a describe block: the example pages, or pages made for the test, whose
 * scripts import the package by its name.
 */
export function pages(made?: Readonly<Record<string, string>>): Pages {
  let served: ServedPages | undefined;
  let browser: Browser | undefined;
  const opened: BrowserContext[] = [];
  before(async function () {
    this.timeout(300_000); // builds the pages
    const key = JSON.stringify(made ?? 'the examples');
    const serving = built.get(key) ?? (made === undefined ? servePages() : serveMade(made));
    built.set(key, serving);
    served = await serving;
    if (served.own) folders.push(served.folder);
    if ((await shared)?.isConnected() !== true) shared = launchChromium();
    browser = await shared!;
  });
  after(() => Promise.all(opened.map((context) => context.close())));
  return {
    get address() {
      return served!.address;
    },
    get folder() {
      return served!.folder;
    },
    async open(path, options = {}) {
      const context = await browser!.newContext({ viewport: { width: 1280, height: 800 }, ...options });
      opened.push(context);
      // The test runner's compiler names functions with a helper, which the page needs too.
      await context.addInitScript('globalThis.__name = (named) => named');
      const page = await context.newPage();
      page.setDefaultTimeout(120_000); // for conditions that never hold: a loaded machine is slow
      const complaints: string[] = [];
      page.on('pageerror', (error) => complaints.push(error.message));
      page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()));
      await page.goto(new URL(path, served!.address).href);
      return { page, context, complaints };
    },
  };
}

async function serveMade(made: Readonly<Record<string, string>>): Promise<ServedPages> {
  const root = fileURLToPath(new URL(`../../build/test-pages-${process.pid}-${built.size}`, import.meta.url));
  folders.push(root);
  await mkdir(root, { recursive: true });
  for (const [name, html] of Object.entries(made)) await writeFile(`${root}/${name}.html`, html);
  return servePages({ root, input: Object.keys(made).map((name) => `${root}/${name}.html`) });
}

/** A position on the island as the browser is given it. */
export const TOLVAY = { latitude: 44.20313, longitude: -33.58124, accuracy: 18 };

/** Waits until the text of the map on a page, which it sets as it draws, contains a given one. */
export const mapSays = (page: Page, text: string): Promise<void> =>
  eventually(async () => {
    expect(await page.locator('#map #words').textContent()).to.include(text);
  });
