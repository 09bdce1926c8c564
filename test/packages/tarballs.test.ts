import { expect } from 'chai';
import { execFile } from 'node:child_process';
import { mkdir, mkdtemp, readFile, readdir, rm, writeFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join, normalize } from 'node:path';
import { fileURLToPath } from 'node:url';
import { promisify } from 'node:util';
import { satisfies } from 'semver';
import { build, preview } from 'vite';
import { launchChromium } from '../../scripts/browser.js';

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

/** The entries of a package as an app names them. */
async function entriesOf(folder: string): Promise<string[]> {
  const { name, exports } = await manifestOf(folder);
  const entries = Object.keys(exports).filter((entry) => !entry.includes('*') && !entry.endsWith('.json'));
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
      .to.have.length(14)
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
});
