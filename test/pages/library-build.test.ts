import { expect } from 'chai';
import { mkdir, readdir, rm, writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { build, preview } from 'vite';
import { launchChromium } from '../../scripts/browser.js';

const folder = fileURLToPath(new URL(`../../build/library-${process.pid}/`, import.meta.url));
const ENTRIES = [
  '',
  '/formats',
  '/map',
  '/elements',
  '/places',
  '/presence',
  '/stores',
  '/report',
  '/testing',
  '/texts',
];

describe('a library of somebody else’s, built with ours in it', function () {
  this.timeout(240_000);
  after(() => rm(folder, { recursive: true, force: true }));

  it('runs in a browser, which knows no process: nothing of a build is left in it', async () => {
    await mkdir(`${folder}public`, { recursive: true });
    const imports = ENTRIES.map((entry, i) => `export * as part${i} from 'aurelian-drift${entry}';`).join(
      '\n',
    );
    await writeFile(`${folder}library.js`, imports);
    // A library build leaves environment checks to the app that uses it.
    await build({
      configFile: false,
      root: folder,
      logLevel: 'silent',
      resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
      build: { outDir: 'public', lib: { entry: 'library.js', formats: ['es'], fileName: 'library' } },
    });
    const files = await readdir(`${folder}public`);
    for (const language of ['german', 'french', 'spanish'])
      expect(
        files.some((file) => file.startsWith(`${language}-`)),
        `${language} is loaded apart`,
      ).to.equal(true);
    const page = `<!doctype html><title>Somebody else’s</title><link rel="icon" href="data:," />
      <div id="map" style="height: 300px"></div><script type="module">
      const { part0: drift, part2: map, part8: testing } = await import('./library.js');
      const receiver = new drift.Receiver({
        source: testing.previewSource({ lat: 44.2, lon: -33.6 }), purpose: 'Test.' });
      new map.MapSheet({ container: document.getElementById('map'), receiver });
      document.title = String((await receiver.fix()).lat);
    </script>`;
    await writeFile(`${folder}public/index.html`, page);
    const server = await preview({
      configFile: false,
      root: folder,
      build: { outDir: 'public' },
      preview: { port: 0, host: '127.0.0.1' },
    });
    const browser = await launchChromium();
    try {
      const opened = await browser.newPage();
      const complaints: string[] = [];
      opened.on('pageerror', (error) => complaints.push(error.message));
      const { port } = server.httpServer.address() as { port: number };
      await opened.goto(`http://127.0.0.1:${port}/`);
      await opened
        .waitForFunction(() => document.title === '44.2' || document.title === 'failed')
        .catch(() => undefined);
      expect([await opened.title(), complaints]).to.deep.equal(['44.2', []]);
    } finally {
      await browser.close();
      await server.close();
    }
  });

  it('takes of an entry what it uses, and of the elements only those that it names', async () => {
    const built = async (code: string) => {
      await mkdir(folder, { recursive: true });
      await writeFile(`${folder}part.js`, code);
      const result = await build({
        configFile: false,
        root: folder,
        logLevel: 'silent',
        resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
        build: {
          write: false,
          modulePreload: { polyfill: false },
          rolldownOptions: { input: `${folder}part.js`, external: ['react', 'vue'] },
        },
      });
      return 'output' in result ? result.output[0].code : '';
    };
    const kilobytes = async (code: string) => (await built(code)).length / 1000;
    // Far below anything with a receiver (60 kB) or a map (200 kB) in it.
    expect(
      await kilobytes(`import { useLive } from 'aurelian-drift/react'; console.log(useLive);`),
    ).to.be.below(3);
    expect(
      await kilobytes(`import { useLive } from 'aurelian-drift/vue'; console.log(useLive);`),
    ).to.be.below(3);
    expect(
      await kilobytes(`import { keepScreenOn } from 'aurelian-drift/page'; keepScreenOn();`),
    ).to.be.below(3);
    const consent = await built(`import 'aurelian-drift/elements/consent';`);
    expect(consent).to.include('aurelian-consent').and.not.include('aurelian-map');
    expect(consent.length / 1000).to.be.below(40);
    expect(await built(`import 'aurelian-drift/elements/receiver';`)).to.not.include('aurelian-find"');
  });
});
