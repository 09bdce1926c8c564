import {
  CrossingLog,
  FenceWatch,
  Recorder,
  ahead,
  readCrossings,
  memoryStore,
  timeInsideFrom,
  type Crossing,
  type Fence,
  type Fix,
  type TrailStore,
} from 'aurelian-drift';
import { diskStore } from 'aurelian-drift-node';
import { journey } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hut, route, setUp } from '../support/device.js';

const east = (metres: number) => ahead(hut, 90, metres);
const at = (metres: number, id: string, more: object = {}) =>
  ({ kind: 'circle', id, name: `Bank ${id}`, centre: east(metres), radius: 60, ...more }) as Fence;
const fences = [at(200, 'a'), at(400, 'b', { linger: 30 }), at(450, 'c'), at(800, 'd')];
const kinds = (crossings: readonly Crossing[]) => crossings.map(({ kind, fence }) => `${kind} ${fence}`);

/** A walk of one kilometre to the east, past all fences. */
const walk: readonly Fix[] = Array.from(
  journey({ parts: [[hut, east(1000)]] }, { seed: 5, reception: 'open' }),
  ({ fix }) => fix!,
);

function recorded(store: TrailStore, fixes: readonly Fix[] = walk) {
  const recorder = new Recorder({ store, name: 'Walk' });
  const log = new CrossingLog(new FenceWatch(fences), recorder);
  recorder.start();
  for (const fix of fixes) {
    recorder.take(fix);
    log.take(fix);
  }
  return { recorder, log };
}

