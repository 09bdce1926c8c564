import { ahead, distance, planFrom, type Position } from 'aurelian-drift';
import { diskGuardStore } from 'aurelian-drift-node';
import {
  BUCKETS,
  PartyGuard,
  bucketOf,
  divideMemory,
  memberTopic,
  memoryGuardStore,
  writePlaceMessage,
  readTopic,
  slotBuckets,
  slotFrom,
  writeStateMessage,
  type Alarm,
  type GuardStore,
  type PartyGuardOptions,
} from 'aurelian-drift/presence';
import { VirtualClock, memoryBroker } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hut, route } from '../support/device.js';
import { PARTY, member, section, watcher } from '../support/party.js';

function guard(
  parts: Pick<ReturnType<typeof member>, 'clock' | 'broker'>,
  options: Partial<PartyGuardOptions> = {},
) {
  const made = new PartyGuard({
    party: PARTY,
    fences: [section],
    clock: parts.clock,
    broker: parts.broker,
    warn: () => {},
    ...options,
  });
  const reported: string[] = [];
  made.onEvent(({ alarm: { member: who, kind, fence } }) =>
    reported.push([who, kind, fence].filter((each) => each !== undefined).join(' ')),
  );
  return { guard: made, reported };
}

describe('a guard', () => {
  it(
    'reports a crossing, and each watcher hears it once, with an id made of member, ' +
      'fence, kind and time',
    async () => {
      const parts = member('ines', {}, { route });
      const warnings: string[] = [];
      const { guard: made, reported } = guard(parts, { warn: (text) => warnings.push(text) });
      const end = made.onEvent(() => {
        end();
        throw new Error('a slip in the app');
      });
      const alsoReported: string[] = [];
      made.onEvent(({ alarm: { kind } }) => alsoReported.push(kind));
      await made.start();
      const seen = await watcher(parts);
      void parts.presence().join(parts.follow());
      await parts.clock.advance(600);
      expect(reported).to.deep.equal(['ines enter orchard', 'ines exit orchard']);
      expect(alsoReported).to.deep.equal(['enter', 'exit']);
      expect(warnings).to.deep.equal(['a listener of a PartyGuard threw: Error: a slip in the app']);
      const alarms = seen.watch.$alarms.get();
      expect(alarms.map(({ kind }) => kind)).to.deep.equal(['enter', 'exit']);
      const [enter, exit] = alarms as [Alarm, Alarm];
      expect(enter.id).to.equal(`ines:orchard:enter:${enter.time}`);
      // 200 m at a walk, from one edge to the other.
      expect(exit.duration).to.be.closeTo((exit.time - enter.time) / 1000, 0.01);
      expect([made.counts.members, made.counts.alarms]).to.deep.equal([1, 2]);
    },
  );

  it(
    'reports a missed sign of life once, and its return; asleep or vanished is no excuse, ' +
      'having left is',
    async () => {
      const parts = member('ines', { keepAlive: 20, retention: 7200 }, { route, background: 'none' });
      const { guard: made, reported } = guard(parts, { checkIn: 600, fences: [] });
      await made.start();
      const presence = parts.presence();
      void presence.join(parts.follow());
      await parts.clock.advance(1200);
      expect(reported).to.deep.equal([]);
      parts.device.hide();
      await parts.clock.advance(595);
      expect(reported).to.deep.equal([]);
      await parts.clock.advance(600);
      expect(reported).to.deep.equal(['ines missed']);
      parts.device.show();
      await parts.clock.advance(5);
      expect(reported).to.deep.equal(['ines missed', 'ines back']);
      await parts.clock.settle(presence.leave());
      await parts.clock.advance(3600);
      expect(reported).to.have.length(2);
    },
  );

  it('clears the record of a vanished member after its time, so that nobody finds it', async () => {
    const parts = member('ines', { keepAlive: 20, retention: 300 }, { route });
    await guard(parts, { fences: [] }).guard.start();
    void parts.presence().join(parts.follow());
    await parts.clock.advance(10);
    parts.broker.kill(parts.broker.clients.find((name) => name.includes('.ines.')) ?? '');
    await parts.clock.advance(295);
    expect([...parts.broker.retained.keys()]).to.have.length(2);
    await parts.clock.advance(10);
    expect(parts.broker.retained.size).to.equal(0);
  });

  it('late messages of a member that has left change nothing, and a late last will is cleared', async () => {
    const parts = member('ines', { keepAlive: 20 }, { route });
    const { guard: made, reported } = guard(parts, { fences: [], checkIn: 60 });
    await made.start();
    const seen = await watcher(parts);
    const said: { topic: string; payload: string }[] = [];
    parts.broker.onEvent((message) => said.push(message));
    const presence = parts.presence();
    void presence.join(parts.follow());
    await parts.clock.advance(30);
    await parts.clock.settle(presence.leave());
    const [state] = said.filter(({ topic }) => topic.endsWith('/state'));
    const { session } = (JSON.parse(state?.payload ?? '') as { properties: { session: string } }).properties;
    for (const { topic, payload } of [...said]) if (payload !== '') parts.broker.publish(topic, payload);
    const will = writeStateMessage('ines', {
      state: 'vanished',
      session,
      link: 1,
      keepAlive: 20,
      retention: 3600,
    });
    parts.broker.publish(memberTopic(PARTY, 'ines', 'state'), will, true);
    expect(made.counts.members).to.equal(0);
    expect(seen.reported).to.deep.equal(['ines joined', 'ines moved', 'ines left']);
    await parts.clock.advance(300);
    expect([reported, made.counts.members, parts.broker.retained.size, seen.one()?.state]).to.deep.equal([
      [],
      0,
      0,
      'left',
    ]);
  });

  it('does not take its own deafness for silence of others', async () => {
    const parts = member('ines', { keepAlive: 20 }, { route });
    const { guard: made, reported } = guard(parts, { checkIn: 60, fences: [] });
    await made.start();
    void parts.presence().join(parts.follow());
    await parts.clock.advance(20);
    const mend = parts.broker.cut(`${PARTY}.guard.1-1`);
    await parts.clock.advance(300);
    mend();
    await parts.clock.advance(60);
    expect([reported, made.$link.get().state]).to.deep.equal([[], 'up']);
  });

  it('refuses unusable settings', () => {
    const parts = member();
    expect(() => guard(parts, { fences: [section, section] })).to.throw(/two fences have the id "orchard"/);
    expect(() => guard(parts, { checkin: 5 } as object)).to.throw(/did you mean "checkIn"/);
    expect(() => guard(parts, { slot: { number: 5, count: 4 } })).to.throw(
      'slot must be a share like { number: 2, of: 4 }',
    );
    expect(() => slotFrom('5/4')).to.throw(/like 2\/4/);
  });
});

