import { mkdir, rm, writeFile } from 'node:fs/promises';
import { fileURLToPath } from 'node:url';
import { brotliCompressSync } from 'node:zlib';
import { build } from 'vite';
import type { Row } from './measure.js';

/** A small app. */
interface App {
  readonly name: string;
  readonly goal: number;
  /** App that the goal is counted from. */
  readonly above?: string;
  readonly code: string;
}

/** Bytes that a page loads for small apps. */
const APPS: readonly App[] = [
  {
    name: 'one fix',
    goal: 6,
    code: `import { oneFix } from 'aurelian-drift';
      document.querySelector('button').onclick = async () => (document.title = String((await oneFix()).lat));`,
  },
  {
    name: 'a receiver and a follow',
    goal: 17,
    code: `import { Receiver, browserSource } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      receiver.follow().onFix((fix) => (document.title = String(fix.lat)));`,
  },
  {
    name: 'a follow and its progress on a plan',
    goal: 6,
    above: 'a receiver and a follow',
    code: `import { PlanFollow, Receiver, browserSource, planFrom } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      const followed = new PlanFollow(planFrom({ parts: [JSON.parse(document.body.textContent)] }));
      followed.follow(receiver.follow());
      followed.$progress.subscribe((progress) => (document.title = String(progress?.left)));`,
  },
  {
    name: 'a follow in a native shell, or in a browser',
    goal: 5,
    above: 'a receiver and a follow',
    code: `import { Receiver, bridgeSource, browserSource, onShellPort, textPort } from 'aurelian-drift';
      const begin = (source) =>
        new Receiver({ source, purpose: 'Show where you are.' })
          .follow().onFix((fix) => (document.title = String(fix.lat)));
      if (document.title === 'App') onShellPort((port) => begin(bridgeSource(textPort(port))));
      else begin(browserSource());`,
  },
  {
    name: 'a follow that is recorded',
    goal: 22,
    code: `import { Receiver, Recorder, browserSource } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      const recorder = new Recorder({ name: 'Walk' });
      recorder.start(receiver.follow());
      document.querySelector('button').onclick = async () => {
        document.title = String((await recorder.finish()).summary().distance);
      };`,
  },
  {
    name: 'follow, record, fences',
    goal: 30,
    code: `import { FenceWatch, Receiver, Recorder, browserSource } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      const recorder = new Recorder({ name: 'Walk' });
      const follow = receiver.follow();
      recorder.start(follow);
      const watch = new FenceWatch([
        { kind: 'circle', id: 'hut', name: 'Hut', centre: { lat: 44.2, lon: -33.6 }, radius: 50 },
      ]);
      follow.onFix((fix) => watch.take(fix).forEach(({ name }) => (document.title = name)));
      document.querySelector('button').onclick = async () => {
        document.title = String((await recorder.finish()).summary().distance);
      };`,
  },
  {
    name: 'the same, and reads fences from GeoJSON and writes GPX',
    goal: 35,
    code: `import { FenceWatch, Receiver, Recorder, browserSource, fencesFrom, writeGpx } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      const recorder = new Recorder({ name: 'Walk' });
      const follow = receiver.follow();
      recorder.start(follow);
      const watch = new FenceWatch(fencesFrom(JSON.parse(document.body.textContent)));
      follow.onFix((fix) => watch.take(fix).forEach(({ name }) => (document.title = name)));
      document.querySelector('button').onclick = async () => {
        document.title = writeGpx({ trails: [await recorder.finish()] });
      };`,
  },
  {
    name: 'all that with the map',
    goal: 60,
    code: `import { FenceWatch, Receiver, Recorder, browserSource, fencesFrom, writeGpx } from 'aurelian-drift';
      import { MapSheet, groundFrom } from 'aurelian-drift/map';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Show where you are.' });
      const recorder = new Recorder({ name: 'Walk' });
      const follow = receiver.follow();
      recorder.start(follow);
      const fences = fencesFrom(JSON.parse(document.body.textContent));
      const watch = new FenceWatch(fences);
      const map = new MapSheet({ container: document.body, ground: groundFrom({}), receiver });
      map.showTrails([recorder.trail]);
      follow.onFix((fix) => (watch.take(fix), map.showFences(fences, { inside: watch.inside })));
      document.querySelector('button').onclick = async () => {
        document.title = writeGpx({ trails: [await recorder.finish()] });
      };`,
  },
];

