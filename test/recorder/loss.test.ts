import { InputError, Recorder, fixFrom } from 'aurelian-drift';
import { diskStore } from 'aurelian-drift-node';
import { VirtualClock, randomFrom } from 'aurelian-drift/testing';
import { ClassicLevel } from 'classic-level';
import { expect } from 'chai';
import { spawn, spawnSync } from 'node:child_process';
import { mkdtemp, readdir, rm, stat, truncate, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { sealed } from '../support/kept-text.js';
import { fixes } from '../support/made.js';

const START = Date.UTC(2026, 4, 14, 8);
const fixAt = (i: number) =>
  fixFrom({ time: START + i * 1000, lat: 44.2, lon: -33.6 + i / 1e6, accuracy: 5 });

let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'drift-'));
});
afterEach(() => rm(folder, { recursive: true, force: true }));

/**
 * Records endlessly, continues an interrupted trail, and prints each stored fix. It runs the built code, which starts
 * faster.
 */
const RECORDING = `
  import { Recorder, fixFrom } from 'aurelian-drift';
  import { diskStore } from 'aurelian-drift-node';
  const store = diskStore(process.argv[1]);
  const [broken] = await store.list();
  const recorder = broken === undefined
    ? new Recorder({ store, name: 'Round' })
    : await Recorder.reopen(broken.id, store);
  if (!recorder.resume()) recorder.start();
  process.stdout.write('from ' + recorder.trail.length + '\\n');
  for (let told = -1; ; ) {
    const i = recorder.trail.length;
    recorder.take(fixFrom({ time: ${START} + i * 1000, lat: 44.2, lon: -33.6 + i / 1e6, accuracy: 5 }));
    if (i % 40 === 0) recorder.pause(), recorder.resume();
    await new Promise((resolve) => setImmediate(resolve));
    if (recorder.kept > told) process.stdout.write((told = recorder.kept) + '\\n');
  }`;

