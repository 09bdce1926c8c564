import { fileURLToPath } from 'node:url';
import type { Browser } from 'playwright-core';
import { launchChromium, servePages } from '../scripts/browser.js';
import type { Frames } from './frames/frames.js';
import type { Row } from './measure.js';

/** Frames of a map with a million fixes and five thousand fences, in Chromium without a graphics card. */
export async function mapRows(): Promise<Row[]> {
  const root = fileURLToPath(new URL('..', import.meta.url));
  const served = await servePages({
    root,
    input: ['index', 'day'].map((name) => `${root}bench/frames/${name}.html`),
  });
  const browser = await launchChromium();
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 820 } });
    page.setDefaultTimeout(120_000);
    await page.goto(`${served.address}bench/frames/`);
    await page.evaluate(() => window.ready);
    const near = await page.evaluate(() => window.pan(15, 200));
    const far = await page.evaluate(() => window.pan(12.5, 200));
    const freshNear = await page.evaluate(() => window.fresh(15, 9));
    const freshFar = await page.evaluate(() => window.fresh(12.5, 9));
    const plainNear = await page.evaluate(() => window.plain(15, 3));
    const plainFar = await page.evaluate(() => window.plain(12.5, 3));
    const day = await followADay(browser, `${served.address}bench/frames/day.html`);
    return [
      ...day,
      row('a map frame while panning, zoom 15', near, plainNear, 16),
      row('a map frame while panning, zoom 12.5', far, plainFar, 16),
      row('a whole map anew, zoom 15', freshNear, plainNear, 300),
      row('a whole map anew, zoom 12.5', freshFar, plainFar, 300),
    ];
  } finally {
    await browser.close();
    await served.close();
  }
}

/**
 * Time to the first picture of the island, and growth of the heap between the first and the eighth hour of following.
 */
async function followADay(browser: Browser, address: string): Promise<Row[]> {
  const firsts: number[] = [];
  for (let i = 0; i < 5; i++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 820 } });
    await page.goto(address);
    firsts.push(await page.evaluate(() => window.first));
    await page.close();
  }
  const page = await browser.newPage({ viewport: { width: 1280, height: 820 } });
  page.setDefaultTimeout(120_000);
  await page.goto(address);
  await page.evaluate(() => window.first);
  const devtools = await page.context().newCDPSession(page);
  const heap = async () => {
    await devtools.send('HeapProfiler.collectGarbage');
    return (await devtools.send('Runtime.getHeapUsage')).usedSize / 1e6;
  };
  await page.evaluate(() => window.follow(1));
  const after1 = await heap();
  await page.evaluate(() => window.follow(7));
  const after8 = await heap();
  await page.close();
  const first = firsts.toSorted((a, b) => a - b)[2] ?? NaN;
  return [
    {
      what: 'the first picture of the island',
      ours: `${first.toFixed(0)} ms`,
      baseline: 'from having its file',
      ratio: '–',
      goal: '≤ 300 ms',
      met: first <= 300,
    },
    {
      what: 'the heap after 8 h of following on the map',
      ours: `${after8.toFixed(1)} MB`,
      baseline: `after 1 h ${after1.toFixed(1)} MB`,
      ratio: `${(after8 / after1).toFixed(2)} ×`,
      goal: '≤ 1.1 ×',
      met: after8 <= 1.1 * after1,
    },
  ];
}

function row(what: string, ours: Frames, plain: Frames, goal: number): Row {
  const [median, worst] = [quantile(ours, 0.5), quantile(ours, 0.95)];
  const base = quantile(plain, 0.5);
  return {
    what,
    ours: `${median.toFixed(1)} ms, 95 % within ${worst.toFixed(0)} ms`,
    baseline: `the trail alone as one canvas path ${base.toFixed(0)} ms`,
    ratio: `${(median / base).toFixed(3)} ×`,
    goal: `≤ ${goal} ms`,
    met: median <= goal,
  };
}

function quantile({ times }: Frames, share: number): number {
  return times.toSorted((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))] ?? NaN;
}
