/*
 * npm start: sets up what is missing, runs the tour, then serves the example pages. With --once, ends after the tour.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';
import { ensurePackages, fail, root, run } from './setup.mjs';

/** Port of the pages. If it or the next port, which is the broker's, is taken, another pair is used. */
const PORT = 4173;
/** Number of ports to try. */
const TRIES = 50;
/** Milliseconds between two checks whether the parent process still exists. */
const LOOK = 1000;

const words = process.argv.slice(2);
const unknown = words.find((word) => word !== '--once');
if (unknown !== undefined)
  fail(`npm start knows no "${unknown}"; there is only --once, which ends after the tour.`);

ensurePackages();
if (run('npm', ['run', '-s', 'aurelian', '--', 'tour']) !== 0) process.exit(1);
if (words.includes('--once')) process.exit(0);

const { build } = await import('vite');
const configFile = new URL('../examples/vite.config.ts', import.meta.url).pathname;
await build({ configFile, logLevel: 'error' });
console.log('');
await serve(await freePorts());

/** The first port from PORT on that is free together with the next one. */
async function freePorts() {
  for (let port = PORT; port < PORT + 2 * TRIES; port += 2) {
    if (!((await isFree(port)) && (await isFree(port + 1)))) continue;
    if (port !== PORT)
      console.log(`Port ${PORT} or ${PORT + 1} is taken; these are ${port} and ${port + 1}.`);
    return port;
  }
  return fail(`No two ports from ${PORT} to ${PORT + 2 * TRIES} are free.`);
}

async function isFree(port) {
  const server = createServer();
  const free = await new Promise((resolve) => {
    server.once('error', () => resolve(false));
    server.listen(port, 'localhost', () => resolve(true));
  });
  if (free) {
    server.close();
    await once(server, 'close');
  }
  return free;
}

/** Serves until it is asked to end, and ends the server with itself, even if npm, which started it, was killed. */
async function serve(port) {
  const node = [
    '--conditions=aurelian-source',
    '--import=tsx',
    'packages/aurelian-drift-node/src/cli/main.ts',
    'serve',
    '--port',
    String(port),
  ];
  const server = spawn(process.execPath, node, { cwd: root, stdio: 'inherit' });
  const end = () => server.kill('SIGTERM');
  for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP']) process.on(signal, end);
  const parent = process.ppid;
  const look = setInterval(() => process.ppid !== parent && end(), LOOK);
  const [code] = await once(server, 'exit');
  clearInterval(look);
  process.exit(code ?? 0);
}
