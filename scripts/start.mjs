/* npm start: sets up what is missing, runs the tour, then serves the example pages. With --once, ends after the tour. */
import { ensurePackages, fail, run } from './setup.mjs';

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
process.exit(run('npm', ['run', '-s', 'aurelian', '--', 'serve', '--port', '4173']));
