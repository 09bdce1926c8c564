/*
 * Runs after the compiler: bundles the command line with the library into a few files, so that it starts in half the
 * time. Other packages stay imports. A bundle that is newer than all compiled files stays as it is: tests that run the
 * command may be under way.
 */
import { readdirSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'vite';
import { root } from './setup.mjs';

const dist = join(root, 'packages/aurelian-drift-node/dist');
const outDir = join(dist, 'bin');

const compiled = ['aurelian-drift', 'aurelian-drift-node']
  .map((name) => join(root, 'packages', name, 'dist'))
  .flatMap((folder) =>
    readdirSync(folder, { recursive: true })
      .filter((file) => file.endsWith('.js') && !file.startsWith('bin'))
      .map((file) => join(folder, file)),
  );
const newest = compiled.reduce((time, file) => Math.max(time, statSync(file).mtimeMs), 0);
if ((statSync(join(outDir, 'aurelian.js'), { throwIfNoEntry: false })?.mtimeMs ?? 0) > newest) process.exit();

rmSync(outDir, { recursive: true, force: true });
await build({
  configFile: false,
  logLevel: 'warn',
  root: dist,
  build: {
    ssr: join(dist, 'cli/main.js'),
    outDir,
    minify: false,
    target: 'node20',
    rollupOptions: { output: { entryFileNames: 'aurelian.js', chunkFileNames: '[name].js' } },
  },
  ssr: { noExternal: [/^aurelian-drift(?:$|\/)/, /^aurelian-drift-node$/] },
});