/** Entries of the package, each whole, and the kilobytes that docs/install.md states. */
const ENTRIES: Readonly<Record<string, number>> = {
  'aurelian-drift': 95,
  'aurelian-drift/formats': 45,
  'aurelian-drift/map': 67,
  'aurelian-drift/elements': 108,
  'aurelian-drift/elements/receiver': 44,
  'aurelian-drift/elements/map': 62,
  'aurelian-drift/elements/consent': 9,
  'aurelian-drift/elements/find': 14,
  'aurelian-drift/elements/near': 16,
  'aurelian-drift/elements/inspector': 8,
  'aurelian-drift/react': 74,
  'aurelian-drift/vue': 74,
  'aurelian-drift/page': 44,
  'aurelian-drift/places': 27,
  'aurelian-drift/ways': 44,
  'aurelian-drift/presence': 36,
  'aurelian-drift/stores': 23,
  'aurelian-drift/report': 62,
  'aurelian-drift/texts': 5,
};

/** Compressed size of each entry as a whole, without what is loaded on demand, and without React, Vue and mqtt. */
async function entryRows(): Promise<Row[]> {
  const rows: Row[] = [];
  for (const [name, stated] of Object.entries(ENTRIES)) {
    const { packed, plain } = await weightOf(`import * as all from '${name}'; globalThis.all = all;`);
    rows.push({
      what: `entry weight: ${name}`,
      ours: `${packed.toFixed(1)} kB`,
      baseline: `not compressed ${plain.toFixed(0)} kB`,
      ratio: `${(packed / plain).toFixed(2)} ×`,
      goal: `${stated} kB as stated`,
      met: Math.abs(packed - stated) <= 1,
    });
  }
  return rows;
}

/** Compressed size of what a page loads before the app can work, and the same uncompressed. */
export async function weightRows(): Promise<Row[]> {
  const rows: Row[] = [];
  const weights = new Map<string, number>();
  for (const { name, goal, above, code } of APPS) {
    const { packed, plain } = await weightOf(code);
    weights.set(name, packed);
    const most = goal + (above === undefined ? 0 : (weights.get(above) ?? 0));
    rows.push({
      what: `page weight: ${name}`,
      ours: `${packed.toFixed(1)} kB`,
      baseline: `not compressed ${plain.toFixed(0)} kB`,
      ratio: `${(packed / plain).toFixed(2)} ×`,
      goal: `≤ ${most.toFixed(above === undefined ? 0 : 1)} kB`,
      met: packed <= most,
    });
  }
  return [...rows, ...(await entryRows())];
}

/** Kilobytes of an app and of what it loads at its start, compressed and plain. */
async function weightOf(code: string): Promise<{ readonly packed: number; readonly plain: number }> {
  const root = fileURLToPath(new URL('../build/weight/', import.meta.url));
  await mkdir(root, { recursive: true });
  await writeFile(`${root}app.js`, code);
  const result = await build({
    configFile: false,
    root,
    logLevel: 'silent',
    resolve: { conditions: ['aurelian-source', 'module', 'browser', 'development|production'] },
    build: {
      write: false,
      modulePreload: { polyfill: false },
      rolldownOptions: { input: `${root}app.js`, external: ['react', 'vue', 'mqtt'] },
    },
  });
  await rm(root, { recursive: true });
  const output = 'output' in result ? result.output : [];
  const chunks = output.flatMap((piece) => (piece.type === 'chunk' ? [piece] : []));
  const needed = new Set(chunks.filter((chunk) => chunk.isEntry).map((chunk) => chunk.fileName));
  // The set grows during the loop, because loaded modules load others. Modules that are loaded on demand are left out.
  for (const name of needed) {
    for (const other of chunks.find((chunk) => chunk.fileName === name)?.imports ?? []) needed.add(other);
  }
  const pieces = chunks.filter((chunk) => needed.has(chunk.fileName)).map((chunk) => chunk.code);
  return {
    plain: pieces.reduce((sum, piece) => sum + piece.length, 0) / 1000,
    packed: pieces.reduce((sum, piece) => sum + brotliCompressSync(piece).length, 0) / 1000,
  };
}
