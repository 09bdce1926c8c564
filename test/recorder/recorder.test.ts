import {
  Recorder,
  Trail,
  TrailInUseError,
  memoryStore,
  fixFrom,
  readGpx,
  type Fix,
  type TrailStore,
} from 'aurelian-drift';
import { diskStore, gpxFileWriter } from 'aurelian-drift-node';
import { VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { mkdtemp, readFile, readdir, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { route, setUp, takesOn } from '../support/device.js';
import { keepsTrails } from '../support/keeps-trails.js';
import { fixes } from '../support/made.js';

const made = fixes(100);
let folder: string;
const open: TrailStore[] = [];
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'drift-'));
});
afterEach(async () => {
  for (const store of open.splice(0)) await store.close();
  await rm(folder, { recursive: true });
});
/** A store on disk in this test's folder. */
const disk = (options: Parameters<typeof diskStore>[1] = {}) => {
  const store = diskStore(join(folder, 'trails'), options);
  open.push(store);
  return store;
};

describe('a store in memory', () => keepsTrails(() => Promise.resolve(memoryStore())));
describe('a store on disk', () => keepsTrails(() => Promise.resolve(disk())));

for (const [name, store] of [
  ['memory', () => memoryStore()],
  ['disk', () => disk()],
] as const) {
  describe(`a recorder over a store in ${name}`, () => {
    it('keeps the fixes between start and finish, every number unchanged', async () => {
      const where = store();
      const recorder = new Recorder({ store: where, name: 'Tarn Round' });
      for (const fix of made.slice(0, 10)) expect(recorder.take(fix)).to.equal(false);
      expect(recorder.start()).to.equal(true);
      for (const fix of made.slice(10, 60)) expect(recorder.take(fix)).to.equal(true);
      await recorder.finish();
      expect(recorder.take(made[60]!)).to.equal(false);
      expect(recorder.kept).to.equal(50);
      const [entry] = await where.list();
      expect(entry).to.deep.include({
        name: 'Tarn Round',
        fixes: 50,
        finished: true,
        start: made[10]!.time,
        end: made[59]!.time,
      });
      expect([...(await where.read(entry!.id))!]).to.deep.equal(made.slice(10, 60));
    });

    it('makes a segment of each stretch between pauses, and counts nothing in between', async () => {
      const where = store();
      const recorder = new Recorder({ store: where });
      recorder.start();
      const takeAll = (some: readonly Fix[]) => some.forEach((fix) => recorder.take(fix));
      takeAll(made.slice(0, 5));
      expect([recorder.pause(), recorder.pause()]).to.deep.equal([true, false]);
      takeAll(made.slice(5, 20));
      expect([recorder.resume(), recorder.resume()]).to.deep.equal([true, false]);
      takeAll(made.slice(20, 25));
      const trail = await recorder.finish();
      const [entry] = await where.list();
      const kept = (await where.read(entry!.id))!;
      for (const each of [trail, kept])
        expect(each.segments).to.deep.equal([
          { start: 0, end: 5 },
          { start: 5, end: 10 },
        ]);
      expect(recorder.$summary.get()).to.deep.equal(kept.summary());
      expect(entry!.distance).to.be.closeTo(kept.summary().distance, 1e-6);
    });

    it('continues an interrupted trail in a segment of its own', async () => {
      const where = store();
      const broken = await where.begin({ name: 'Broken off' });
      await broken.append(made.slice(0, 30));
      broken.release(); // as at the end of a process
      const [entry] = (await where.list()).filter(({ finished }) => !finished);
      const recorder = await Recorder.reopen(entry!.id, where);
      expect(recorder.state).to.equal('paused');
      expect(recorder.$summary.get().fixes).to.equal(30);
      expect(recorder.resume()).to.equal(true);
      for (const fix of made.slice(50, 60)) recorder.take(fix);
      const trail = await recorder.finish();
      expect(trail.segments).to.deep.equal([
        { start: 0, end: 30 },
        { start: 30, end: 40 },
      ]);
      const kept = (await where.read(entry!.id))!;
      expect([[...kept], kept.segments, kept.name]).to.deep.equal([[...trail], trail.segments, 'Broken off']);
      expect(recorder.$summary.get()).to.deep.equal(kept.summary());
      expect(recorder.kept).to.equal(40);
      expect((await where.list())[0]).to.include({ fixes: 40, finished: true });
    });
  });
}

