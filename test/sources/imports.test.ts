import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { createContext, runInContext } from 'node:vm';
import { build } from 'vite';

const file = new URL('../../packages/aurelian-drift/package.json', import.meta.url);
const { exports } = JSON.parse(readFileSync(file, 'utf8')) as { exports: Readonly<Record<string, unknown>> };
const entries = Object.keys(exports).filter((entry) => !entry.includes('*') && !entry.endsWith('.json'));

describe('every entry', () => {
  it('imports in Node, which has no page, and prints nothing', () => {
    const names = entries.map((entry) => `aurelian-drift${entry.slice(1)}`);
    const script =
      `for (const name of ${JSON.stringify(names)}) console.log(name, Object.keys(await ` +
      `import(name)).length > 0);`;
    const node = ['--conditions=aurelian-source', '--import=tsx', '--input-type=module', '-e', script];
    const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
    expect(stderr).to.equal('');
    expect(stdout.trim().split('\n')).to.deep.equal(names.map((name) => `${name} true`));
    expect(names.length).to.be.above(8);
  });

  it(
    'has each class once, in the sources and in the build: the Node package throws the ' +
      'classes of the browser package',
    () => {
      const script = `import { InputError } from 'aurelian-drift';
      import { readTrackFile } from 'aurelian-drift-node';
      const error = await readTrackFile('nothing.xyz').catch((caught) => caught);
      const own = await readTrackFile('package.json').catch((caught) => caught);
      console.log(own instanceof InputError, error.code);`;
      for (const conditions of [['--conditions=aurelian-source', '--import=tsx'], []]) {
        const node = [...conditions, '--input-type=module', '-e', script];
        const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
        expect([stdout, stderr]).to.deep.equal(['true ENOENT\n', '']);
      }
    },
  );

  it(
    'of a walk runs in a bare ECMAScript engine: receiver, recorder, fences and files, with no ' +
      'platform around them',
    async function () {
      this.timeout(120_000);
      const folder = await mkdtemp(join(tmpdir(), 'bare-'));
      const packages = fileURLToPath(new URL('../../packages/', import.meta.url));
      await writeFile(
        join(folder, 'walk.js'),
        `import { CrossingLog, FenceWatch, Receiver, Recorder, ahead, memoryStore, readGpx, writeGpx }
          from '${packages}aurelian-drift/src/index.ts';
      import { SimulatedDevice, VirtualClock } from '${packages}aurelian-drift/src/testing.ts';
      globalThis.walk = async () => {
        const clock = new VirtualClock();
        const hut = { lat: 44.2, lon: -33.6 };
        const source = new SimulatedDevice({ route: { parts: [[hut, ahead(hut, 0, 1000)]] }, clock,
           permission: 'granted', warmUp: 0 });
        const receiver = new Receiver({ source, clock, purpose: 'Test.' });
        const store = memoryStore();
        const recorder = new Recorder({ store, name: 'Walk', clock });
        const fence = { kind: 'circle', id: 'f', name: 'Tärn', centre: ahead(hut, 0, 300), radius: 100 };
        const log = new CrossingLog(new FenceWatch([fence]), recorder);
        const follow = receiver.follow();
        follow.onEvent(() => { throw new Error('a listener'); });
        receiver.$fix.subscribe(() => { throw new Error('another'); });
        log.follow(follow);
        recorder.start(follow);
        await clock.advance(600);
        follow.stop();
        const trail = await clock.settle(recorder.finish());
        const [entry] = await store.list();
        const read = await store.read(entry.id);
        const again = readGpx(writeGpx({ trails: [read] })).trails[0];
        return [trail.length, again.length, log.select().map(({ kind, name }) => kind + ' ' + name).join()].join(' | ');
      };`,
      );
      const result = await build({
        configFile: false,
        root: folder,
        logLevel: 'silent',
        resolve: { conditions: ['aurelian-source', 'module', 'default'] },
        build: { write: false, lib: { entry: join(folder, 'walk.js'), formats: ['iife'], name: 'bare' } },
      });
      await rm(folder, { recursive: true });
      const bare = createContext(Object.create(null) as object);
      runInContext('delete globalThis.console', bare); // the only thing that the engine adds
      expect(runInContext('typeof console + typeof setTimeout + typeof crypto + typeof URL', bare)).to.equal(
        'undefined'.repeat(4),
      );
      runInContext((result as { output: { code: string }[] }[])[0]!.output[0]!.code, bare);
      expect(await runInContext('walk()', bare)).to.equal('601 | 601 | enter Tärn,exit Tärn');
    },
  );
});
