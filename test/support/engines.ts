import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, readdirSync } from 'node:fs';
import { chromium } from 'playwright-core';
import puppeteer, { type Browser } from 'puppeteer-core';
import { CHROMIUM, CHROMIUM_FLAGS } from '../../scripts/browser.js';
import { freePort } from '../../scripts/servers.js';
import { eventually } from './eventually.js';

/** How an engine answers a page that asks for the position: with one, or with a refusal. */
interface EngineOptions {
  /** Folder of the profile, which stays when the engine is killed. */
  readonly profile: string;
  readonly place?: { readonly latitude: number; readonly longitude: number };
}

/** A page in an engine. Pixels are those of the page. */
export interface EnginePage {
  open(address: string): Promise<void>;
  /** Runs the body of an async function in the page. Values go over as JSON. */
  run<T>(body: string): Promise<T>;
  press(x: number, y: number): Promise<void>;
  drag(from: readonly [number, number], to: readonly [number, number]): Promise<void>;
  /** Ends the engine without a warning, with all its processes. */
  kill(): Promise<void>;
}

/** An engine that is installed here. */
export interface Engine {
  readonly name: string;
  /** Whether a test may give its own positioning interface a place. */
  readonly places: boolean;
  /** Whether its profile outlives it when it is driven. */
  readonly keeps: boolean;
  start(options: EngineOptions): Promise<EnginePage>;
}

const SIZE = { width: 800, height: 600 };
/** Milliseconds: a call to an engine that does not return must not hold up the others. */
const LIMIT = 30_000;

function limited<T>(call: Promise<T>, what: string): Promise<T> {
  let timer: NodeJS.Timeout;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error(`${what} did not return within ${LIMIT / 1000} s`)), LIMIT);
  });
  return Promise.race([call, late]).finally(() => clearTimeout(timer));
}

const asFunction = (body: string) => `(async () => { ${body} })()`;

export const CHROMIUM_ENGINE: Engine = {
  name: 'Chromium',
  places: true,
  keeps: true,
  async start({ profile, place }) {
    const context = await chromium.launchPersistentContext(profile, {
      executablePath: CHROMIUM,
      args: CHROMIUM_FLAGS,
      viewport: SIZE,
      ...(place !== undefined && { geolocation: place, permissions: ['geolocation'] }),
    });
    const page = context.pages()[0] ?? (await context.newPage());
    return {
      async open(address) {
        await page.goto(address);
      },
      run: <T>(body: string) => limited<T>(page.evaluate(asFunction(body)), body),
      press: (x, y) => page.mouse.click(x, y),
      async drag(from, to) {
        await page.mouse.move(...from);
        await page.mouse.down();
        await page.mouse.move(...to, { steps: 8 });
        await page.mouse.up();
      },
      kill: () => context.close(),
    };
  },
};

export const FIREFOX: Engine = {
  name: 'Firefox',
  places: true,
  keeps: true,
  async start({ profile, place }) {
    const answer = place && { location: { lat: place.latitude, lng: place.longitude }, accuracy: 12 };
    const browser: Browser = await puppeteer.launch({
      browser: 'firefox',
      executablePath: '/usr/bin/firefox-esr',
      headless: true,
      userDataDir: profile,
      defaultViewport: SIZE,
      extraPrefsFirefox: {
        'geo.prompt.testing': true,
        'geo.prompt.testing.allow': answer !== undefined,
        'geo.provider.testing': true,
        ...(answer && {
          'geo.provider.network.url': `data:application/json,${encodeURIComponent(JSON.stringify(answer))}`,
        }),
      },
    });
    const page = await browser.newPage();
    return {
      async open(address) {
        await page.goto(address);
      },
      run: <T>(body: string) => limited(page.evaluate(asFunction(body)) as Promise<T>, body),
      press: (x, y) => page.mouse.click(x, y),
      async drag([x, y], to) {
        await page.mouse.move(x, y);
        await page.mouse.down();
        await page.mouse.move(...to, { steps: 8 });
        await page.mouse.up();
      },
      async kill() {
        const child = browser.process();
        child?.kill('SIGKILL');
        await eventually(() => {
          if (child?.exitCode === null && child.signalCode === null) throw new Error('Firefox still runs');
        });
      },
    };
  },
};

