import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';

const page = (name: string) => fileURLToPath(new URL(name, import.meta.url));

/** The pages import the package by its name, and get its source. */
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  base: './',
  plugins: [
    react({ include: /\/react\/.*\.tsx$/ }),
    vue({ template: { compilerOptions: { isCustomElement: (tag) => tag.startsWith('aurelian-') } } }),
  ],
  // Files that the elements name in their attributes.
  html: {
    additionalAssetSources: {
      'aurelian-receiver': { srcAttributes: ['places', 'fences'] },
      'aurelian-map': { srcAttributes: ['ground'] },
    },
  },
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
        page('react/index.html'),
        page('vue/index.html'),
        page('plain/index.html'),
        page('no-script/index.html'),
      ],
    },
  },
});
