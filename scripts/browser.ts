import { fileURLToPath } from 'node:url';
import { chromium, type Browser } from 'playwright-core';
import { build, preview } from 'vite';

const configFile = fileURLToPath(new URL('../examples/vite.config.ts', import.meta.url));

/** Builds the example pages and serves them on a free port of this machine. */
export async function servePages(): Promise<{ address: string; close(): Promise<void> }> {
  await build({ configFile, logLevel: 'warn' });
  const server = await preview({ configFile, logLevel: 'warn', preview: { port: 0, host: '127.0.0.1' } });
  const { port } = server.httpServer.address() as { port: number };
  return { address: `http://127.0.0.1:${port}/`, close: () => server.close() };
}

/** Debian's Chromium, kept from looking for hosts of its maker. */
export function launchChromium(options: { readonly headless?: boolean } = {}): Promise<Browser> {
  return chromium.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    headless: options.headless ?? true,
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
    ],
  });
}
