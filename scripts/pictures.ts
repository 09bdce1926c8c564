/* npm run pictures: draws every picture of docs/screenshots again from the demo data. */
import { execFile, spawn } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { Resvg } from '@resvg/resvg-js';
import { FenceWatch, ahead, fixFrom, timetable, type Fence, type Fix } from 'aurelian-drift';
import { Camera, groundFrom, writeSvg, sheetScene } from 'aurelian-drift/map';
import { partyBroker, partyUsersFrom } from 'aurelian-drift-node';
import type { Page } from 'playwright-core';
import { launchChromium, servePages } from './browser.js';

const folder = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));
const SIZES = { desk: { width: 1280, height: 800 }, phone: { width: 390, height: 844 } } as const;
/** A door in Tolvay. */
const GEOLOCATION = { latitude: 44.20313, longitude: -33.58124, accuracy: 18 };

const run = promisify(execFile);
const aurelian = async (...words: string[]) =>
  (await run('npm', ['run', '-s', 'aurelian', '--', ...words], { maxBuffer: 1e8 })).stdout;

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
  await shot('desk', 'whereabouts', [GEOLOCATION], async (page) => {
    await page.click('#find');
    await page.locator('#map canvas').first().waitFor();
    await page.locator('#place', { hasText: 'Tolvay' }).waitFor();
  });
  await shot(
    'desk',
    'no-script',
    [GEOLOCATION],
    async (page) => {
      await page.getByRole('button', { name: 'Where am I?' }).click();
      await page.getByText('1 Mill Lane, Tolvay', { exact: true }).waitFor();
      await page.locator('aurelian-near').getByText('Tolvay Stores', { exact: true }).waitFor();
      await page.locator('body').click({ position: { x: 5, y: 5 } });
    },
    'no-script/',
  );
  for (const size of ['desk', 'phone'] as const) await shot(size, 'round', [], (page) => walked(page, 1400));
  await shot('desk', 'fences', [], drawFence, 'round/?tempo=60');
  await fenceStates();
  await shot(
    'desk',
    'replay',
    [],
    async (page) => {
      await page.click('#demo');
      await page.locator('#map canvas').first().waitFor();
      await page.locator('#time').fill('2500');
    },
    'replay/',
  );
  await shot(
    'desk',
    'consent',
    [],
    (page) => page.click('#find').then(() => goOn(page).waitFor()),
    'whereabouts/',
  );
  await shot(
    'desk',
    'notes',
    [],
    (page) => page.locator('#tiles .note').waitFor({ timeout: 20_000 }),
    'notes/',
  );
  await shot(
    'desk',
    'hut',
    [],
    async (page) => {
      await page.locator('#roster .vanished').waitFor();
      await page.locator('#roster .asleep').waitFor();
      await page.waitForTimeout(2000); // some minutes of clock time
    },
    'hut/?pretend&tempo=60',
  );
  await shot(
    'desk',
    'share',
    [],
    async (page) => {
      await walked(page, 600);
      await page.selectOption('#share-rounding', '100');
      await page.click('#share');
      await page.locator('#share-state', { hasText: 'On: you are seen.' }).waitFor();
      await page.locator('#share-terms', { hasText: 'They see now' }).waitFor();
    },
    'round/?tempo=60',
  );
  await party();
} finally {
  await browser.close();
  await served.close();
  await rm(work, { recursive: true });
}

function goOn(page: Page) {
  return page.getByRole('button', { name: 'Continue' });
}

/** The pretend walk after this many fixes. */
async function walked(page: Page, fixes: number): Promise<void> {
  await page.click('#use-pretend');
  await goOn(page).click();
  await page.waitForFunction(
    (wanted) => Number(document.getElementById('fixes')?.textContent) > wanted,
    fixes,
    { timeout: 60_000 },
  );
}

