import { expect } from 'chai';
import type { Browser, BrowserContext, BrowserContextOptions, Page } from 'playwright-core';
import { mkdir, rm, writeFile } from 'node:fs/promises';
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

/**
 * Serves pages and starts Chromium once for a describe block: the example pages, or pages made for the test, whose
 * scripts import the package by its name.
 */
export function pages(made?: Readonly<Record<string, string>>): Pages {
  let served: ServedPages | undefined;
  const root = fileURLToPath(new URL(`../../build/test-pages-${process.pid}`, import.meta.url));
  let browser: Browser | undefined;
  before(async function () {
    this.timeout(300_000); // builds the pages
    served = made === undefined ? await servePages() : await serveMade(root, made);
    browser = await launchChromium();
  });
  after(async () => {
    await browser?.close();
    await served?.close();
    await rm(root, { recursive: true, force: true });
  });
  return {
    get address() {
      return served!.address;
    },
    get folder() {
      return served!.folder;
    },
    async open(path, options = {}) {
      const context = await browser!.newContext({ viewport: { width: 1280, height: 800 }, ...options });
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

async function serveMade(root: string, made: Readonly<Record<string, string>>): Promise<ServedPages> {
  await mkdir(root, { recursive: true });
  for (const [name, html] of Object.entries(made)) await writeFile(`${root}/${name}.html`, html);
  return servePages({ root, input: Object.keys(made).map((name) => `${root}/${name}.html`) });
}

/** A position on the island as the browser is given it. */
export const TOLVAY = { latitude: 44.20313, longitude: -33.58124, accuracy: 18 };

/** Waits until the text of the map on a page, which it sets as it draws, contains a given one. */
export const mapSays = (page: Page, text: string): Promise<void> =>
  eventually(async () => {
    expect(await page.locator('#map .stage').getAttribute('aria-label')).to.include(text);
  });