describe('slots', () => {
  it('are shares of the buckets: each member is in one, for any number of slots', () => {
    fc.assert(
      fc.property(
        fc.stringMatching(/^[a-z0-9][a-z0-9_-]{0,63}$/),
        fc.integer({ min: 1, max: BUCKETS }),
        (id, count) => {
          const bucket = bucketOf(id);
          const owners = Array.from({ length: count }, (_, i) =>
            slotBuckets({ number: i + 1, count }),
          ).filter((buckets) => buckets.includes(bucket));
          expect(owners).to.have.length(1);
          expect(readTopic(memberTopic(PARTY, id, 'place'))).to.deep.equal({
            party: PARTY,
            member: id,
            leaf: 'place',
          });
        },
      ),
    );
  });

  it('are even, and the buckets of members never change: FNV-1a of the id, folded', () => {
    // Worked out apart: FNV-1a of "a" is e40c292c (test vectors of its authors), and e4 ^ 0c ^ 29 ^ 2c is ed.
    expect(bucketOf('a')).to.equal(0xed);
    const counts = new Array<number>(4).fill(0);
    for (let i = 0; i < 4000; i++) counts[bucketOf(`warden-${i}`) % 4]!++;
    for (const count of counts) expect(count).to.be.within(900, 1100);
  });
});

/** The messages at the broker for a walk through the section. */
function walk(id = 'ines'): { topic: string; payload: string }[] {
  const start = Date.UTC(2026, 4, 14, 8);
  const session = `${start.toString(36)}-1`;
  const topic = memberTopic(PARTY, id, 'place');
  const places = Array.from({ length: 300 }, (_, i) => {
    const { lat, lon } = ahead(hut, 90, (i < 150 ? i : 300 - i) * 4);
    return {
      topic,
      payload: writePlaceMessage(id, {
        lat,
        lon,
        time: start + i * 1000,
        accuracy: 5,
        session,
        number: i + 1,
      }),
    };
  });
  const here = writeStateMessage(id, {
    state: 'here',
    session,
    link: 1,
    sent: start,
    keepAlive: 30,
    retention: 60,
  });
  return [{ topic: memberTopic(PARTY, id, 'state'), payload: here }, ...places];
}

