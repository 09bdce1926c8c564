import { fileURLToPath } from 'node:url';
import react from '@vitejs/plugin-react';
import vue from '@vitejs/plugin-vue';
import { defineConfig } from 'vite';
import { VitePWA } from 'vite-plugin-pwa';

const page = (name: string) => fileURLToPath(new URL(name, import.meta.url));

/** The pages import the package by its name, and get its source. */
export default defineConfig({
  root: fileURLToPath(new URL('.', import.meta.url)),
  base: './',
  plugins: [
    react({ include: /\/react\/.*\.tsx$/ }),
    // Everything that round needs is stored when it is opened first; it registers the worker itself, for its own path.
    VitePWA({
      injectRegister: false,
      manifest: false,
      workbox: {
        globPatterns: ['**/*.{js,css,html,geojson,woff2,svg,webmanifest}', 'round/*.png'],
        clientsClaim: true,
        // Settings in an address do not make another page.
        ignoreURLParametersMatching: [/.*/],
        navigateFallback: null,
        sourcemap: false,
      },
    }),
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
        page('replay/index.html'),
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
