/* npm run pictures: remakes every picture of docs/screenshots from the demo data. */
import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import type { Page } from 'playwright-core';
import { launchChromium, servePages } from './browser.js';

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));
const SIZES = { desk: { width: 1280, height: 800 }, phone: { width: 390, height: 844 } } as const;
/** A door in Tolvay. */
const GEOLOCATION = { latitude: 44.20313, longitude: -33.58124, accuracy: 18 };

const run = promisify(execFile);
const aurelian = async (...words: string[]) =>
  (await run('npm', ['run', '-s', 'aurelian', '--', ...words])).stdout;

const work = await mkdtemp(join(tmpdir(), 'drift-'));
const served = await servePages();
const browser = await launchChromium();
try {
  await stills();
  await terminal('tour', [['tour', '--into', join(work, 'tour')]]);
  const deep = join(work, 'deep.gpx');
  await aurelian('simulate', 'demo:tarn-round', '-o', deep, '--reception', 'deep');
  await terminal('splits', [
    ['summary', deep, '--splits', '1km', '--fences', 'demo'],
    ['convert', deep, join(work, 'deep.kml')],
    ['convert', deep, join(work, 'thin.nmea'), '--thin', '5m'],
  ]);
  await report();
  await terminal('places', [
    ['place', '44.18668,-33.6082'],
    ['place', '44.16,-33.61'],
    ['near', '44.2,-33.6', '--within', '2km'],
    ['find', 'chapel well', '--near', '44.2,-33.6'],
    ['find', 'plovr lane 14'],
  ]);
  for (const size of ['desk', 'phone'] as const) {
    await shot(size, 'whereabouts', [GEOLOCATION], async (page) => {
      await page.click('#find');
      await page.locator('#map canvas').first().waitFor();
      await page.locator('#place', { hasText: 'Tolvay' }).waitFor();
    });
    await shot(size, 'round', [], async (page) => {
      await page.click('#use-pretend');
      await page.getByRole('button', { name: 'Go on' }).click();
      await page.waitForFunction(
        () => Number(document.getElementById('fixes')?.textContent) > 1400,
        undefined,
        { timeout: 60_000 },
      );
    });
  }
  await shot(
    'phone',
    'find',
    [],
    async (page) => {
      await page.locator('aurelian-find').getByRole('combobox').fill('well');
      await page.locator('aurelian-find').getByRole('option').first().waitFor();
      await page.keyboard.press('ArrowDown');
    },
    'whereabouts/',
  );
  for (const size of ['desk', 'phone'] as const) {
    await shot(
      size,
      'consent',
      [],
      (page) => page.click('#find').then(() => goOn(page).waitFor()),
      'whereabouts/',
    );
  }
  await shot(
    'desk',
    'notes',
    [],
    (page) => page.locator('#tiles .note').waitFor({ timeout: 20_000 }),
    'notes/',
  );
  const refused = async (page: Page) => {
    await page.click('#find');
    await goOn(page).click();
    await page.getByRole('alert').waitFor();
  };
  await shot('desk', 'refused', [], refused, 'whereabouts/');
} finally {
  await browser.close();
  await served.close();
  await rm(work, { recursive: true });
}

function goOn(page: Page) {
  return page.getByRole('button', { name: 'Go on' });
}

/** Pictures that the command line draws. */
async function stills(): Promise<void> {
  const walk = join(work, 'walk.gpx');
  await aurelian('simulate', 'demo:dune-round', '-o', walk, '--seed', '7');
  await aurelian(
    'map',
    walk,
    '-o',
    join(folder, 'map.png'),
    '--base',
    'demo',
    '--fences',
    'demo',
    '--title',
    'Dune Round',
  );
  const gap = join(work, 'gap.gpx');
  await aurelian('simulate', 'demo:dune-round', '-o', gap, '--reception', 'deep', '--seed', '5');
  const still = (out: string, ...more: string[]) =>
    aurelian(
      'map',
      gap,
      '-o',
      join(folder, out),
      '--base',
      'demo',
      '--fences',
      'demo',
      '--title',
      'Dune Round',
      ...more,
    );
  await still('trail.png', '--crumbs', '5min');
  await still('dusk.png', '--theme', 'dusk');
  await still('print.png', '--theme', 'print', '--shade', 'altitude', '--units', 'imperial');
  await aurelian('map', fileURLToPath(new URL('../demo/rounds.geojson', import.meta.url)), '-o', join(folder, 'island.png'), '--base', 'demo', '--title', 'Vanesk and its rounds'); // prettier-ignore
}

/** The whole of a report's page. */
async function report(): Promise<void> {
  const [walk, out] = [join(work, 'round.gpx'), join(work, 'round.html')];
  await aurelian('simulate', 'demo:tarn-round', '-o', walk);
  await aurelian('report', walk, '-o', out, '--base', 'demo', '--fences', 'demo');
  const page = await browser.newPage({ viewport: SIZES.desk });
  await page.goto(`file://${out}`);
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(folder, 'report.png'), fullPage: true });
  await page.close();
}

/** What commands print, as a terminal shows it. */
async function terminal(name: string, commands: readonly (readonly string[])[]): Promise<void> {
  const font = createRequire(import.meta.url).resolve(
    '@expo-google-fonts/source-code-pro/400Regular/SourceCodePro_400Regular.ttf',
  );
  const face = (await readFile(font)).toString('base64');
  const printed: string[] = [];
  for (const words of commands) {
    // The folder of this run is not what a user sees.
    const shown = words
      .join(' ')
      .replace(/ --into \S+/, '')
      .replaceAll(`${work}/`, '');
    printed.push(`$ aurelian ${shown}\n${(await aurelian(...words)).replaceAll(`${work}/`, '')}`);
  }
  const page = await browser.newPage({ viewport: SIZES.desk });
  await page.setContent(`<style>
    @font-face { font-family: Terminal; src: url(data:font/ttf;base64,${face}) }
    body { margin: 0; padding: 14px 18px; background: #2b2a33; color: #f5e8d2 }
    pre { margin: 0; font: 12.5px/1.27 Terminal, monospace; white-space: pre-wrap }
  </style><pre></pre>`);
  // As text, whatever it holds.
  await page.locator('pre').evaluate((pre, shown) => (pre.textContent = shown), printed.join('\n'));
  await page.evaluate(() => document.fonts.ready);
  await page.screenshot({ path: join(folder, `${name}.png`), fullPage: true });
  await page.close();
}

async function shot(
  size: keyof typeof SIZES,
  name: string,
  places: readonly (typeof GEOLOCATION)[],
  act: (page: Page) => Promise<unknown>,
  path = `${name}/?tempo=120`,
): Promise<void> {
  const [geolocation] = places;
  const context = await browser.newContext({
    viewport: SIZES[size],
    ...(geolocation !== undefined && { permissions: ['geolocation'], geolocation }),
  });
  const page = await context.newPage();
  await page.goto(served.address + path);
  await act(page);
  await page.mouse.move(2, 2); // off the buttons
  await page.evaluate(
    () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))),
  );
  await page.screenshot({ path: join(folder, `${name}-${size}.png`) });
  await context.close();
}