describe('a log of crossings', () => {
  it('is kept in the store with its trail, filtered, summed up, and gone with the trail', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'log-'));
    const disk = diskStore(folder);
    for (const store of [memoryStore(), disk]) {
      const { recorder, log } = recorded(store);
      const trail = await recorder.finish();
      const id = (await store.list())[0]!.id;
      expect(kinds(log.select())).to.deep.equal([
        'enter a',
        'exit a',
        'enter b',
        'linger b',
        'enter c',
        'exit b',
        'exit c',
        'enter d',
        'exit d',
      ]);
      expect(await readCrossings(store, id)).to.deep.equal(log.$crossings.get());
      expect([...(await store.read(id))!]).to.deep.equal([...trail]);
      expect(kinds(log.select({ fences: ['Bank d', 'a'], kinds: ['exit'] }))).to.deep.equal([
        'exit a',
        'exit d',
      ]);
      const [, , third] = log.select() as [Crossing, Crossing, Crossing];
      expect(kinds(log.select({ from: third.time, to: third.time + 1 }))).to.deep.equal(['enter b']);
      for (const { fence, duration, visits } of log.timeInside) {
        const [exit] = log.select({ fences: [fence], kinds: ['exit'] });
        expect([duration, visits]).to.deep.equal([exit!.duration, 1]);
      }
      await store.remove(id);
      expect([await readCrossings(store, id), await store.notes(id)]).to.deep.equal([[], []]);
    }
    expect(() => new CrossingLog(new FenceWatch(fences)).select({ kind: ['exit'] } as object)).to.throw(
      'has no option "kind", did you mean "kinds"?',
    );
    await disk.close();
    await rm(folder, { recursive: true });
  });

  it(
    'continues after the app was killed at any moment: none twice, none lost, also those ' +
      'reported but not yet kept',
    async () => {
      const whole = recorded(memoryStore()).log.select();
      await fc.assert(
        fc.asyncProperty(
          fc.integer({ min: 1, max: walk.length - 1 }),
          fc.boolean(),
          async (moment, unkept) => {
            const store = memoryStore();
            const { recorder } = recorded(store, walk.slice(0, moment));
            await recorder.finish(); // all of it is kept
            const id = (await store.list())[0]!.id;
            const before = await readCrossings(store, id);
            const damaged = { ...store, notes: async () => (await store.notes(id)).slice(0, -1) };
            const next = new Recorder({ name: 'Next' });
            Object.defineProperty(next, 'trail', { value: (await store.read(id))! });
            const log = await CrossingLog.reopen(id, unkept ? damaged : store, new FenceWatch(fences), next);
            expect(log.select()).to.deep.equal(before);
            for (const fix of walk.slice(moment)) log.take(fix);
            expect(kinds(log.select({ kinds: ['enter', 'exit'] })).toSorted()).to.deep.equal(
              kinds(whole.filter(({ kind }) => kind !== 'linger')).toSorted(),
            );
            for (const { kind, fence, time, notBefore } of log.select()) {
              const same = whole.find((one) => one.kind === kind && one.fence === fence)!;
              // A crossing that the kill interrupted lies between the last state before and the first after.
              if (notBefore !== undefined) expect(same.time).to.be.within(notBefore, time);
              else expect(Math.abs(time - same.time)).to.be.at.most(kind === 'linger' ? 40_000 : 8000);
            }
          },
        ),
        { numRuns: 30 },
      );
    },
  ).timeout(240_000);

  it('keeps that a fence was removed, and takes up fences that are others by then', async () => {
    const store = memoryStore();
    const inB = walk.findIndex(({ lon }) => lon > east(400).lon);
    const { recorder, log } = recorded(store, walk.slice(0, inB));
    expect(kinds(log.removeFence('b'))).to.deep.equal(['closed b']);
    expect(kinds(log.addFence(at(800, 'd', { radius: 90 })))).to.deep.equal([]);
    await recorder.finish();
    const id = (await store.list())[0]!.id;
    expect(kinds(await readCrossings(store, id)).at(-1)).to.equal('closed b');
  });

  it('of a device that delivers in bundles is that of one that delivers at once', async () => {
    const logOf = async (bundle?: number) => {
      const { clock, receiver } = setUp({
        permission: 'granted',
        route,
        reception: 'open',
        seed: 12,
        ...(bundle !== undefined && { bundle }),
      });
      const log = new CrossingLog(new FenceWatch(fences));
      const follow = receiver.follow({ silentAfter: 120, every: 10 });
      const end = log.follow(follow);
      await clock.advance(640);
      end();
      await clock.advance(300);
      return log;
    };
    const [bundled, single] = [await logOf(20), await logOf()];
    // The last bundle is still on its way.
    expect(bundled.select()).to.deep.equal(single.select().slice(0, bundled.select().length));
    expect(kinds(bundled.select({ kinds: ['exit'] }))).to.deep.equal([
      'exit a',
      'exit b',
      'exit c',
      'exit d',
    ]);
  });

  it(
    'gets every sound fix of a follow, whatever its sampling: a crossing between two that pass is ' +
      'told as it was',
    async () => {
      const logOf = async (every: number) => {
        const { clock, receiver } = setUp({ permission: 'granted', route, reception: 'open', seed: 12 });
        const log = new CrossingLog(new FenceWatch(fences));
        const follow = receiver.follow({ every, beyond: every });
        let passed = 0;
        follow.onFix(() => passed++);
        // Another listener wants every fix, so the device gives them.
        receiver.follow({ accuracy: 5 }).onFix(() => {});
        log.follow(follow);
        await clock.advance(600);
        return { crossings: log.select(), passed };
      };
      const [seldom, always] = [await logOf(200), await logOf(0)];
      expect(seldom.passed).to.be.below(5);
      expect(seldom.crossings).to.deep.equal(always.crossings);
      expect(kinds(seldom.crossings)).to.include.members(['enter a', 'exit a', 'enter b', 'exit b']);
    },
  );

  it('keeps nothing while its recorder is paused, and takes the pause for a gap', async () => {
    const store = memoryStore();
    const recorder = new Recorder({ store });
    const log = new CrossingLog(new FenceWatch(fences), recorder);
    recorder.start();
    const beforeB = walk.findIndex(({ lon }) => lon > east(300).lon);
    const insideC = walk.findIndex(({ lon }) => lon > east(470).lon);
    const take = (fix: Fix) => {
      recorder.take(fix);
      return log.take(fix);
    };
    for (const fix of walk.slice(0, beforeB)) take(fix);
    recorder.pause();
    expect(walk.slice(beforeB, insideC).flatMap(take)).to.deep.equal([]);
    expect(kinds(log.select())).to.deep.equal(['enter a', 'exit a']);
    recorder.resume();
    for (const fix of walk.slice(insideC)) take(fix);
    const unseen = log.select({ kinds: ['enter', 'initial'], fences: ['c'] });
    expect(unseen.map(({ notBefore }) => notBefore)).to.deep.equal([walk[beforeB - 1]!.time]);
    await recorder.finish();
    expect(take(walk.at(-1)!)).to.deep.equal([]);
    expect(await readCrossings(store, (await store.list())[0]!.id)).to.deep.equal(log.select());
  });

  it('sums up unobserved time only as far as it was observed', () => {
    const made = (kind: Crossing['kind'], seconds: number, more: Partial<Crossing> = {}): Crossing => ({
      kind,
      fence: 'a',
      name: 'A',
      time: seconds * 1000,
      lat: 0,
      lon: 0,
      certainty: 1,
      ...more,
    });
    const log = [
      made('initial', 10),
      made('exit', 500, { notBefore: 70_000 }),
      made('pass', 600, { duration: 4 }),
      made('enter', 700),
      made('linger', 760),
    ];
    expect(timeInsideFrom(log)).to.deep.equal([{ fence: 'a', name: 'A', duration: 60 + 4 + 60, visits: 3 }]);
    expect(timeInsideFrom(log, 800_000)[0]!.duration).to.equal(164);
  });
});
