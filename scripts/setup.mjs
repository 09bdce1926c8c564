/* Sets up what a fresh machine lacks. Plain Node: nothing need be installed before it. */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, realpathSync, rmSync, statSync, symlinkSync } from 'node:fs';
import { dirname, join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = fileURLToPath(new URL('..', import.meta.url));

/** Runs a command with its output shown; returns its exit code. */
export function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: 'inherit', ...options });
  if (error !== undefined) throw error;
  return status ?? 1;
}

/** Installs the packages of the lock file when they are missing or older than it, and links those of this checkout. */
export function ensurePackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    fail(`Node ${process.versions.node} is too old: 20.19 or newer is needed.`);
  }
  const marker = `${root}node_modules/.package-lock.json`;
  const lock = `${root}package-lock.json`;
  if (!existsSync(marker) || statSync(marker).mtimeMs < statSync(lock).mtimeMs) {
    console.log('Installing packages…');
    if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']) !== 0) {
      fail('The packages could not be installed. Is the npm registry within reach?');
    }
  }
  linkPackages();
}

/** The packages of this checkout: the folder and the name of each. */
export const PACKAGES = ['aurelian-drift', 'aurelian-drift-node'];

/**
 * Makes the packages of a checkout importable by their names from everywhere in it. Installing does so too; but
 * installed packages may come from elsewhere, or from another checkout.
 */
export function linkPackages(checkout = root) {
  for (const name of PACKAGES) {
    const link = join(checkout, 'node_modules', name);
    const folder = join(checkout, 'packages', name);
    if (!existsSync(folder)) continue; // a commit of before there were two packages is the package itself
    if (existsSync(link) && realpathSync(link) === realpathSync(folder)) continue;
    mkdirSync(dirname(link), { recursive: true });
    rmSync(link, { recursive: true, force: true });
    symlinkSync(relative(realpathSync(dirname(link)), realpathSync(folder)), link, 'junction');
  }
}

/** Gives another checkout what is installed here, and links its own packages. */
export function lendPackages(checkout) {
  mkdirSync(join(checkout, 'node_modules'), { recursive: true });
  for (const name of readdirSync(join(root, 'node_modules')))
    if (!PACKAGES.includes(name))
      symlinkSync(join(root, 'node_modules', name), join(checkout, 'node_modules', name));
  linkPackages(checkout);
}

/** Programs that checks use, and the Debian packages they come in. */
const PROGRAMS = {
  chromium: 'chromium',
  Xvfb: 'xvfb',
  xmllint: 'libxml2-utils',
  mosquitto: 'mosquitto',
  'nats-server': 'nats-server',
  openssl: 'openssl',
};

/** Installs missing programs through apt where the user may; otherwise says what to install. */
export function ensurePrograms() {
  const missing = Object.entries(PROGRAMS).filter(([program]) => spawnSync('which', [program]).status !== 0);
  if (missing.length === 0) return;
  const packages = missing.map(([, name]) => name);
  const byHand =
    `Please install ${packages.join(', ')} (Debian: apt-get install ${packages.join(' ')}), and ` +
    `run this again.`;
  if (process.getuid?.() !== 0 || spawnSync('which', ['apt-get']).status !== 0) fail(byHand);
  console.log(`Installing ${packages.join(', ')}…`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  const quiet = { env, stdio: ['ignore', 'ignore', 'inherit'] };
  run('apt-get', ['update', '-qq'], quiet);
  if (run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...packages], quiet) !== 0)
    fail(byHand);
}

/** Says why, and ends with 1. */
export function fail(text) {
  console.error(text);
  process.exit(1);
}