/** Folder of the browser that WebKit's driver starts. */
const WEBKIT = '/usr/lib/x86_64-linux-gnu';

/** The engine of Safari and of all browsers on iOS, over plain WebDriver (a W3C recommendation). */
export function webkit(display: () => string): Engine {
  return {
    name: 'WebKit',
    places: false,
    keeps: false,
    async start() {
      const port = await freePort();
      const driver = spawn('WebKitWebDriver', [`--port=${port}`], {
        stdio: 'ignore',
        detached: true, // a group of its own: the browser goes with it
        env: { ...process.env, DISPLAY: display(), WEBKIT_DISABLE_COMPOSITING_MODE: '1' },
      });
      const ask = async (method: string, path: string, body?: object): Promise<unknown> => {
        const response = await limited(
          fetch(`http://127.0.0.1:${port}${path}`, {
            method,
            ...(body !== undefined && { body: JSON.stringify(body) }),
          }),
          `${method} ${path}`,
        );
        const { value } = (await response.json()) as { value: { error?: string; message?: string } | null };
        if (!response.ok) throw new Error(`${value?.error}: ${value?.message}`);
        return value;
      };
      await eventually(() => ask('GET', '/status'));
      const version = readdirSync(WEBKIT).find((name) => existsSync(`${WEBKIT}/${name}/MiniBrowser`));
      const { sessionId } = (await ask('POST', '/session', {
        capabilities: {
          alwaysMatch: {
            'webkitgtk:browserOptions': {
              binary: `${WEBKIT}/${version}/MiniBrowser`,
              args: ['--automation', `--geometry=${SIZE.width}x${SIZE.height + 60}`],
            },
          },
        },
      })) as { sessionId: string };
      const session = (method: string, path: string, body?: object) =>
        ask(method, `/session/${sessionId}${path}`, body);
      await session('POST', '/timeouts', { script: LIMIT, pageLoad: LIMIT });
      const move = ([x, y]: readonly [number, number]) => ({ type: 'pointerMove', x, y, duration: 60 });
      const point = (actions: object[]) =>
        session('POST', '/actions', {
          actions: [{ type: 'pointer', id: 'mouse', parameters: { pointerType: 'mouse' }, actions }],
        });
      const [down, up] = ['pointerDown', 'pointerUp'].map((type) => ({ type, button: 0 }));
      return {
        async open(address) {
          await session('POST', '/url', { url: address });
        },
        async run<T>(body: string) {
          const script = `const done = arguments[arguments.length - 1];
            (async () => { ${body} })().then((value) => done({ value }), (error) => done({ error: String(error) }));`;
          const result = (await session('POST', '/execute/async', { script, args: [] })) as {
            value: T;
            error?: string;
          };
          if (result.error !== undefined) throw new Error(result.error);
          return result.value;
        },
        async press(x, y) {
          await point([move([x, y]), down!, up!]);
        },
        async drag(from, to) {
          const steps = Array.from({ length: 8 }, (_, i) =>
            move([
              Math.round(from[0] + ((to[0] - from[0]) * (i + 1)) / 8),
              Math.round(from[1] + ((to[1] - from[1]) * (i + 1)) / 8),
            ]),
          );
          await point([move(from), down!, ...steps, up!]);
        },
        kill: () => killed(driver),
      };
    },
  };
}

function killed(child: ChildProcess): Promise<void> {
  return new Promise((resolve) => {
    child.once('exit', () => resolve());
    process.kill(-child.pid!, 'SIGKILL');
  });
}