describe('a recorder', () => {
  it('offers start, pause, resume and finish only when they would act', async () => {
    const recorder = new Recorder();
    expect([recorder.pause(), recorder.resume(), recorder.state]).to.deep.equal([false, false, 'idle']);
    expect([recorder.start(), recorder.start()]).to.deep.equal([true, false]);
    recorder.take(made[0]!);
    expect(recorder.kept).to.equal(1);
    await recorder.finish();
    await recorder.finish();
    expect([recorder.start(), recorder.pause(), recorder.state]).to.deep.equal([false, false, 'finished']);
  });

  it(
    'continues in memory when its store fails, reports it at once, and catches up when it ' + 'can',
    async () => {
      const clock = new VirtualClock();
      const under = memoryStore();
      let full = false;
      const store: TrailStore = {
        ...under,
        async begin(labels) {
          const writer = await under.begin(labels);
          const unless = <Done>(act: () => Promise<Done>) =>
            full ? Promise.reject(new Error('the disk is full')) : act();
          return {
            ...writer,
            append: (some) => unless(() => writer.append(some)),
            breakSegment: () => unless(() => writer.breakSegment()),
            finish: () => unless(() => writer.finish()),
          };
        },
      };
      const recorder = new Recorder({ store, clock });
      recorder.start();
      const take = async (from: number, to: number) => {
        for (const fix of made.slice(from, to)) recorder.take(fix);
        await clock.advance(0);
      };
      await take(0, 20);
      expect([recorder.kept, recorder.$error.get()]).to.deep.equal([20, undefined]);
      full = true;
      await take(20, 40);
      expect([recorder.kept, recorder.$error.get()?.message]).to.deep.equal([20, 'the disk is full']);
      recorder.pause();
      recorder.resume();
      await take(40, 60);
      expect([recorder.kept, recorder.trail.length]).to.deep.equal([20, 60]);
      const [entry] = await store.list();
      expect([...(await store.read(entry!.id))!]).to.deep.equal(made.slice(0, 20));
      full = false;
      await clock.advance(61);
      expect([recorder.kept, recorder.$error.get()]).to.deep.equal([60, undefined]);
      await take(60, 70);
      const trail = await recorder.finish();
      const kept = (await store.read(entry!.id))!;
      expect([[...kept], kept.segments]).to.deep.equal([[...trail], trail.segments]);
      expect((await store.list())[0]!.distance).to.be.closeTo(trail.summary().distance, 1e-6);
    },
  );

  it('gives the trouble at the end, when the store has not recovered, and can be finished again', async () => {
    const clock = new VirtualClock();
    const under = memoryStore();
    let broken = true;
    const store: TrailStore = {
      ...under,
      begin: (labels) => (broken ? Promise.reject(new Error('no store')) : under.begin(labels)),
    };
    const recorder = new Recorder({ store, clock });
    recorder.start();
    for (const fix of made) recorder.take(fix);
    const failed = await recorder.finish().catch((error: unknown) => error);
    expect((failed as Error).message).to.equal('no store');
    expect([recorder.trail.length, recorder.kept]).to.deep.equal([100, 0]);
    broken = false;
    await recorder.finish();
    expect(recorder.kept).to.equal(100);
  });
});