/** Runs it until it has printed so many lines, and kills it so many milliseconds later. */
async function killed(
  where: string,
  lines: number,
  milliseconds: number,
): Promise<{ from: number; kept: number }> {
  const child = spawn(process.execPath, ['--input-type=module', '-e', RECORDING, where], {
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let reported = '';
  let due = false;
  child.stdout.setEncoding('utf8').on('data', (text: string) => {
    reported += text;
    if (due || reported.split('\n').length <= lines) return;
    due = true;
    setTimeout(() => child.kill('SIGKILL'), milliseconds);
  });
  await new Promise((resolve) => child.on('close', resolve));
  const all = reported.slice(0, reported.lastIndexOf('\n')).split('\n');
  const from = Number(/^from (\d+)$/.exec(all[0] ?? '')?.[1] ?? NaN);
  return { from, kept: all.length > 1 ? Number(all.at(-1)) : from };
}

describe('a recording that is killed with kill -9', () => {
  it('loses no confirmed fix, at two dozen random moments, and each time the trail is continued', async () => {
    // Three trails side by side; each is killed in turn.
    await Promise.all([8, 8, 8].map((times, lane) => killedAgain(join(folder, String(lane)), times, lane)));
  }).timeout(240_000);

  const killedAgain = async (where: string, times: number, seed: number) => {
    const random = randomFrom(seed + 1);
    let kept = 0;
    for (let i = 0; i < times; i++) {
      const run = await killed(where, 1 + Math.floor(random.uniform() * 12), random.uniform() * 30);
      expect(run.from, `kill ${i}`).to.be.at.least(kept);
      kept = run.kept;
    }
    const store = diskStore(where);
    const entries = await store.list();
    expect(entries).to.have.length(1);
    const trail = (await store.read(entries[0]!.id))!;
    await store.close();
    expect(trail.length).to.be.at.least(kept).and.above(25);
    expect(trail.segments.length).to.be.above(3);
    trail.segments.forEach(({ start, end }) => expect(end).to.be.above(start));
    for (let i = 0; i < trail.length; i++) expect(trail.at(i)).to.deep.equal(fixAt(i));
  };
});

describe('a disk that is full', () => {
  it(
    'is reported at once; recording continues in memory, kept fixes stay readable, and it ' +
      'catches up when there is room',
    async function () {
      // A small file system of its own, if the user may mount one.
      if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=3m', 'tmpfs', folder]).status !== 0) this.skip();
      try {
        const filler = join(folder, 'filler');
        await writeFile(filler, new Uint8Array(2_000_000));
        const clock = new VirtualClock();
        const store = diskStore(join(folder, 'trails'), { warn: () => {} });
        const recorder = new Recorder({ store, clock });
        const error = (wanted: boolean) =>
          new Promise<Error | undefined>((resolve) => {
            const unlisten = recorder.$error.subscribe((error) => {
              if ((error !== undefined) === wanted) {
                setImmediate(() => {
                  unlisten();
                  resolve(error);
                });
              }
            });
          });
        recorder.start();
        let count = 0;
        const said = error(true);
        let full: Error | undefined;
        void said.then((error) => (full = error));
        while (full === undefined) {
          for (let i = 0; i < 500; i++) recorder.take(fixAt(count++));
          await new Promise((resolve) => setImmediate(resolve));
        }
        expect(full.message).to.match(/space|IO error/i);
        const kept = recorder.kept;
        expect(kept).to.be.within(1000, count - 1);
        for (let i = 0; i < 100; i++) expect(recorder.take(fixAt(count++))).to.equal(true);
        expect(recorder.trail.length).to.equal(count);
        const [entry] = await store.list();
        expect((await store.read(entry!.id))!.length).to.be.at.least(kept);
        await rm(filler);
        const better = error(false);
        await clock.advance(61);
        await better;
        await recorder.finish();
        const trail = (await store.read(entry!.id))!;
        expect([trail.length, recorder.kept]).to.deep.equal([count, count]);
        for (let i = 0; i < count; i += 97) expect(trail.at(i)).to.deep.equal(fixAt(i));
        await store.close();
      } finally {
        spawnSync('umount', [folder]);
      }
    },
  ).timeout(240_000);
});

describe('kept data that was damaged, or is of an older version', () => {
  const made = fixes(30);
  /** A trail of ten records of three fixes, and the database opened directly. */
  const prepared = async () => {
    const store = diskStore(folder);
    const writer = await store.begin({ name: 'Round' });
    for (let i = 0; i < 30; i += 3) await writer.append(made.slice(i, i + 3));
    await writer.finish();
    await store.close();
    const level = new ClassicLevel<string, Uint8Array>(folder, {
      keyEncoding: 'utf8',
      valueEncoding: 'view',
    });
    await level.open();
    return { id: writer.id, level };
  };
  const reopened = () => {
    const warnings: string[] = [];
    return { warnings, store: diskStore(folder, { warn: (text) => warnings.push(text) }) };
  };

  it('is set aside with one notice: the rest is there, with a break in its place', async () => {
    const { id, level } = await prepared();
    const bytes = (await level.get(`record/${id}/0000000004`))!.slice();
    bytes[20]! ^= 0x40;
    await level.put(`record/${id}/0000000004`, bytes);
    await level.put(`record/${id}/0000000007`, new Uint8Array([1, 2, 3]));
    await level.close();
    const { store, warnings } = reopened();
    for (let time = 0; time < 2; time++) {
      const trail = (await store.read(id))!;
      expect([...trail]).to.deep.equal([...made.slice(0, 12), ...made.slice(15, 21), ...made.slice(24)]);
      expect(trail.segments.map(({ start }) => start)).to.deep.equal([0, 12, 18]);
    }
    expect(warnings).to.deep.equal([
      '2 records of the trail "Round" are damaged and were set aside; the rest is there',
    ]);
    await store.erase();
    await store.close();
    const bare = new ClassicLevel(folder);
    expect(await bare.keys().all()).to.deep.equal([]); // no position remains, nor a quarantined record
    await bare.close();
  });

  it('has its head made anew from its fixes', async () => {
    const { id, level } = await prepared();
    await level.put(`head/${id}`, new TextEncoder().encode('{"version":2,"id"'));
    await level.put('head/nothing', new TextEncoder().encode('{}'));
    await level.close();
    const { store, warnings } = reopened();
    const [entry, ...more] = await store.list();
    expect(more).to.deep.equal([]);
    expect(entry).to.include({ id, fixes: 30, finished: true });
    expect(warnings.toSorted()).to.deep.equal([
      'the trail "nothing" is damaged, and no part of it can be read',
      `what was kept about the trail "${id}" is damaged; its 30 fixes are there`,
    ]);
    await store.close();
  });

  it('of one trail, whatever is in its head, hides no other trail from the list', async () => {
    const { id, level } = await prepared();
    const fix = { time: START, lat: 44.2, lon: -33.6 };
    const odd: unknown[] = [
      {
        version: 1,
        segments: [
          [
            { ...fix, marks: 'late' },
            { ...fix, origin: 7 },
            { ...fix, altitude: 3, altitudeDatum: {} },
            null,
            3,
          ],
        ],
      },
      { version: 1, segments: { length: 2 } },
      { version: 3, id: 'odd', records: -1, fixes: 'many', distance: null, finished: 'no' },
      [],
      'text',
      7,
      null,
      { version: { toString: 1 } },
    ];
    for (const [i, head] of odd.entries())
      await level.put(`head/odd${i}`, new TextEncoder().encode(JSON.stringify(head)));
    await level.close();
    const { store } = reopened();
    expect((await store.list()).map((entry) => entry.id)).to.include(id);
    for (let i = 0; i < odd.length; i++)
      expect((await store.read(`odd${i}`).catch(() => undefined))?.length ?? 0).to.equal(0);
    await store.close();
  });

  it(
    'of version 0.1, or of a later version than this, is refused with a clear message and stays as ' +
      'it is',
    async () => {
      const { id, level } = await prepared();
      const text = (value: string) => new TextEncoder().encode(value);
      const heads = { old: '{"version":3,"id":"old"}', newer: sealed('trail-head', 2, {}) };
      for (const [name, head] of Object.entries(heads)) {
        await level.put(`head/${name}`, text(head));
        await level.put(`record/${name}/0000000000`, Uint8Array.of(1, 2, 3, 4, 5));
      }
      await level.close();
      const { store, warnings } = reopened();
      expect((await store.list()).map((entry) => entry.id)).to.deep.equal([id]);
      expect(warnings.toSorted()).to.deep.equal([
        'the trail "newer" is left out of the list: the trail "newer" cannot be read here: this is the ' +
          'head of a trail in layout 2; this version reads up to 1. Update the library',
        'the trail "old" is left out of the list: the trail "old" cannot be read here: this is the head ' +
          'of a trail as version 0.1 kept it, which is not read any more',
      ]);
      for (const name of Object.keys(heads)) {
        const failure = await store.read(name).catch((error: unknown) => error);
        expect(failure)
          .to.be.instanceOf(InputError)
          .with.property('message')
          .that.includes('cannot be read here');
      }
      await store.close();
      const bare = new ClassicLevel<string, Uint8Array>(folder, { valueEncoding: 'view' });
      for (const [name, head] of Object.entries(heads)) {
        expect(new TextDecoder().decode(await bare.get(`head/${name}`))).to.equal(head);
        expect(await bare.get(`record/${name}/0000000000`)).to.have.length(5);
      }
      await bare.close();
    },
  );

  it('does not crash a database whose files were cut off', async () => {
    const { level, id } = await prepared();
    await level.close();
    const logs = (await readdir(folder)).filter((name) => name.endsWith('.log'));
    for (const name of logs)
      await truncate(join(folder, name), Math.floor((await stat(join(folder, name))).size / 2));
    const { store } = reopened();
    const trail = await store.read(id);
    // Everything before the cut is unchanged.
    expect([...(trail ?? [])]).to.deep.equal(made.slice(0, trail?.length ?? 0));
    await store.close();
  });
});
