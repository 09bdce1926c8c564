import { expect } from 'chai';
import { execFile } from 'node:child_process';
import { copyFile, cp, mkdir, mkdtemp, readFile, readdir, rm, symlink, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join, normalize } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { satisfies } from 'semver';
import { build, createServer, preview } from 'vite';
import { launchChromium } from '../../scripts/browser.js';
import { eventually } from '../support/eventually.js';

const root = fileURLToPath(new URL('../..', import.meta.url));
const tsc = createRequire(import.meta.url).resolve('typescript/bin/tsc');
const run = promisify(execFile);

interface Manifest {
  readonly name: string;
  readonly exports: Readonly<Record<string, unknown>>;
  readonly scripts?: Readonly<Record<string, string>>;
  readonly engines?: { readonly node?: string };
}
const manifestOf = async (folder: string) =>
  JSON.parse(await readFile(join(folder, 'package.json'), 'utf8')) as Manifest;

/** Entries that need a framework, which the app installs. */
const OF_FRAMEWORKS = ['./react', './vue'];

/** The entries of a package as an app names them, without those of frameworks. */
async function entriesOf(folder: string): Promise<string[]> {
  const { name, exports } = await manifestOf(folder);
  const entries = Object.keys(exports).filter(
    (entry) => !entry.includes('*') && !entry.endsWith('.json') && !OF_FRAMEWORKS.includes(entry),
  );
  return entries.map((entry) => name + entry.slice(1));
}

/** Every installed package below a folder. */
async function installedIn(folder: string): Promise<string[]> {
  const found: string[] = [];
  for (const file of await readdir(join(folder, 'node_modules'), { recursive: true }))
    if (/(?:^|node_modules\/)(?:@[^/]+\/)?[^/]+\/package\.json$/.test(file))
      found.push(join(folder, 'node_modules', dirname(file)));
  return found;
}