describe('a recorder and its follow', () => {
  const granted = { permission: 'granted', route } as const;

  it('continues with the same follow after a pause: every fix once, nothing of the pause', async () => {
    const { receiver, clock } = setUp(granted);
    const follow = receiver.follow();
    for (const again of [follow, undefined]) {
      const recorder = new Recorder({ clock });
      recorder.start(follow);
      expect(recorder.start(follow)).to.equal(false);
      await clock.advance(3);
      recorder.pause();
      await clock.advance(3);
      expect([recorder.resume(again), recorder.resume(again)]).to.deep.equal([true, false]);
      await clock.advance(3);
      const { trail } = recorder;
      expect(trail.segments.map(({ start, end }) => end - start)).to.deep.equal([3, 3]);
      expect(new Set(Array.from(trail, ({ time }) => time)).size).to.equal(6);
      await recorder.finish();
    }
  });

  it(
    'reports that its follow has ended, with the reason, and accepts another one by start ' + 'or resume',
    async () => {
      const { receiver, device, clock } = setUp({ route, answer: ['refuse', 'grant'] });
      const warnings: string[] = [];
      const store = memoryStore();
      const recorder = new Recorder({ store, clock, warn: (text) => warnings.push(text) });
      const states: string[] = [];
      recorder.$status.subscribe(({ state }) => states.push(state));
      const refused = receiver.follow();
      refused.onEvent(takesOn);
      expect(recorder.start(refused)).to.equal(true);
      await clock.advance(2);
      expect(states).to.deep.equal(['idle', 'recording', 'cut-off']);
      expect(warnings).to.deep.equal([
        'a Recorder records, and its follow is over (failed: refused): nothing comes; give start or ' +
          'resume another follow, or finish it',
      ]);
      expect(recorder.start(refused)).to.equal(false);
      expect(recorder.start(receiver.follow())).to.equal(true);
      await clock.advance(5.5);
      const before = recorder.trail.length;
      expect([recorder.state, before > 3]).to.deep.equal(['recording', true]);
      device.withdraw();
      device.grant();
      await clock.advance(5);
      expect([recorder.state, recorder.trail.length]).to.deep.equal(['cut-off', before]);
      expect(recorder.resume(receiver.follow())).to.equal(true);
      await clock.advance(5.5);
      expect(recorder.trail.segments.map(({ start, end }) => end - start > 2)).to.deep.equal([true, true]);
      expect(recorder.pause()).to.equal(true);
      expect(recorder.start(receiver.follow())).to.equal(false);
      await recorder.finish();
      expect(recorder.resume(receiver.follow())).to.equal(false);
      expect(warnings.at(-1)).to.include('a Recorder that is finished was given a follow');
      expect([...(await store.read((await store.list())[0]!.id))!]).to.deep.equal([...recorder.trail]);
    },
  );

  it('is finished by a listener of its own summary or state with all that it has, and takes no more', async () => {
    for (const by of ['summary', 'state'] as const) {
      const { receiver, clock } = setUp(granted);
      const store = memoryStore();
      const recorder = new Recorder({ store, clock });
      const follow = receiver.follow();
      let finished: Promise<Trail> | undefined;
      const finish = (now: boolean) => {
        if (now) finished ??= recorder.finish();
      };
      if (by === 'summary') recorder.$summary.listen(({ fixes: count }) => finish(count === 3));
      else recorder.$status.listen(({ state }) => finish(state === 'recording'));
      recorder.start(follow);
      await clock.advance(6);
      await finished;
      const count = by === 'summary' ? 3 : 0;
      expect([recorder.trail.length, recorder.kept, recorder.state]).to.deep.equal([
        count,
        count,
        'finished',
      ]);
      const [entry] = await store.list();
      expect([entry!.fixes, entry!.finished]).to.deep.equal([count, true]);
    }
  });

  it('that is stopped just before the recording is finished is no trouble', async () => {
    const { receiver, clock } = setUp(granted);
    const warnings: string[] = [];
    const recorder = new Recorder({ clock, warn: (text) => warnings.push(text) });
    const follow = receiver.follow();
    recorder.start(follow);
    await clock.advance(3);
    follow.stop();
    await recorder.finish();
    await clock.advance(10);
    expect([warnings, recorder.state, recorder.trail.length]).to.deep.equal([[], 'finished', 3]);
  });
});

