import type { Browser, BrowserContext, BrowserContextOptions, Page } from 'playwright-core';
import { launchChromium, servePages } from '../../scripts/browser.js';

export interface Pages {
  readonly address: string;
  /** A page of a fresh context; what it logs as an error is kept. */
  open(
    path: string,
    options?: BrowserContextOptions,
  ): Promise<{ page: Page; context: BrowserContext; complaints: string[] }>;
}

/** Serves the example pages and starts Chromium once for a describe block. */
export function pages(): Pages {
  let served: Awaited<ReturnType<typeof servePages>> | undefined;
  let browser: Browser | undefined;
  before(async function () {
    this.timeout(60_000); // builds the pages
    served = await servePages();
    browser = await launchChromium();
  });
  after(async () => {
    await browser?.close();
    await served?.close();
  });
  return {
    get address() {
      return served!.address;
    },
    async open(path, options = {}) {
      const context = await browser!.newContext({ viewport: { width: 1280, height: 800 }, ...options });
      const page = await context.newPage();
      page.setDefaultTimeout(10_000);
      const complaints: string[] = [];
      page.on('pageerror', (error) => complaints.push(error.message));
      page.on('console', (message) => message.type() === 'error' && complaints.push(message.text()));
      await page.goto(new URL(path, served!.address).href);
      return { page, context, complaints };
    },
  };
}

/** A place on the island as the browser is told it. */
export const TOLVAY = { latitude: 44.20313, longitude: -33.58124, accuracy: 18 };