describe('a guard that is killed and started again', () => {
  /** Feeds a walk to guards that are killed at some messages; each receives again what was not stored. */
  async function killed(at: readonly number[], store: () => Promise<GuardStore>): Promise<string[]> {
    const clock = new VirtualClock();
    const broker = memoryBroker({ clock });
    const said: string[] = [];
    broker.onEvent(({ topic, payload }) => {
      if (topic.endsWith('/alarm'))
        said.push((JSON.parse(payload) as { properties: { id: string } }).properties.id);
    });
    const kills = new Set(at);
    let kept = await store();
    let made = guard({ clock, broker }, { store: kept }).guard;
    await made.start();
    for (const [i, { topic, payload }] of walk().entries()) {
      if (kills.has(i)) {
        await made.take(topic, payload, false); // stored, and not acknowledged
        await made.close();
        kept = await store();
        made = guard({ clock, broker }, { store: kept }).guard;
        await made.start();
      }
      await made.take(topic, payload, false);
      if (i % 50 === 0) await clock.advance(1);
    }
    await clock.advance(1);
    const log = (await kept.log()).map(({ id }) => id);
    await made.close();
    expect(new Set(said)).to.deep.equal(new Set(log));
    return log;
  }

  it(
    'has the same crossings as a guard that never stopped, none lost and none twice, ' +
      'wherever it was killed',
    async () => {
      const shared = memoryGuardStore();
      const whole = await killed([], () => Promise.resolve(shared));
      expect(whole.map((id) => id.split(':')[2])).to.deep.equal(['enter', 'exit', 'enter', 'exit']);
      await fc.assert(
        fc.asyncProperty(fc.uniqueArray(fc.integer({ min: 0, max: 300 }), { maxLength: 12 }), async (at) => {
          const own = memoryGuardStore();
          expect(await killed(at, () => Promise.resolve(own))).to.deep.equal(whole);
        }),
        { numRuns: 30 },
      );
    },
  );

  it('the same with its memory on disk, where two guards cannot have one memory', async () => {
    const folder = await mkdtemp(join(tmpdir(), 'guard-'));
    const whole = await killed([40, 75, 77, 150, 222], () => diskGuardStore(join(folder, 'memory')));
    expect(whole.map((id) => id.split(':')[2])).to.deep.equal(['enter', 'exit', 'enter', 'exit']);
    const open = await diskGuardStore(join(folder, 'memory'));
    const second = await diskGuardStore(join(folder, 'memory')).then(
      () => 'opened',
      (error: unknown) => String(error),
    );
    expect(second).to.include('another guard stores its state in');
    await open.close();
    await rm(folder, { recursive: true });
  });

  it(
    'acknowledges nothing while its store fails: messages delivered again later are ' + 'reported then',
    async () => {
      const clock = new VirtualClock();
      const broker = memoryBroker({ clock });
      const store = memoryGuardStore();
      let full = false;
      const failing: GuardStore = {
        ...store,
        save: (...kept) => (full ? Promise.reject(new Error('the disk is full')) : store.save(...kept)),
      };
      const { guard: made, reported } = guard({ clock, broker }, { store: failing });
      await made.start();
      for (const [i, { topic, payload }] of walk().entries()) {
        full = i > 40 && i < 160 && i % 3 === 0;
        const taken = await made.take(topic, payload, false).then(
          () => true,
          () => false,
        );
        expect(taken).to.equal(!full);
        full = false;
        if (!taken) await made.take(topic, payload, false);
      }
      expect(reported).to.deep.equal([
        'ines enter orchard',
        'ines exit orchard',
        'ines enter orchard',
        'ines exit orchard',
      ]);
      await made.close();
    },
  );
});

