import { fileURLToPath } from 'node:url';
import { chromium, type Browser } from 'playwright-core';
import { build, preview } from 'vite';

const configFile = fileURLToPath(new URL('../examples/vite.config.ts', import.meta.url));

export interface ServedPages {
  /** Ends with a slash. */
  readonly address: string;
  close(): Promise<void>;
}

/**
 * Builds pages and serves them on a free port of this machine: the example pages, or those of another folder below
 * the package's own, which then use the package by its name as the examples do.
 */
export async function servePages(folder?: {
  readonly root: string;
  readonly input: readonly string[];
  /** Where they are built to; by default beside them. */
  readonly built?: string;
}): Promise<ServedPages> {
  const made = folder && {
    configFile: false as const,
    root: folder.root,
    base: './',
    resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
    build: {
      outDir: folder.built ?? `${folder.root}/built`,
      emptyOutDir: true,
      modulePreload: { polyfill: false },
      rolldownOptions: { input: [...folder.input] },
    },
  };
  const config = { ...(made ?? { configFile }), logLevel: 'warn' as const };
  await build(config);
  const server = await preview({ ...config, preview: { port: 0, host: '127.0.0.1', allowedHosts: true } });
  const { port } = server.httpServer.address() as { port: number };
  return { address: `http://127.0.0.1:${port}/`, close: () => server.close() };
}

/** Debian's Chromium, unless another is named. */
export const CHROMIUM = process.env['CHROMIUM'] ?? '/usr/bin/chromium';
/** Keep it from looking for hosts of its maker. */
export const CHROMIUM_FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
];

/** Debian's Chromium, kept from looking for hosts of its maker. */
export function launchChromium(
  options: {
    readonly headless?: boolean;
    readonly display?: string;
    /** Keeps pages for going back, as browsers do for their users. */
    readonly pagesKept?: boolean;
    /** A made-up host name that leads to this machine, and is no secure origin. */
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
