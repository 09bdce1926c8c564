import type * as Drift from 'aurelian-drift';
import type * as Internal from 'aurelian-drift/internal';
import type * as DriftMap from 'aurelian-drift/map';
import type * as Places from 'aurelian-drift/places';
import type * as Testing from 'aurelian-drift/testing';
import type { BrowserContextOptions, Page } from 'playwright-core';
import { pages } from './pages.js';

/** The whole library on a page, for tests to drive directly. */
const BENCH = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>Bench</title>
  <link rel="icon" href="data:," />
  <style>body { margin: 0 } #map { width: 640px; height: 480px }</style></head>
  <body><div id="map"></div><script type="module">
    import * as drift from 'aurelian-drift'; import * as map from 'aurelian-drift/map';
    import * as places from 'aurelian-drift/places';
    import * as stores from 'aurelian-drift/stores';
    import * as testing from 'aurelian-drift/testing'; import * as internal from 'aurelian-drift/internal';
    Object.assign(window, { drift, map, places, stores, testing, internal });
  </script></body></html>`;

export type MapWindow = Window & {
  drift: typeof Drift;
  map: typeof DriftMap;
  internal: typeof Internal;
  places: typeof Places;
  testing: typeof Testing;
  sheet: DriftMap.MapSheet;
  warned: string[];
  asked: number;
  events: DriftMap.MapEvent[];
};
declare const window: MapWindow;

export const HUT = { lat: 44.2, lon: -33.6 };

/** Pages with a map, each in a new context. */
export function mapPages() {
  const served = pages({ bench: BENCH });
  const { open } = served;
  /** A map over a grid, centred on the hut at zoom 15, with options as JSON, and its logged events and warnings. */
  const sheet = async (
    options: object = {},
    context: BrowserContextOptions = {},
    style = '#map { color: inherit }',
  ) => {
    const opened = await open('bench.html', { reducedMotion: 'reduce', ...context });
    const { page } = opened;
    await page.waitForFunction(() => 'drift' in window);
    await page.addStyleTag({ content: style });
    await page.evaluate(
      ([centre, more]) => {
        window.warned = [];
        window.asked = 0;
        window.events = [];
        window.sheet = new window.map.MapSheet({
          container: document.getElementById('map')!,
          centre,
          zoom: 15,
          warn: (text) => window.warned.push(text),
          onOwnPlace: () => window.asked++,
          ...more,
        });
        window.sheet.layers.put('grid', { kind: 'grid' });
        window.sheet.onEvent((event) => window.events.push(event));
      },
      [HUT, options] as const,
    );
    return { ...opened, stage: page.locator('#map .stage') };
  };
  return { open, sheet, served };
}

export const viewOf = (page: Page) => page.evaluate(() => window.sheet.$view.get());

/** Puts tiles in the place of the grid. */
export const putTiles = (page: Page, options: object) =>
  page.evaluate((given) => {
    window.sheet.layers.remove('grid');
    window.sheet.layers.put('tiles', { kind: 'tiles', credit: 'Tiles of nobody', ...given } as never);
  }, options);

/** Waits until everything that was asked for is drawn. */
export const drawn = (page: Page) =>
  page.evaluate(async () => {
    const frame = () => new Promise((resolve) => requestAnimationFrame(resolve));
    await frame();
    do await frame();
    while (window.sheet.work.pending);
  });

/** Logged events of one kind, in order. */
export const reported = (page: Page, kind: DriftMap.MapEvent['kind']) =>
  page.evaluate((wanted) => window.events.filter((event) => event.kind === wanted), kind);