describe('a note', () => {
  it('is kept as it was at the call, and refused at the call when JSON cannot hold it, with its path', async () => {
    const store = memoryStore();
    const recorder = new Recorder({ store });
    recorder.start();
    const note = { seen: [{ kind: 'heath blue', count: 3 }], open: undefined };
    expect(recorder.keepNote(note)).to.equal(true);
    note.seen.length = 0;
    const cyclic: { self?: unknown } = {};
    cyclic.self = cyclic;
    const refused: readonly [unknown, string][] = [
      [undefined, 'note is undefined'],
      [() => 1, 'note is a function'],
      [12n, 'note is 12'],
      [{ at: { lat: NaN } }, 'note.at.lat is NaN'],
      [[1, undefined], 'note.1 is undefined'],
      [{ when: new Date() }, 'note.when is an instance of a class'],
      [new Map(), 'note is an instance of a class'],
      [cyclic, 'contains itself'],
    ];
    for (const [value, text] of refused) expect(() => recorder.keepNote(value), text).to.throw(text);
    await recorder.finish();
    expect(recorder.keepNote('too late')).to.equal(false);
    const { id } = (await store.list())[0]!;
    expect(await store.notes(id)).to.deep.equal([{ seen: [{ kind: 'heath blue', count: 3 }] }]);
    const writer = await store.begin({});
    let problem: unknown;
    await writer.note(Symbol('x')).catch((error: unknown) => (problem = error));
    expect(String(problem)).to.include('JSON cannot hold it');
  });

  it('holds whatever JSON holds', async () => {
    const store = memoryStore();
    await fc.assert(
      fc.asyncProperty(fc.jsonValue({ maxDepth: 6 }), async (value) => {
        const recorder = new Recorder({ store });
        recorder.start();
        recorder.keepNote(value);
        await recorder.finish();
        const { id } = (await store.list())[0]!;
        expect(await store.notes(id)).to.deep.equal([JSON.parse(JSON.stringify(value))]);
        await store.erase();
      }),
    );
  });
});

describe('a recorder that a bundle reaches late', () => {
  const walk = made.map(({ marks: _, ...fix }) => fixFrom(fix));

  it('has it in its place at once, and in the figures as soon as the bundle is in', async () => {
    const recorder = new Recorder();
    recorder.start();
    for (const fix of [...walk.slice(0, 40), ...walk.slice(70)]) recorder.take(fix);
    for (const fix of walk.slice(40, 70)) recorder.take(fixFrom({ ...fix, marks: ['late', 'backwards'] }));
    await Promise.resolve();
    expect(recorder.$summary.get()).to.deep.equal(Trail.from(walk).summary());
    recorder.pause();
    recorder.resume();
    const trail = await recorder.finish();
    expect(Array.from(trail, ({ time }) => time)).to.deep.equal(walk.map(({ time }) => time));
  });

  it('leaves a fix of a clock that was set back where it came', async () => {
    const recorder = new Recorder();
    recorder.start();
    recorder.take(walk[5]!);
    recorder.take(fixFrom({ ...walk[2]!, marks: ['backwards'] }));
    expect(Array.from(await recorder.finish(), ({ time }) => time)).to.deep.equal([
      walk[5]!.time,
      walk[2]!.time,
    ]);
  });
});

describe('a store on disk, besides', () => {
  it('belongs to one process at a time: the second is refused', async () => {
    const first = disk();
    await first.list();
    const second = disk();
    const error = await second.list().catch((reason: unknown) => reason);
    expect(error).to.be.instanceOf(TrailInUseError);
    await first.close();
    expect(await second.list()).to.deep.equal([]);
  });

  it('keeps everything for the next opening', async () => {
    const first = disk({ durable: true });
    const writer = await first.begin({ name: 'Morning', description: 'Windy' });
    await writer.append(made.slice(0, 40));
    await writer.finish();
    await first.close();
    const [entry] = await disk().list();
    expect(entry).to.include({ name: 'Morning', fixes: 40, finished: true });
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
        expect((error as Error).message).to.match(/walk\.gpx: a file with this name exists already\. Choose/),
    );
    expect(await readdir(folder)).to.deep.equal(['walk.gpx']);
  });
});
