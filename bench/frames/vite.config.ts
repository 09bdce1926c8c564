import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

/** Serves the pages of this folder, with the package straight from its source. */
export default defineConfig({
  root: fileURLToPath(new URL('../..', import.meta.url)),
  resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
  server: { open: false },
});