/** A nearly finished outline on the round page. */
async function drawFence(page: Page): Promise<void> {
  await walked(page, 700);
  await page.click('#draw-outline');
  await page.fill('#fence-name', 'Nesting ground');
  const box = await page.locator('#map').boundingBox();
  if (box === null) throw new Error('there is no map');
  const corners = [[0.2, 0.3], [0.36, 0.2], [0.47, 0.34], [0.42, 0.6], [0.24, 0.62]] as const; // prettier-ignore
  for (const [i, [x, y]] of corners.entries()) {
    await page.mouse.click(box.x + box.width * x, box.y + box.height * y);
    await page.locator(`[data-pin="corner-${i}"]`).waitFor();
    await page.waitForTimeout(350); // two clicks at the same moment are a double click
  }
  await page.locator('#fence-events').scrollIntoViewIfNeeded();
}

/** Fences around a user on the island, in each state that a watch reports. */
async function fenceStates(): Promise<void> {
  const here = { lat: 44.2062, lon: -33.5935 };
  const start = Date.UTC(2026, 4, 14, 12);
  const circle = (id: string, course: number, away: number, radius: number, more: object = {}): Fence => ({
    kind: 'circle',
    id,
    name: id,
    centre: ahead(here, course, away),
    radius,
    ...more,
  });
  const outline = [[20, 210], [75, 150], [130, 170], [190, 240], [250, 210], [310, 190]] as const; // prettier-ignore
  const lane = [ahead(here, 100, 380), ahead(here, 60, 330), ahead(here, 40, 420)];
  const fences: Fence[] = [
    {
      kind: 'polygon',
      id: 'Inside',
      name: 'Inside',
      parts: [[outline.map(([course, away]) => ahead(here, course, away))]],
    },
    circle('Nobody can tell', 330, 149, 150),
    circle('Outside', 285, 420, 130),
    { kind: 'corridor', id: 'Closed', name: 'Closed', lines: [lane], halfWidth: 35 },
    circle('Not watched at noon', 150, 400, 120, {
      when: timetable({ hours: '20:00/06:00', timeZone: 'UTC' }),
    }),
  ];
  const watch = new FenceWatch(fences);
  let fix: Fix | undefined;
  for (let second = 0; second < 20; second++) {
    fix = fixFrom({ time: start + second * 1000, ...here, accuracy: 8 });
    watch.take(fix);
  }
  const those = (wanted: string | undefined) =>
    new Set(fences.flatMap(({ id }) => (watch.sideOf(id) === wanted ? [id] : [])));
  const island = await readFile(new URL('../demo/vanesk.geojson', import.meta.url), 'utf8');
  const camera = new Camera({ centre: here, zoom: 15.6, turn: 0, width: 1280, height: 800 });
  const scene = sheetScene(camera, {
    layers: [
      { kind: 'ground', ground: groundFrom(JSON.parse(island)) },
      {
        kind: 'fences',
        fences,
        paint: {
          inside: those('inside'),
          uncertain: those('uncertain'),
          off: those(undefined),
          toneOf: ({ id }) => (id === 'Closed' ? 'closed' : 'ordinary'),
        },
      },
    ],
    ...(fix && { fix }),
    margin: { title: 'How a fence may stand', credit: 'Vanesk, an island that does not exist' },
  });
  const fonts = ['400Regular/SourceSans3_400Regular', '600SemiBold/SourceSans3_600SemiBold'];
  const resolve = createRequire(import.meta.url).resolve;
  const fontFiles = fonts.map((face) => resolve(`@expo-google-fonts/source-sans-3/${face}.ttf`));
  const font = { fontFiles, loadSystemFonts: false, defaultFontFamily: 'Source Sans 3' };
  await writeFile(join(folder, 'fences.png'), new Resvg(writeSvg(scene), { font }).render().asPng());
}

