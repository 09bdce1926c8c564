/*
 * Runs after the compiler: makes files for a page without a build of its own, which copies one and names it in a script
 * tag: dist/script/drift.js, with everything but the party, the ways and the report, and dist/script/elements.js, which
 * defines the elements. Files that are newer than all compiled ones stay as they are.
 */
import { readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { build } from 'vite';
import { root } from './setup.mjs';

const dist = join(root, 'packages/aurelian-drift/dist');
const out = join(dist, 'script');
const ENTRIES = {
  drift: `export * from './index.js'; export * from './map/index.js'; export * from './places/index.js';
    export * from './stores/index.js'; export * from './page/index.js'; export * from './texts/index.js';`,
  elements: `export * from './elements/index.js';`,
};

const newest = readdirSync(dist, { recursive: true })
  .filter((file) => file.endsWith('.js') && !file.startsWith('script'))
  .reduce((time, file) => Math.max(time, statSync(join(dist, file)).mtimeMs), 0);
for (const [name, code] of Object.entries(ENTRIES)) {
  const file = `${name}.js`;
  if ((statSync(join(out, file), { throwIfNoEntry: false })?.mtimeMs ?? 0) > newest) continue;
  const entry = join(dist, `entry-${name}.js`);
  writeFileSync(entry, code);
  try {
    await build({
      configFile: false,
      logLevel: 'warn',
      root: dist,
      build: {
        outDir: out,
        emptyOutDir: false,
        target: 'es2023',
        lib: { entry, formats: ['es'], fileName: () => file },
        rolldownOptions: { output: { codeSplitting: false, minify: true } },
      },
    });
  } finally {
    rmSync(entry);
  }
}
