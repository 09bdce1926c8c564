/* Sets up what a fresh machine lacks. Plain Node: nothing need be installed before it runs. */
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

/** Installs the packages of the lock file if they are missing or older than it, and links those of this checkout. */
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

/** The packages of this checkout: folder and name of each. */
export const PACKAGES = ['aurelian-drift', 'aurelian-drift-node'];

/**
 * Links the packages of a checkout, so that every file in it can import them by name. Installing does so too, but the
 * installed packages may come from elsewhere, or from another checkout.
 */
export function linkPackages(checkout = root) {
  for (const name of PACKAGES) {
    const link = join(checkout, 'node_modules', name);
    const folder = join(checkout, 'packages', name);
    if (!existsSync(folder)) continue; // in a commit before the split into two packages, the root is the package
    if (existsSync(link) && realpathSync(link) === realpathSync(folder)) continue;
    mkdirSync(dirname(link), { recursive: true });
    rmSync(link, { recursive: true, force: true });
    symlinkSync(relative(realpathSync(dirname(link)), realpathSync(folder)), link, 'junction');
  }
}

/** Links the installed packages, and its own, into another checkout. */
export function lendPackages(checkout) {
  mkdirSync(join(checkout, 'node_modules'), { recursive: true });
  for (const name of readdirSync(join(root, 'node_modules')))
    if (!PACKAGES.includes(name))
      symlinkSync(join(root, 'node_modules', name), join(checkout, 'node_modules', name));
  linkPackages(checkout);
}

/** Programs that the checks use, and their Debian packages. */
const PROGRAMS = {
  chromium: 'chromium',
  Xvfb: 'xvfb',
  xmllint: 'libxml2-utils',
  mosquitto: 'mosquitto',
  'nats-server': 'nats-server',
  openssl: 'openssl',
  'firefox-esr': 'firefox-esr',
  WebKitWebDriver: 'webkit2gtk-driver',
};

/** Installs missing programs through apt if the user may; otherwise prints what to install. */
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

/** Prints the reason, and exits with 1. */
export function fail(text) {
  console.error(text);
  process.exit(1);
}