/** A party of the demo wardens with its own broker: the printed roster, and the printed alarms of the guard. */
async function party(): Promise<void> {
  const users = await readFile(new URL('../demo/party.json', import.meta.url), 'utf8');
  const broker = await partyBroker({ users: partyUsersFrom(JSON.parse(users)), port: 0 });
  const at = ['--broker', broker.address ?? ''];
  const begin = (...words: string[]) => {
    const child = spawn('npm', ['run', '-s', 'aurelian', '--', 'party', ...words, ...at], {
      detached: true,
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let out = '';
    for (const stream of words[0] === 'announce' ? [child.stdout, child.stderr] : [child.stdout])
      stream.on('data', (data) => (out += String(data)));
    const end = (signal: NodeJS.Signals) => child.pid !== undefined && process.kill(-child.pid, signal);
    return { out: () => out, end };
  };
  const names = { mirel: 'dune-round', tavi: 'tarn-round', osk: 'west-round' };
  const guard = begin('guard', '--fences', 'demo', '--check-in', '10s', '--memory', join(work, 'guard'));
  const out = Object.entries(names).map(([id, round]) =>
    begin(
      'announce',
      `demo:${round}`,
      '--as',
      id,
      '--name',
      id.replace(/^./, (letter) => letter.toUpperCase()),
      '--keep-alive',
      '4s',
      ...(id === 'tavi' ? ['--rounding', '100m', '--limit', '2h'] : []),
    ),
  );
  const pause = (seconds: number) => new Promise((done) => setTimeout(done, seconds * 1000));
  await pause(15);
  out[2]?.end('SIGKILL');
  await pause(22);
  const roster = await aurelian('party', 'watch', '--for', '2s', '--view', 'lines', ...at);
  guard.end('SIGTERM');
  for (const each of out.slice(0, 2)) each.end('SIGTERM');
  await pause(2);
  await broker.close();
  const tavi = (out[1]?.out() ?? '').split('\n').slice(0, 12).join('\n');
  await printed('party', [
    [
      'party announce demo:tarn-round --as tavi --name Tavi --rounding 100m --limit 2h --keep-alive 4s',
      `${tavi}\n…\n`,
    ],
    ['party guard --fences demo --check-in 10s', guard.out()],
    ['party watch --for 2s', roster],
  ]);
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
  const ways = join(work, 'ways.geojson');
  await aurelian('way', 'Wick Orrin', 'Sallowick', '--choices', '3', '-o', ways);
  const title = 'Three ways from Wick Orrin to Sallowick';
  await aurelian('map', ways, '-o', join(folder, 'ways.png'), '--base', 'demo', '--title', title);
}

/** The full page of a report. */
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

/** Output of commands, drawn as a terminal. */
async function terminal(name: string, commands: readonly (readonly string[])[]): Promise<void> {
  const all: [string, string][] = [];
  for (const words of commands) {
    // The temporary folder of this run is replaced in the picture.
    const shown = words
      .join(' ')
      .replace(/ --into \S+/, '')
      .replaceAll(`${work}/`, '');
    all.push([shown, (await aurelian(...words)).replaceAll(`${work}/`, '')]);
  }
  await printed(name, all);
}

/** Printed output, drawn as a terminal. */
async function printed(name: string, all: readonly (readonly [string, string])[]): Promise<void> {
  const font = createRequire(import.meta.url).resolve(
    '@expo-google-fonts/source-code-pro/400Regular/SourceCodePro_400Regular.ttf',
  );
  const face = (await readFile(font)).toString('base64');
  const text = all.map(([command, output]) => `$ aurelian ${command}\n${output}`).join('\n');
  const page = await browser.newPage({ viewport: SIZES.desk });
  await page.setContent(`<style>
    @font-face { font-family: Terminal; src: url(data:font/ttf;base64,${face}) }
    body { margin: 0 }
    pre { margin: 0; padding: 14px 18px; background: #2b2a33; color: #f5e8d2; font: 12.5px/1.27 Terminal, monospace;
      white-space: pre-wrap }
  </style><pre></pre>`);
  // Escaped: the output is text, never markup.
  await page.locator('pre').evaluate((pre, shown) => (pre.textContent = shown), text);
  await page.evaluate(() => document.fonts.ready);
  await page.locator('pre').screenshot({ path: join(folder, `${name}.png`) });
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
  await page.mouse.move(2, 2); // away from the buttons
  await page.evaluate(
    () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))),
  );
  await page.screenshot({ path: join(folder, `${name}-${size}.png`) });
  await context.close();
}