describe('memories of guards that are divided anew', () => {
  const ids = Array.from({ length: 12 }, (_, i) => `warden-${i}`);
  const kinds = ['enter', 'exit', 'enter', 'exit'];
  const logOf = async (stores: readonly GuardStore[]) =>
    (await Promise.all(stores.map((store) => store.log()))).flat();
  const memories = (count: number) => Array.from({ length: count }, () => memoryGuardStore());

  /** The part of all walks that the guards of these slots receive. */
  async function guarded(
    stores: readonly GuardStore[],
    from: number,
    to: number,
    options: Partial<PartyGuardOptions> = {},
  ) {
    const clock = new VirtualClock();
    const broker = memoryBroker({ clock });
    const guards = stores.map((store, i) =>
      guard({ clock, broker }, { store, slot: { number: i + 1, count: stores.length }, ...options }),
    );
    for (const { guard: each } of guards) await each.start();
    for (const id of ids)
      for (const { topic, payload } of walk(id).slice(from, to))
        await guards[bucketOf(id) % stores.length]!.guard.take(topic, payload, false);
    await clock.advance(1);
    for (const { guard: each } of guards) await each.close();
    return guards;
  }

  it(
    'continue where the old ones stopped: no crossing is lost and none reported twice, ' +
      'wherever they stopped',
    async () => {
      await fc.assert(
        fc.asyncProperty(
          fc.integer({ min: 1, max: 300 }),
          fc.integer({ min: 1, max: 5 }),
          fc.integer({ min: 1, max: 5 }),
          async (stop, before, after) => {
            const [old, fresh] = [memories(before), memories(after)];
            await guarded(old, 0, stop);
            const counts = await divideMemory(old, fresh);
            expect(counts.reduce((sum, count) => sum + count)).to.equal(ids.length);
            await guarded(fresh, stop, 301);
            for (const [i, store] of fresh.entries())
              for (const [id] of await store.members()) expect(bucketOf(id) % after).to.equal(i);
            const log = await logOf(fresh);
            for (const id of ids)
              expect(log.filter(({ member: who }) => who === id).map(({ kind }) => kind)).to.deep.equal(
                kinds,
              );
            expect(log.length).to.equal(48);
          },
        ),
        { numRuns: 20 },
      );
    },
  ).timeout(240_000);

  it('take unsent reports with them, and no others', async () => {
    const [[old], [fresh]] = [memories(1), memories(1)] as [[GuardStore], [GuardStore]];
    await guarded([{ ...old, markReported: () => Promise.reject(new Error('killed')) }], 0, 100);
    expect(await divideMemory([old], [fresh])).to.deep.equal([12]);
    expect(await fresh.unreported()).to.deep.equal(await old.unreported());
    expect(await fresh.unreported()).to.have.length(12);
    await guarded([fresh], 100, 101);
    const [again] = memories(1) as [GuardStore];
    await divideMemory([fresh, old], [again]);
    expect([(await again.unreported()).length, (await again.log()).length]).to.deep.equal([0, 12]);
    const error = await divideMemory([old], [again]).catch((refused: unknown) => String(refused));
    expect(error).to.include('the memory for slot 1 is not empty');
  });

  it('report nothing about members that now belong to another slot', async () => {
    const [store] = memories(1) as [GuardStore];
    await guarded([store], 0, 100);
    const clock = new VirtualClock();
    const { guard: made, reported } = guard(
      { clock, broker: memoryBroker({ clock }) },
      { store, slot: { number: 2, count: 4 }, checkIn: 60 },
    );
    await made.start();
    await clock.advance(600);
    const own = ids.filter((id) => bucketOf(id) % 4 === 1);
    expect(own.length).to.be.within(1, 11);
    expect(reported.sort()).to.deep.equal(own.map((id) => `${id} missed`).sort());
    await made.close();
  });
});

