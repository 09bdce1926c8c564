import { Trail, TrailInUseError, fixFrom, type TrailStore } from 'aurelian-drift';
import { expect } from 'chai';
import fc from 'fast-check';
import { fixes, recordedTrail } from './made.js';

const made = fixes(100);
const failure = (promise: Promise<unknown>): Promise<unknown> =>
  promise.then(
    () => undefined,
    (error: unknown) => error,
  );

/** The contract of every store of trails. `open` returns an empty one. */
export function keepsTrails(open: () => Promise<TrailStore>): void {
  it('reads back every trail written to it, to the last digit', async () => {
    const store = await open();
    await fc.assert(
      fc.asyncProperty(recordedTrail, async (trail) => {
        const writer = await store.begin(trail.name === undefined ? {} : { name: trail.name });
        for (const segment of trail.segments) {
          await writer.append([...trail.fixesOf(segment)]);
          await writer.breakSegment();
        }
        await writer.finish();
        const kept = (await store.read(writer.id))!;
        expect([[...kept], kept.segments, kept.name]).to.deep.equal([[...trail], trail.segments, trail.name]);
      }),
      { numRuns: 25 },
    );
  });

  it(
    'lists the newest trail first with its figures, separates two of one name, renames, ' +
      'and removes without complaint',
    async () => {
      const store = await open();
      for (const part of [made.slice(0, 30), made.slice(50, 80)]) {
        const writer = await store.begin({ name: '../Round <1>' });
        await writer.append(part);
        await writer.finish();
      }
      const entries = await store.list();
      expect(entries.map(({ start }) => start)).to.deep.equal([made[50]!.time, made[0]!.time]);
      const { distance } = Trail.from(made.slice(50, 80)).summary();
      expect(entries[0]!.distance).to.be.closeTo(distance, 1e-6);
      await store.rename(entries[0]!.id, 'Evening');
      expect((await store.list())[0]).to.include({ name: 'Evening', fixes: 30 });
      expect((await store.read(entries[0]!.id))!.name).to.equal('Evening');
      await store.remove(entries[0]!.id);
      await store.remove('never there');
      expect((await store.list()).map(({ id }) => id)).to.deep.equal([entries[1]!.id]);
      expect(await store.read('never there')).to.equal(undefined);
      expect(((await failure(store.rename('never there', 'x'))) as Error).message).to.include(
        'there is no trail',
      );
      await store.erase();
      expect(await store.list()).to.deep.equal([]);
    },
  );

  it(
    'lets one process write a trail: the second is refused, and may write after the first ' +
      'has released it',
    async () => {
      const store = await open();
      const writer = await store.begin({});
      await writer.append(made.slice(0, 3));
      for (const attempt of [store.resume(writer.id), store.remove(writer.id), store.rename(writer.id, 'x')])
        expect(await failure(attempt)).to.be.instanceOf(TrailInUseError);
      writer.release();
      const { writer: next, trail } = await store.resume(writer.id);
      expect([...trail]).to.deep.equal(made.slice(0, 3));
      await next.append(made.slice(3, 5));
      await next.finish();
      expect((await store.read(writer.id))!.segments).to.deep.equal([
        { start: 0, end: 3 },
        { start: 3, end: 5 },
      ]);
      expect(((await failure(store.resume(writer.id))) as Error).message).to.include('is finished');
      expect(((await failure(store.resume('never there'))) as Error).message).to.include('there is no trail');
    },
  );

  it('puts a bundle that came late in by its own times, and lists the distance of the walk as it was', async () => {
    const store = await open();
    const walk = made.slice(0, 30).map(({ marks: _, ...fix }) => fixFrom(fix));
    const late = walk.slice(10, 20).map((fix) => fixFrom({ ...fix, marks: ['backwards', 'late'] }));
    const writer = await store.begin({});
    await writer.append([...walk.slice(0, 10), ...walk.slice(20)]);
    await writer.append(late);
    await writer.finish();
    const kept = (await store.read(writer.id))!;
    expect(Array.from(kept, ({ time }) => time)).to.deep.equal(walk.map(({ time }) => time));
    expect(kept.at(12)!.marks).to.deep.equal(['late']);
    const { distance } = Trail.from(walk).summary();
    expect((await store.list())[0]).to.include({ fixes: 30, distance });
  });

  it('reads a trail while it is being written', async () => {
    const store = await open();
    const writer = await store.begin({ name: 'Going on' });
    for (let i = 0; i < 5; i++) {
      await writer.append([made[i]!]);
      expect((await store.read(writer.id))!.length).to.equal(i + 1);
      expect((await store.list())[0]).to.include({ fixes: i + 1, finished: false });
    }
    writer.release();
  });
}