describe('the packages, packed and installed in a new folder', function () {
  this.timeout(600_000);
  let work = '';
  let tarballs: Readonly<Record<'browser' | 'node', string>>;
  /** An app with the browser package only, and one with both. */
  let light = '';
  let full = '';
  let reported = '';

  before(async () => {
    work = await mkdtemp(join(tmpdir(), 'drift-packed-'));
    await run('npm', ['pack', '--workspaces', '--silent', '--pack-destination', work], { cwd: root });
    const names = (await readdir(work)).map((name) => join(work, name));
    const named = (pattern: RegExp) => names.find((name) => pattern.test(name)) ?? '';
    tarballs = { browser: named(/aurelian-drift-\d/), node: named(/aurelian-drift-node-\d/) };
    const install = async (name: string, ...what: string[]) => {
      const folder = join(work, name);
      await mkdir(folder);
      await writeFile(join(folder, 'package.json'), '{ "private": true, "type": "module" }');
      const { stderr } = await run(
        'npm',
        ['install', '--no-audit', '--no-fund', '--prefer-offline', ...what],
        {
          cwd: folder,
        },
      );
      if (name === 'light') reported = stderr;
      return folder;
    };
    light = await install('light', tarballs.browser);
    full = await install('full', tarballs.browser, tarballs.node);
  });
  after(() => rm(work, { recursive: true, force: true }));

  it('the browser package brings few packages and megabytes, no install script, and no engine warning', async () => {
    const folders = await installedIn(light);
    expect(folders.length).to.be.within(1, 30);
    // Bytes, whatever the blocks of the file system.
    const { stdout } = await run('du', ['-sb', join(light, 'node_modules')]);
    expect(Number.parseInt(stdout, 10) / 1e6).to.be.within(1, 10);
    for (const folder of folders) {
      const { name, scripts = {}, engines } = await manifestOf(folder);
      expect(scripts, name).to.not.have.any.keys('preinstall', 'install', 'postinstall');
      expect(satisfies('20.19.0', engines?.node ?? '*'), name).to.equal(true);
      expect(await readdir(folder), name).to.not.include('binding.gyp');
    }
    expect(reported).to.not.include('EBADENGINE');
  });

  it('have papers without a picture or a dead link, and no tests, tools or second copies', async () => {
    for (const name of ['aurelian-drift', 'aurelian-drift-node']) {
      const folder = join(full, 'node_modules', name);
      const files = (await readdir(folder, { recursive: true })).map((file) => normalize(file));
      expect(files).to.include.members([
        'README.md',
        'LICENSE',
        'CHANGELOG.md',
        'docs/trails.md',
        'demo/vanesk.geojson',
      ]);
      expect(
        files.filter((file) => /tsbuildinfo|\.test\.|tsconfig|screenshots|names\.json|demo\/make/.test(file)),
      ).to.deep.equal([]);
      for (const paper of files.filter((file) => file.endsWith('.md'))) {
        const text = await readFile(join(folder, paper), 'utf8');
        expect(text, paper).to.not.match(/!\[|<img/);
        for (const [, target = ''] of text.matchAll(/\]\(([^)\s]*)\)/g)) {
          if (/^(?:https?:|#)/.test(target)) continue;
          expect(files, `${paper} → ${target}`).to.include(
            normalize(join(dirname(paper), target.replace(/#.*/, ''))),
          );
        }
      }
      // The source maps refer to files that exist.
      const map = JSON.parse(await readFile(join(folder, 'dist/index.d.ts.map'), 'utf8')) as {
        sources: string[];
      };
      for (const source of map.sources) expect(files).to.include(normalize(join('dist', source)));
    }
  });

  it('belong together at exactly the same version', async () => {
    const [browser, node] = await Promise.all(
      ['aurelian-drift', 'aurelian-drift-node'].map(
        async (name) =>
          JSON.parse(await readFile(join(full, 'node_modules', name, 'package.json'), 'utf8')) as {
            version: string;
            dependencies: Record<string, string>;
          },
      ),
    );
    expect([node?.version, node?.dependencies['aurelian-drift']]).to.deep.equal([
      browser?.version,
      browser?.version,
    ]);
  });

  it('run a script, a script of CommonJS, and the command', async () => {
    await writeFile(
      join(full, 'script.js'),
      `import { distance } from 'aurelian-drift';
      import { readTrackFile } from 'aurelian-drift-node';
      import { writeFileSync } from 'node:fs';
      writeFileSync('walk.csv', 'lat,lon,time\\n44,-33,2026-05-14T08:00:00Z\\n44.001,-33,2026-05-14T08:01:00Z\\n');
      const { trails } = await readTrackFile('walk.csv');
      console.log(trails[0].length, Math.round(distance({ lat: 44, lon: -33 }, { lat: 44.001, lon: -33 })));`,
    );
    expect((await run('node', ['script.js'], { cwd: full })).stdout).to.equal('2 111\n');
    const browserEntries = await entriesOf(join(root, 'packages/aurelian-drift'));
    await writeFile(
      join(full, 'script.cjs'),
      `const entries = ${JSON.stringify([...browserEntries, 'aurelian-drift-node'])};
      for (const entry of entries) console.log(entry, Object.keys(require(entry)).length > 0);
      console.log(require('aurelian-drift').FenceWatch !== undefined);`,
    );
    const required = await run('node', ['script.cjs'], { cwd: full });
    expect(required.stderr).to.equal('');
    expect(required.stdout.trim().split('\n'))
      .to.have.length(21)
      .and.to.satisfy((lines: string[]) => lines.every((line) => line.endsWith('true')));
    const command = join(full, 'node_modules/.bin/aurelian');
    expect((await run(command, ['measure', '44,-33', '44.001,-33'], { cwd: full })).stdout).to.match(
      /^111\.1 m/,
    );
    expect(
      (await run(command, ['near', '44.203,-33.581', '--within', '100m'], { cwd: full })).stdout,
    ).to.include('Tolvay');
  });

  for (const [module, moduleResolution] of [
    ['node16', 'node16'],
    ['nodenext', 'nodenext'],
    ['esnext', 'bundler'],
  ] as const)
    it(`have sound types under ${moduleResolution}, including those of their dependencies`, async () => {
      const check = async (folder: string, texts: Readonly<Record<string, string>>, types: string[]) => {
        for (const [name, text] of Object.entries(texts)) await writeFile(join(folder, name), text);
        const compilerOptions = {
          module,
          moduleResolution,
          target: 'es2022',
          lib: ['es2022', 'dom', 'dom.iterable', 'dom.asynciterable'],
          strict: true,
          exactOptionalPropertyTypes: true,
          // nodenext checks all that node16 would.
          skipLibCheck: moduleResolution === 'node16',
          noEmit: true,
          types,
          typeRoots: [join(root, 'node_modules/@types')],
        };
        const config = join(folder, `tsconfig.${moduleResolution}.json`);
        await writeFile(config, JSON.stringify({ compilerOptions, files: Object.keys(texts) }));
        const { stdout } = await run('node', [tsc, '-p', config], { cwd: folder }).catch(
          (error: unknown) => error as { stdout: string },
        );
        expect(stdout).to.equal('');
      };
      const entries = await entriesOf(join(root, 'packages/aurelian-drift'));
      const all = (names: readonly string[]) =>
        names.map((entry, i) => `import * as part${i} from '${entry}';\nvoid part${i};\n`).join('');
      const used = `import { Receiver, browserSource, type Fix } from 'aurelian-drift';
        const receiver = new Receiver({ source: browserSource(), purpose: 'Test.' });
        export const fix: Promise<Fix> = receiver.fix({ accuracy: 20 });
        // @ts-expect-error -- metres are a number
        void receiver.fix({ accuracy: 'fine' });\n`;
      // The browser package alone needs no types of Node.
      if (moduleResolution === 'bundler') {
        await check(light, { 'app.ts': all(entries) + used }, []);
        return;
      }
      // Only nodenext knows that CommonJS may require a module.
      const common =
        "import drift = require('aurelian-drift');\n" +
        'export const far: number = drift.distance({ lat: 44, lon: -33 }, { lat: 45, lon: -33 });\n';
      const more = moduleResolution === 'nodenext' ? { 'common.cts': common } : {};
      await check(full, { 'app.ts': all([...entries, 'aurelian-drift-node']), ...more }, ['node']);
    });

  it(
    'the browser package is built into a page without mqtt, runs in Chromium, and names ' +
      'the package a party needs',
    async () => {
      const imports = (await entriesOf(join(root, 'packages/aurelian-drift')))
        .map((entry, i) => `import * as part${i} from '${entry}';\nkeep.push(part${i});`)
        .join('\n');
      await writeFile(
        join(light, 'index.html'),
        `<!doctype html><title>An app</title><link rel="icon" href="data:," /><div id="map" ` +
          `style="height: 300px"></div><aurelian-consent></aurelian-consent><script type="module" ` +
          `src="app-page.js"></script>`,
      );
      await writeFile(
        join(light, 'app-page.js'),
        `const keep = (globalThis.keep = []);
      ${imports}
      import { Receiver } from 'aurelian-drift';
      import { MapSheet } from 'aurelian-drift/map';
      import { mqttBroker } from 'aurelian-drift/presence';
      import { previewSource } from 'aurelian-drift/testing';
      const receiver = new Receiver({ source: previewSource({ lat: 44.2, lon: -33.6 }), purpose: 'Test.' });
      new MapSheet({ container: document.getElementById('map'), receiver });
      const { lat } = await receiver.fix();
      const wire = { client: 'x', keepAlive: 10, persistent: false, onMessage() {}, onClosed() {} };
      const failure = await mqttBroker('ws://127.0.0.1:9').open(wire).catch((error) => error);
      const defined = customElements.get('aurelian-consent') !== undefined
        && document.querySelector('aurelian-consent').shadowRoot !== null;
      document.title = [lat, defined, failure.kind, failure.message].join(' | ');`,
      );
      await build({
        configFile: false,
        root: light,
        logLevel: 'silent',
        build: { outDir: 'built', modulePreload: { polyfill: false } },
      });
      const server = await preview({
        configFile: false,
        root: light,
        build: { outDir: 'built' },
        preview: { port: 0, host: '127.0.0.1' },
      });
      const browser = await launchChromium();
      try {
        const page = await browser.newPage();
        const complaints: string[] = [];
        page.on('pageerror', (error) => complaints.push(error.message));
        const { port } = server.httpServer.address() as { port: number };
        await page.goto(`http://127.0.0.1:${port}/`);
        await page.waitForFunction(() => document.title !== 'An app');
        expect(await page.title()).to.equal(
          '44.2 | true | refused | mqttBroker needs the package mqtt: npm install mqtt',
        );
        expect(complaints).to.deep.equal([]);
      } finally {
        await browser.close();
        await server.close();
      }
      await writeFile(
        join(light, 'party.js'),
        `import { mqttBroker } from 'aurelian-drift/presence';
      await mqttBroker('mqtt://127.0.0.1:9').open({}).catch(({ kind, message }) => console.log(kind, message));`,
      );
      const { stdout } = await run('node', ['party.js'], { cwd: light });
      expect(stdout).to.equal('refused mqttBroker needs the package mqtt: npm install mqtt\n');
    },
  );

  it('the first page of the README moves a kite, by the letter, and so does a page without a build', async () => {
    const readme = await readFile(join(root, 'README.md'), 'utf8');
    const first = readme.slice(readme.indexOf('## First page'));
    expect(/```sh\n([^`]*)```/.exec(first)![1]!.trim()).to.equal('npm install aurelian-drift vite');
    const page = /```html\n([^]*?)```/.exec(first)![1]!;
    const folder = join(work, 'first');
    await mkdir(folder);
    // What is installed is the package that was packed, and the development server of this checkout.
    await symlink(join(light, 'node_modules'), join(folder, 'node_modules'));
    await writeFile(join(folder, 'index.html'), page);
    const scripts = join(light, 'node_modules/aurelian-drift/dist/script');
    await copyFile(join(scripts, 'drift.js'), join(folder, 'drift.js'));
    await copyFile(join(scripts, 'elements.js'), join(folder, 'elements.js'));
    await writeFile(
      join(folder, 'copied.html'),
      page.replaceAll(/from 'aurelian-drift[^']*'/g, "from './drift.js'"),
    );
    await writeFile(
      join(folder, 'tags.html'),
      `<!doctype html><title>Tags</title><script type="module" src="elements.js"></script>
      <aurelian-receiver purpose="Shows where you are."><button data-does="follow">Follow me</button>
      <output data-shows="position"></output></aurelian-receiver>`,
    );
    const server = await createServer({
      configFile: false,
      root: folder,
      cacheDir: join(folder, 'cache'),
      logLevel: 'silent',
      server: { port: 0, host: '127.0.0.1', fs: { strict: false } },
    });
    await server.listen();
    const browser = await launchChromium();
    try {
      for (const file of ['index.html', 'copied.html', 'tags.html']) {
        const context = await browser.newContext({
          permissions: ['geolocation'],
          geolocation: { latitude: 44.2, longitude: -33.6, accuracy: 12 },
        });
        const opened = await context.newPage();
        const complaints: string[] = [];
        opened.on('pageerror', (error) => complaints.push(error.message));
        await opened.goto(`${server.resolvedUrls!.local[0]!}${file}`);
        await opened.getByRole('button', { name: 'Follow me' }).click();
        const shows = (text: string) => opened.locator('output', { hasText: text }).waitFor();
        await shows('44.20000° N, 33.60000° W');
        if (file === 'index.html') await shows('±12 m');
        await context.setGeolocation({ latitude: 44.2003, longitude: -33.6, accuracy: 12 });
        await shows('44.20030° N');
        if (file !== 'tags.html') {
          const words = () => opened.evaluate(() => document.querySelector('main')!.shadowRoot!.textContent);
          await eventually(async () => expect(await words()).to.include('own place 44.20030° N'));
        }
        expect(complaints, file).to.deep.equal([]);
        await context.close();
      }
    } finally {
      await browser.close();
      await server.close();
    }
  });

  it('are at home in a fresh app with React 18 or Vue, typed, built, and rendered by a server', async () => {
    const folder = join(work, 'home');
    await mkdir(folder);
    await writeFile(join(folder, 'package.json'), '{ "private": true, "type": "module" }');
    const needs = ['react@18', 'react-dom@18', '@types/react@18', '@types/react-dom@18'];
    await run('npm', ['install', '--no-audit', '--no-fund', '--prefer-offline', ...needs], { cwd: folder });
    // The package as it was packed and installed, and the Vue of this checkout.
    for (const name of ['aurelian-drift', 'flatbush', 'flatqueue', 'idb', 'saxes', 'xmlchars'])
      await cp(join(light, 'node_modules', name), join(folder, 'node_modules', name), { recursive: true });
    await symlink(join(root, 'node_modules/vue'), join(folder, 'node_modules/vue'));
    const files = {
      'react.tsx': `import { positionText } from 'aurelian-drift';
        import 'aurelian-drift/elements/map';
        import { useFollow, useLive, useReceiver } from 'aurelian-drift/react';
        import { previewSource } from 'aurelian-drift/testing';
        import { StrictMode } from 'react';
        export function App() {
          const receiver = useReceiver(() => ({ source: previewSource({ lat: 44.2, lon: -33.6 }), purpose: 'Test.' }));
          useFollow(receiver);
          const fix = useLive(receiver?.$fix);
          return <StrictMode><p id="react">{fix === undefined ? 'nowhere' : positionText(fix)}</p>
            <aurelian-map centre="44.2,-33.6" zoom={14} ground="grid" onmaptap={({ detail }) => void detail.at.lat} /></StrictMode>;
        }
        // @ts-expect-error -- a centre is a text or a position
        export const wrong = <aurelian-map centre={5} />;`,
      'vue.ts': `import { positionText } from 'aurelian-drift';
        import { useFollow, useLive, useReceiver } from 'aurelian-drift/vue';
        import { previewSource } from 'aurelian-drift/testing';
        import { defineComponent, h, type GlobalComponents } from 'vue';
        export const tag: keyof GlobalComponents = 'aurelian-map';
        export const App = defineComponent(() => {
          const receiver = useReceiver(() => ({ source: previewSource({ lat: 44.2, lon: -33.6 }), purpose: 'Test.' }));
          useFollow(receiver);
          const fix = useLive(() => receiver.value?.$fix);
          return () => h('p', { id: 'vue' }, fix.value === undefined ? 'nowhere' : positionText(fix.value));
        });`,
      'client.tsx': `import { hydrateRoot } from 'react-dom/client';
        import { createSSRApp } from 'vue';
        import { App } from './react.js';
        import { App as InVue } from './vue.js';
        hydrateRoot(document.getElementById('a')!, <App />);
        createSSRApp(InVue).mount('#b');`,
      'server.tsx': `import { renderToString } from 'react-dom/server';
        import { createSSRApp } from 'vue';
        import { renderToString as render } from 'vue/server-renderer';
        import { App } from './react.js';
        import { App as InVue } from './vue.js';
        export const rendered = async () => [renderToString(<App />), await render(createSSRApp(InVue))];`,
    };
    for (const [name, text] of Object.entries(files)) await writeFile(join(folder, name), text);
    const compilerOptions = {
      module: 'esnext',
      moduleResolution: 'bundler',
      target: 'es2022',
      lib: ['es2022', 'dom', 'dom.iterable', 'dom.asynciterable'],
      jsx: 'react-jsx',
      strict: true,
      skipLibCheck: true, // that of the frameworks takes long; a type of ours that is none fails where it is used
      exactOptionalPropertyTypes: true,
      noEmit: true,
      types: ['node'],
      typeRoots: [join(root, 'node_modules/@types')],
    };
    await writeFile(
      join(folder, 'tsconfig.json'),
      JSON.stringify({ compilerOptions, files: Object.keys(files) }),
    );
    const checked = await run('node', [tsc, '-p', folder], { cwd: folder }).catch(
      (error: unknown) => error as { stdout: string },
    );
    expect(checked.stdout).to.equal('');
    const common = { configFile: false, root: folder, logLevel: 'silent' } as const;
    await build({ ...common, build: { ssr: join(folder, 'server.tsx'), outDir: 'server' } });
    const { stdout } = await run(
      'node',
      [
        '-e',
        "import('./server/server.js').then(async (s) => console.log(JSON.stringify(await s.rendered())))",
      ],
      { cwd: folder },
    );
    const [inReact, inVue] = JSON.parse(stdout) as [string, string];
    expect([inReact, inVue].map((html) => /nowhere/.test(html))).to.deep.equal([true, true]);
    await writeFile(
      join(folder, 'index.html'),
      `<!doctype html><title>Home</title><link rel="icon" href="data:," /><style>aurelian-map { display: block; height: 9rem }</style>
      <div id="a">${inReact}</div><div id="b">${inVue}</div><script type="module" src="client.tsx"></script>`,
    );
    await build({ ...common, build: { outDir: 'built', modulePreload: { polyfill: false } } });
    const server = await preview({
      ...common,
      build: { outDir: 'built' },
      preview: { port: 0, host: '127.0.0.1' },
    });
    const browser = await launchChromium();
    try {
      const opened = await browser.newPage();
      const said: string[] = [];
      opened.on('pageerror', (error) => said.push(error.message));
      opened.on('console', (message) => message.type() === 'error' && said.push(message.text()));
      const { port } = server.httpServer.address() as { port: number };
      await opened.goto(`http://127.0.0.1:${port}/`);
      for (const name of ['react', 'vue'])
        await opened.locator(`#${name}`, { hasText: '44.20000° N, 33.60000° W' }).waitFor();
      await opened.locator('aurelian-map canvas').waitFor();
      expect(said).to.deep.equal([]);
    } finally {
      await browser.close();
      await server.close();
    }
  });
});