describe('a guard of plans', () => {
  const corner = ahead(hut, 90, 400);
  const end = ahead(corner, 0, 400);
  const start = Date.UTC(2026, 4, 14, 8);
  const minutes = (count: number) => start + count * 60_000;
  const plan = planFrom(
    { name: 'Tower walk', parts: [[hut, corner, end]] },
    {
      stations: [
        { ...corner, name: 'Ford', time: minutes(8) },
        { ...end, name: 'Tower', time: minutes(16) },
      ],
    },
  );
  /** Places of a walk at 1.35 m/s along a line, one in 10 s, from a start in seconds. */
  const walk = (points: readonly Position[], from = 0) => {
    const { line } = planFrom({ parts: [points] });
    return Array.from({ length: Math.floor(line.length / 13.5) + 1 }, (_, i) => {
      const { lat, lon, course } = line.placeAt(13.5 * i);
      return { time: start + (from + 10 * i) * 1000, lat, lon, accuracy: 8, speed: 1.35, course };
    });
  };
  const session = `${start.toString(36)}-abc`;
  async function watched(store = memoryGuardStore()) {
    const clock = new VirtualClock(start);
    const made = new PartyGuard({
      party: PARTY,
      fences: [],
      plans: { ines: plan, tomas: plan },
      overdueAfter: 300,
      broker: memoryBroker({ clock }),
      clock,
      store,
      warn: () => {},
    });
    const alarms: Alarm[] = [];
    made.onEvent(({ alarm }) => alarms.push(alarm));
    await made.start();
    const feed = async (who: string, places: ReturnType<typeof walk>, first = 1) => {
      for (const [i, place] of places.entries()) {
        if (place.time > clock.now()) await clock.advance((place.time - clock.now()) / 1000);
        const payload = writePlaceMessage(who, { ...place, session, number: first + i });
        await made.take(memberTopic(PARTY, who, 'place'), payload, false);
      }
    };
    const kinds = (who: string) =>
      alarms.filter(({ member: of }) => of === who).map(({ kind, name }) => `${kind} ${name}`);
    return { clock, made, alarms, feed, kinds, store };
  }

  it('reports that a member left its plan, is back and finished it, once, with ids that are the same again', async () => {
    const aside = [
      ahead(hut, 90, 150),
      ahead(ahead(hut, 90, 150), 180, 90),
      ahead(ahead(hut, 90, 320), 180, 90),
      ahead(hut, 90, 320),
    ];
    const ids: string[][] = [];
    for (let run = 0; run < 2; run++) {
      const { made, feed, alarms, kinds } = await watched();
      await feed('ines', walk([hut, ...aside, corner, end]));
      expect(kinds('ines')).to.deep.equal([
        'off-plan Tower walk',
        'on-plan Tower walk',
        'finished Tower walk',
      ]);
      expect(distance(alarms[0] as Position, aside[0]!)).to.be.below(40);
      ids.push(alarms.map(({ id }) => id));
      await made.close();
    }
    expect(ids[0]).to.deep.equal(ids[1]);
    expect(ids[0]![0]).to.match(/^ines:plan:off-plan:\d+$/);
  });

  it('reports who is overdue at a named point, also who never came, once, and nobody who was there', async () => {
    const { clock, feed, kinds, alarms, made } = await watched();
    await feed('ines', walk([hut, corner]));
    await clock.advance((minutes(40) - clock.now()) / 1000);
    expect(kinds('ines')).to.deep.equal(['overdue Tower']);
    expect(kinds('tomas')).to.deep.equal(['overdue Ford', 'overdue Tower']);
    expect(alarms.find(({ name }) => name === 'Tower')).to.include({
      time: minutes(16),
      id: 'ines:plan/Tower:overdue:' + String(minutes(16)),
    });
    await made.close();
  });

  it('goes on after a restart without telling anything twice, and begins another plan anew', async () => {
    const store = memoryGuardStore();
    const places = walk([hut, corner, end]);
    const first = await watched(store);
    await first.feed('ines', places.slice(0, 45));
    await first.clock.advance((minutes(25) - first.clock.now()) / 1000);
    expect(first.kinds('ines')).to.deep.equal(['overdue Tower']);
    await first.made.close();
    const again = await watched(store);
    await again.clock.advance((minutes(30) - again.clock.now()) / 1000);
    await again.feed('ines', places.slice(45), 46);
    expect(again.kinds('ines')).to.deep.equal(['finished Tower walk']);
    await again.made.close();
    const longer = new PartyGuard({
      party: PARTY,
      fences: [],
      plans: { ines: planFrom({ parts: [[hut, ahead(hut, 0, 900)]] }) },
      broker: memoryBroker({ clock: new VirtualClock(start) }),
      clock: new VirtualClock(start),
      store,
      warn: () => {},
    });
    await longer.start();
    await longer.close();
    expect(
      () =>
        new PartyGuard({
          party: PARTY,
          fences: [],
          broker: memoryBroker({ clock: new VirtualClock(start) }),
          plans: [] as never,
        }),
    ).to.throw('plans must be plans by the ids');
  });
});
