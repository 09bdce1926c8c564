/* npm test: sets up what is missing and runs all checks. Ends with one line of counts. */
import { spawn } from 'node:child_process';
import { ensurePackages, ensurePrograms, root } from './setup.mjs';

ensurePackages();
ensurePrograms();

/** Name, and the npm script or program that checks it. The build comes first: the command line is tested as built. */
const CHECKS = [
  ['build and types', ['run', '-s', 'build']],
  ['format', ['run', '-s', 'format:check']],
  ['lint', ['run', '-s', 'lint']],
  ['layers', ['run', '-s', 'layers']],
  ['unused code', ['run', '-s', 'unused']],
  ['package', ['run', '-s', 'package:check']],
];

let passed = 0;
let failed = 0;

function npm(args) {
  return new Promise((resolve) => {
    const child = spawn('npm', args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
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

for (const [name, args] of CHECKS) {
  const started = Date.now();
  const { code, output } = await npm(args);
  if (code === 0) passed++;
  else {
    failed++;
    console.log(output);
  }
  console.log(`${code === 0 ? 'ok' : 'FAILED'}  ${name} (${((Date.now() - started) / 1000).toFixed(1)} s)`);
}

const { code, output } = await npm(['run', '-s', 'mocha']);
const count = (word) => Number(new RegExp(`^\\s*(\\d+) ${word}`, 'm').exec(output)?.[1] ?? 0);
passed += count('passing');
failed += count('failing');
if (code !== 0 && count('failing') === 0) failed++; // it broke off before it could count
console.log(`${passed} passed, ${failed} failed`);
process.exit(failed === 0 ? 0 : 1);
