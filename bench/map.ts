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
    const devtools = await page.context().newCDPSession(page);
    await devtools.send('Emulation.setCPUThrottlingRate', { rate: 4 });
    const slow = await page.evaluate(() => window.pan(15, 200));
    await devtools.send('Emulation.setCPUThrottlingRate', { rate: 1 });
    const pins = await page.evaluate(() => window.pins(10_000, 20));
    const freshNear = await page.evaluate(() => window.fresh(15, 9));
    const freshFar = await page.evaluate(() => window.fresh(12.5, 9));
    const plainNear = await page.evaluate(() => window.plain(15, 3));
    const plainFar = await page.evaluate(() => window.plain(12.5, 3));
    const day = await followADay(browser, `${served.address}bench/frames/day.html`);
    return [
      ...day,
      row('a map frame while panning, zoom 15', near, plainNear, [16, 33]),
      row('the same with the processor slowed four times', slow, plainNear, [64, Infinity]),
      row('a map frame while panning, zoom 12.5', far, plainFar, [16, 33]),
      anew('a whole map anew, zoom 15', freshNear, plainNear),
      anew('a whole map anew, zoom 12.5', freshFar, plainFar),
      row('10 000 pins, one changed: the frame after', pins, plainNear, [16, Infinity]),
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
      goal: '≤ 120 ms',
      met: first <= 120,
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

/** @param goals of 95 and of 99 % of the frames, in milliseconds. */
function row(what: string, ours: Frames, plain: Frames, [goal95, goal99]: readonly [number, number]): Row {
  const [median, most, nearlyAll] = [0.5, 0.95, 0.99].map((share) => quantile(ours, share)) as [
    number,
    number,
    number,
  ];
  const base = quantile(plain, 0.5);
  return {
    what,
    ours: `${median.toFixed(1)} ms, 95 % within ${most.toFixed(0)} ms, 99 % within ${nearlyAll.toFixed(0)} ms`,
    baseline: `the trail alone as one canvas path ${base.toFixed(0)} ms`,
    ratio: `${(median / base).toFixed(3)} ×`,
    goal: `95 % ≤ ${goal95} ms${goal99 === Infinity ? '' : `, 99 % ≤ ${goal99} ms`}`,
    met: most <= goal95 && nearlyAll <= goal99,
  };
}

/** A whole picture: at once, or in parts of which none may take long. */
function anew(what: string, { frames, wholes }: { frames: Frames; wholes: Frames }, plain: Frames): Row {
  const [whole, longest] = [quantile(wholes, 0.5), quantile(frames, 0.99)];
  const base = quantile(plain, 0.5);
  return {
    what,
    ours: `${whole.toFixed(0)} ms, in parts of at most ${longest.toFixed(0)} ms`,
    baseline: `the trail alone as one canvas path ${base.toFixed(0)} ms`,
    ratio: `${(whole / base).toFixed(3)} ×`,
    goal: '≤ 90 ms, or in parts of ≤ 33 ms',
    met: whole <= 90 || longest <= 33,
  };
}

function quantile({ times }: Frames, share: number): number {
  return times.toSorted((a, b) => a - b)[Math.min(times.length - 1, Math.floor(times.length * share))] ?? NaN;
}
