import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vite';

const page = (name: string) => fileURLToPath(new URL(name, import.meta.url));

/** The pages import the package by its name, and get its source. */
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  base: './',
  resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
  server: { fs: { allow: ['..'] } },
  build: {
    modulePreload: { polyfill: false },
    outDir: fileURLToPath(new URL('../build/pages', import.meta.url)),
    emptyOutDir: true,
    rolldownOptions: {
      input: [
        page('index.html'),
        page('whereabouts/index.html'),
        page('round/index.html'),
        page('hut/index.html'),
        page('notes/index.html'),
      ],
    },
  },
});
