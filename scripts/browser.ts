import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { chromium, type Browser } from 'playwright-core';
import { build, preview } from 'vite';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));
const configFile = here('../examples/vite.config.ts');

/** Names the folder of the example pages where they are built already, once for all processes of a test run. */
const BUILT_PAGES = 'AURELIAN_BUILT_PAGES';

export interface ServedPages {
  /** Ends with a slash. */
  readonly address: string;
  /** Folder of the built pages. */
  readonly folder: string;
  /** Whether it was built for this call; it is then removed on close. */
  readonly own: boolean;
  close(): Promise<void>;
}

/**
 * Builds pages and serves them on a free local port: the example pages, or those of another folder inside the package,
 * which import the package by its name as the examples do. Each call builds to its own folder, so that other processes
 * that serve the same pages are not disturbed.
 */
export async function servePages(made?: {
  readonly root: string;
  readonly input: readonly string[];
}): Promise<ServedPages> {
  await mkdir(here('../build'), { recursive: true });
  const built = made === undefined ? process.env[BUILT_PAGES] : undefined;
  const folder = built ?? (await mkdtemp(here('../build/served-')));
  const config = {
    logLevel: 'warn' as const,
    ...(made === undefined
      ? { configFile }
      : {
          configFile: false as const,
          root: made.root,
          base: './',
          resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
        }),
    build: {
      outDir: folder,
      emptyOutDir: true,
      modulePreload: { polyfill: false as const },
      ...(made !== undefined && { rolldownOptions: { input: [...made.input] } }),
    },
  };
  if (built === undefined) await build(config);
  const server = await preview({ ...config, preview: { port: 0, host: '127.0.0.1', allowedHosts: true } });
  const { port } = server.httpServer.address() as { port: number };
  return {
    address: `http://127.0.0.1:${port}/`,
    folder,
    own: built === undefined,
    async close() {
      await server.close();
      if (built === undefined) await rm(folder, { recursive: true, force: true });
    },
  };
}

/** Debian's Chromium, unless the environment names another. */
export const CHROMIUM = process.env['CHROMIUM'] ?? '/usr/bin/chromium';
/** Flags that stop requests to the vendor's hosts. */
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** Debian's Chromium, without requests to the vendor's hosts. */
export function launchChromium(
  options: {
    readonly headless?: boolean;
    readonly display?: string;
    /** Keeps the back/forward cache, as browsers of real users do. */
    readonly pagesKept?: boolean;
    /** A made-up host name that resolves to this machine and is not a secure origin. */
    readonly insecureHost?: string;
  } = {},
): Promise<Browser> {
  return chromium.launch({
    executablePath: CHROMIUM,
    headless: options.headless ?? true,
    ...(options.display !== undefined && { env: { ...process.env, DISPLAY: options.display } }),
    ...(options.pagesKept === true && { ignoreDefaultArgs: ['--disable-back-forward-cache'] }),
    args: [
      ...(options.insecureHost === undefined
        ? []
        : [`--host-resolver-rules=MAP ${options.insecureHost} 127.0.0.1`]),
      ...CHROMIUM_FLAGS,
    ],
  });
}
