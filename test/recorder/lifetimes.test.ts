import {
  ClosedError,
  CrossingLog,
  FenceWatch,
  Receiver,
  Recorder,
  ahead,
  memoryStore,
  type Fix,
  type Follow,
  type TrailStore,
} from 'aurelian-drift';
import { Gazetteer, PlaceWatch, gazetteerPlaces } from 'aurelian-drift/places';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { countingClock } from '../support/counting-clock.js';
import { hut, route } from '../support/device.js';
import { choices, disposed } from '../support/endings.js';

const CYCLES = 250;
const ignore = () => {};
const fence = { kind: 'circle', id: 'f', name: 'F', centre: ahead(hut, 90, 60), radius: 30 } as const;

/** A store whose writes fail on demand. */
function unreliable(): { store: TrailStore; fail: { now: boolean } } {
  const under = memoryStore();
  const fail = { now: false };
  const store: TrailStore = {
    ...under,
    async begin(labels) {
      const writer = await under.begin(labels);
      const unless =
        <Arguments extends unknown[]>(call: (...args: Arguments) => Promise<void>) =>
        (...args: Arguments) =>
          fail.now ? Promise.reject(new Error('full')) : call(...args);
      return {
        ...writer,
        append: unless((fixes: readonly Fix[]) => writer.append(fixes)),
        breakSegment: unless(() => writer.breakSegment()),
        note: unless((note: unknown) => writer.note(note)),
        finish: unless(() => writer.finish()),
      };
    },
  };
  return { store, fail };
}

describe('the end of a recorder, a log of crossings and a place watch', () => {
  it(
    'leaves nothing behind, hundreds of times, in any state and any way of ending; ' +
      'recorded fixes are kept',
    async () => {
      const pick = choices(19);
      const seen = new Set<string>();
      for (let cycle = 0; cycle < CYCLES; cycle++) {
        const time = new VirtualClock();
        const clock = countingClock(time);
        const device = new SimulatedDevice({ clock: time, route, permission: 'granted', warmUp: 0 });
        const receiver = new Receiver({ source: device, clock: time, purpose: 'Test.', warn: ignore });
        const given = new AbortController();
        const { store, fail } = unreliable();
        const recorder = new Recorder({ store, clock, warn: ignore, signal: given.signal });
        const log = new CrossingLog(new FenceWatch([fence]), recorder);
        const where = new PlaceWatch({
          places: gazetteerPlaces(new Gazetteer([])),
          clock,
          signal: given.signal,
        });
        const follow: Follow = receiver.follow();
        log.follow(follow);
        where.follow(follow);
        const steps = [
          () => recorder.start(follow),
          () => recorder.pause(),
          () => recorder.resume(),
          () => follow.stop(),
          () => (fail.now = pick(true, false)),
          () => void recorder.finish().catch(ignore),
          ignore,
        ];
        for (const step of [steps[0]!, pick(...steps), pick(...steps)]) {
          step();
          await time.advance(pick(0, 3, 20));
        }
        const state = recorder.state;
        const failed = recorder.$error.get() !== undefined;
        seen.add(failed ? `${state}, in trouble` : state);
        const way = pick('close', 'abort', 'dispose');
        if (way === 'abort') given.abort();
        else if (way === 'dispose') await disposed(recorder);
        await recorder.close();
        log.close();
        where.close();
        where.close();

        const place = `cycle ${cycle}, ${state}, ${way}`;
        const { length } = recorder.trail;
        const { lookUps } = where.counts;
        const crossings = log.select().length;
        await time.advance(30);
        expect(
          [clock.set.size, recorder.trail.length, where.counts.lookUps, log.select().length],
          place,
        ).to.deep.equal([0, length, lookUps, crossings]);
        expect(recorder.state, place).to.equal(state === 'finished' ? 'finished' : 'closed');
        expect([recorder.start(follow), recorder.resume(), recorder.pause()], place).to.deep.equal([
          false,
          false,
          false,
        ]);
        receiver.close();
        if (failed || fail.now) continue;
        // The next recorder finds the whole trail, and may continue it.
        const [entry] = await store.list();
        expect((await store.read(entry!.id))!.length, place).to.equal(length);
        if (state === 'finished') continue;
        const next = await Recorder.reopen(entry!.id, store, clock);
        expect(next.trail.length, place).to.equal(length);
        await next.close();
        expect(clock.set.size, place).to.equal(0);
      }
      expect([...seen]).to.include.members([
        'recording',
        'paused',
        'cut-off',
        'finished',
        'recording, in trouble',
      ]);
    },
  ).timeout(240_000);

  it('is stated in the error of every later call', async () => {
    const warnings: string[] = [];
    const recorder = new Recorder({ warn: (text) => warnings.push(text) });
    recorder.start();
    await recorder.close();
    expect(await recorder.finish().catch((error: unknown) => error)).to.be.instanceOf(ClosedError);
    expect([recorder.keepNote({}), recorder.start(), recorder.state]).to.deep.equal([false, false, 'closed']);
  });
});
