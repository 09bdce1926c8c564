import { Recorder, Trail, memoryStore, readGpx, type Fix, type TrailStore } from 'aurelian-drift';
import { folderStore, gpxFileWriter } from 'aurelian-drift/node';
import { expect } from 'chai';
import { spawn } from 'node:child_process';
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fixes } from '../support/made.js';

const made = fixes(100);
let folder: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'drift-'));
});
afterEach(() => rm(folder, { recursive: true }));

/** What GPX carries of a fix: all of it. */
const stores: [string, () => TrailStore][] = [
  ['memory', () => memoryStore()],
  ['a folder of files', () => folderStore(folder)],
];

for (const [name, open] of stores) {
  describe(`a recorder over ${name}`, () => {
    it('keeps what came between start and finish, every number as it was', async () => {
      const store = open();
      const recorder = new Recorder({ store, name: 'Tarn Round' });
      for (const fix of made.slice(0, 10)) expect(recorder.take(fix)).to.equal(false);
      expect(recorder.start()).to.equal(true);
      for (const fix of made.slice(10, 60)) expect(recorder.take(fix)).to.equal(true);
      await recorder.finish();
      expect(recorder.take(made[60]!)).to.equal(false);
      expect(recorder.kept).to.equal(50);
      const [entry] = await store.list();
      expect(entry).to.deep.include({
        name: 'Tarn Round',
        fixes: 50,
        finished: true,
        start: made[10]!.time,
        end: made[59]!.time,
      });
      expect([...(await store.read(entry!.id))!]).to.deep.equal(made.slice(10, 60));
    });

    it('makes a segment of each stretch between pauses, and counts nothing in between', async () => {
      const store = open();
      const recorder = new Recorder({ store });
      recorder.start();
      const takeAll = (some: readonly Fix[]) => some.forEach((fix) => recorder.take(fix));
      takeAll(made.slice(0, 5));
      expect([recorder.pause(), recorder.pause()]).to.deep.equal([true, false]);
      takeAll(made.slice(5, 20));
      expect([recorder.resume(), recorder.resume()]).to.deep.equal([true, false]);
      takeAll(made.slice(20, 25));
      const trail = await recorder.finish();
      const [entry] = await store.list();
      const kept = (await store.read(entry!.id))!;
      for (const each of [trail, kept]) expect(each.segments).to.deep.equal([{ start: 0, end: 5 }, { start: 5, end: 10 }]); // prettier-ignore
      expect(recorder.$summary.get()).to.deep.equal(kept.summary());
    });

    it('offers start, pause, resume and finish only when they would act', async () => {
      const recorder = new Recorder({ store: open() });
      expect([recorder.pause(), recorder.resume(), recorder.$state.get()]).to.deep.equal([
        false,
        false,
        'idle',
      ]);
      expect([recorder.start(), recorder.start()]).to.deep.equal([true, false]);
      await recorder.finish();
      await recorder.finish();
      expect([recorder.start(), recorder.pause(), recorder.$state.get()]).to.deep.equal([
        false,
        false,
        'finished',
      ]);
    });

    it('lists the newest trail first, tells two of one name apart, and removes without complaint', async () => {
      const store = open();
      for (const part of [made.slice(0, 3), made.slice(50, 53)]) {
        const writer = await store.begin({ name: '../Round <1>' });
        await writer.append(part);
        await writer.finish();
      }
      const entries = await store.list();
      expect(entries.map(({ start }) => start)).to.deep.equal([made[50]!.time, made[0]!.time]);
      await store.remove(entries[0]!.id);
      await store.remove('never there');
      expect((await store.list()).map(({ id }) => id)).to.deep.equal([entries[1]!.id]);
      expect(await store.read('never there')).to.equal(undefined);
    });
  });
}

describe('a recorder whose store fails', () => {
  it('goes on in memory, says so, and gives the trouble at the end', async () => {
    const full: TrailStore = { ...memoryStore(), begin: () => Promise.reject(new Error('the disk is full')) };
    const recorder = new Recorder({ store: full });
    recorder.start();
    for (const fix of made) recorder.take(fix);
    await recorder.finish().then(
      () => expect.fail('it said nothing'),
      (error: unknown) => expect((error as Error).message).to.equal('the disk is full'),
    );
    expect(recorder.$trouble.get()!.message).to.equal('the disk is full');
    expect([recorder.trail.length, recorder.kept]).to.deep.equal([100, 0]);
  });
});

describe('a trail file', () => {
  it('is whole after every fix', async () => {
    const path = join(folder, 'walk.gpx');
    const writer = await gpxFileWriter(path, { name: 'Walk' });
    expect(readGpx(await readFile(path, 'utf8')).trails).to.deep.equal([]);
    const trail = new Trail();
    for (const [i, fix] of made.slice(0, 20).entries()) {
      if (i === 7) {
        await writer.breakSegment();
        trail.breakSegment();
      }
      await writer.append([fix]);
      trail.append(fix);
      const [kept] = readGpx(await readFile(path, 'utf8')).trails;
      expect([[...kept!], kept!.segments]).to.deep.equal([[...trail], trail.segments]);
    }
    await writer.finish();
  });

  it('is never written over', async () => {
    const path = join(folder, 'walk.gpx');
    await (await gpxFileWriter(path)).finish();
    await gpxFileWriter(path).then(
      () => expect.fail('it was'),
      (error: unknown) =>
        expect((error as Error).message).to.match(/walk\.gpx: there is a file of that name already\. Choose/),
    );
    expect(await readdir(folder)).to.deep.equal(['walk.gpx']);
  });

  it('loses no fix that was said to be kept when the program is killed', async () => {
    const path = join(folder, 'killed.gpx');
    const code = `
      import { gpxFileWriter } from 'aurelian-drift/node';
      import { fixOf } from 'aurelian-drift';
      const writer = await gpxFileWriter(${JSON.stringify(path)});
      for (let i = 0; ; i++) {
        await writer.append([fixOf({ time: 1778745600000 + i * 1000, lat: 44.2, lon: -33.6 + i / 1e6 })]);
        process.stdout.write(i + '\\n');
      }`;
    const child = spawn(
      process.execPath,
      ['--conditions=aurelian-source', '--import=tsx', '--input-type=module', '-e', code],
      {
        stdio: ['ignore', 'pipe', 'inherit'],
      },
    );
    let told = '';
    child.stdout.setEncoding('utf8').on('data', (text: string) => {
      told += text;
      if (told.length > 3000) child.kill('SIGKILL');
    });
    await new Promise((resolve) => child.on('close', resolve));
    const lines = told.split('\n').filter((line) => /^\d+$/.test(line));
    const [trail] = readGpx(await readFile(path, 'utf8'), path).trails;
    expect(trail!.length).to.be.at.least(Number(lines.at(-2)) + 1);
  });
});
