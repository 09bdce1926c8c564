/* npm test: sets up what is missing and runs all checks. The last line is the counts. */
import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensurePackages, ensurePrograms, root } from './setup.mjs';

ensurePackages();
ensurePrograms();

/**
 * Name and npm script of each check. The build comes first, because the tests run the built command line. Lint takes
 * longer than the other checks together, so it runs beside them and beside the first tests.
 */
const FIRST = [['build and types', 'build']];
const PAGES = join(root, 'build/tested-pages');
const LINT = [['lint', 'lint']];
const OTHERS = [
  ['format', 'format:check'],
  ['layers', 'layers'],
  ['unused code', 'unused'],
  ['package', 'package:check'],
  ['site', 'site'],
  ['example pages', 'pages:build', '--', '--outDir', PAGES],
];

let passed = 0;
let failed = 0;

function npm(args, env = {}) {
  return new Promise((resolve) => {
    const child = spawn('npm', args, {
      cwd: root,
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...env },
    });
    let output = '';
    const keep = (show) => (data) => {
      output += data;
      if (show) process.stdout.write(data);
    };
    child.stdout.on('data', keep(args.includes('mocha')));
    child.stderr.on('data', keep(args.includes('mocha')));
    child.on('close', (code) => resolve({ code, output }));
  });
}

async function check(lane) {
  for (const [name, script, ...words] of lane) {
    const started = Date.now();
    const { code, output } = await npm(['run', '-s', script, ...words]);
    if (code === 0) passed++;
    else {
      failed++;
      console.log(output);
    }
    console.log(`${code === 0 ? 'ok' : 'FAILED'}  ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`);
  }
}

async function tests() {
  const { code, output } = await npm(['run', '-s', 'mocha'], { AURELIAN_BUILT_PAGES: PAGES });
  const count = (word) => Number(new RegExp(`^\\s*(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0);
  passed += count('passing');
  failed += count('failing');
  if (code !== 0 && count('failing') === 0) failed++; // it ended before it could count
}

await check(FIRST);
await Promise.all([check(LINT), check(OTHERS).then(tests)]);
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
