import { ClosedError, Recorder, memoryStore, type TrailStore } from 'aurelian-drift';
import { diskGuardStore, diskStore, partyBroker } from 'aurelian-drift-node';
import { mqttBroker, type BrokerError, type Wire } from 'aurelian-drift/presence';
import { expect } from 'chai';
import { mkdtemp, rm } from 'node:fs/promises';
import { createServer } from 'node:net';
import { createServer as createHttpServer } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { USERS } from '../support/brokers.js';
import { eventually } from '../support/eventually.js';
import { hut } from '../support/device.js';
import { choices, disposed } from '../support/endings.js';

const CYCLES = 250;
const ignore = () => {};
/** Open handles of this process: sockets, servers, timers. */
const held = () =>
  process.getActiveResourcesInfo().filter((kind) => /Socket|TCP|Server|Timeout/.test(kind)).length;

describe('the end of a store', function () {
  this.timeout(240_000);
  let folder = '';
  before(async () => (folder = await mkdtemp(join(tmpdir(), 'endings-'))));
  after(() => rm(folder, { recursive: true, force: true }));

  for (const [name, make] of [
    ['in memory', () => memoryStore()],
    ['on disk', (signal: AbortSignal) => diskStore(join(folder, 'trails'), { signal, warn: ignore })],
  ] as const)
    it(`${name} releases everything, hundreds of times, in any state, and the kept data is there`, async () => {
      const pick = choices(name.length);
      let written = 0;
      for (let cycle = 0; cycle < CYCLES; cycle++) {
        const given = new AbortController();
        const store: TrailStore = make(given.signal);
        const recorder = new Recorder({ store, warn: ignore });
        const used = pick('not at all', 'listed', 'writing', 'written');
        const pending: Promise<unknown>[] = [];
        if (used === 'listed') pending.push(store.list().catch(ignore));
        if (used === 'writing' || used === 'written') {
          recorder.start();
          recorder.take({ ...hut, time: 1e12 + cycle * 1000 } as never);
          if (used === 'written') while (recorder.kept < 1) await new Promise(setImmediate);
          if (used === 'written') written++;
          else pending.push(store.begin({ name: 'Another' }).catch(ignore));
        }
        if (name === 'on disk' && pick(true, false)) given.abort(new ClosedError('the app'));
        await store.close();
        await store.close();
        await Promise.all(pending);
        const refused = await Promise.allSettled([
          store.list(),
          store.begin({}),
          store.read('x'),
          store.erase(),
          store.remove('x'),
        ]);
        for (const each of refused)
          expect((each as PromiseRejectedResult).reason, `cycle ${cycle}, ${used}`).to.be.instanceOf(
            ClosedError,
          );
        await recorder.close();
        if (name === 'in memory' || cycle % 100 !== 99) continue;
        // The folder is free, the trails exist, and no process writes them.
        const next = diskStore(join(folder, 'trails'), { warn: ignore });
        const kept = await next.list();
        expect(kept.filter(({ fixes }) => fixes === 1)).to.have.length.at.least(written);
        for (const { id } of kept) await next.remove(id);
        written = 0;
        await next.close();
      }
    });

  it('of a guard lets go of its folder, hundreds of times', async () => {
    for (let cycle = 0; cycle < CYCLES; cycle++) {
      const store = await diskGuardStore(join(folder, 'guard'));
      await store.setSubscribed('a', true);
      if (cycle % 2 === 0) await store.close();
      else await disposed(store);
      await store.close();
    }
  });
});

describe('the end of a broker', function () {
  this.timeout(240_000);

  it(
    'of ours leaves no port, no connection and no listener behind, hundreds of times, also where a ' +
      'port is taken',
    async () => {
      const http = createHttpServer();
      const taken = createServer();
      await new Promise<void>((resolve) => taken.listen(0, '127.0.0.1', resolve));
      const { port } = taken.address() as { port: number };
      const pick = choices(21);
      const before = held();
      for (let cycle = 0; cycle < CYCLES; cycle++) {
        const given = new AbortController();
        const clash = pick(true, false, false, false);
        const made = partyBroker({
          users: USERS,
          port: 0,
          webSocketPort: clash ? port : 0,
          server: http,
          signal: given.signal,
        });
        if (clash) {
          expect(((await made.catch((error: unknown) => error)) as { code?: string }).code).to.equal(
            'EADDRINUSE',
          );
          continue;
        }
        const broker = await made;
        const way = pick('close', 'abort', 'dispose');
        if (way === 'abort') given.abort();
        if (way === 'dispose') await disposed(broker);
        await broker.close();
        await broker.close();
      }
      expect(http.listenerCount('upgrade')).to.equal(0);
      await eventually(() => expect(held()).to.be.at.most(before));
      taken.close();
    },
  );

  it(
    'that is another’s leaves no connection and no timer, hundreds of times: before, while and after ' +
      'it connects, by its wire, by a signal or as a whole',
    async () => {
      const before = held();
      const far = await partyBroker({ users: USERS, port: 0 });
      const silent = createServer((socket) => socket.on('error', ignore)); // accepts connections, and never answers
      await new Promise<void>((resolve) => silent.listen(0, '127.0.0.1', resolve));
      const quiet = `mqtt://127.0.0.1:${(silent.address() as { port: number }).port}`;
      const pick = choices(22);
      const outcomes = new Set<string>();
      for (let cycle = 0; cycle < CYCLES; cycle++) {
        const given = new AbortController();
        const address = pick(far.address!, far.address!, quiet);
        const broker = mqttBroker(address, { username: 'ines', password: 'ines-1234' });
        const opening: Promise<Wire | BrokerError> = broker
          .open({
            client: `c${cycle}`,
            keepAlive: 30,
            persistent: false,
            signal: given.signal,
            onMessage: ignore,
            onClosed: ignore,
          })
          .catch((error: unknown) => error as BrokerError);
        if (address !== quiet && pick(true, false)) await opening;
        const way = pick('signal', 'broker');
        if (way === 'signal') given.abort();
        else broker.close();
        const wire = await opening;
        outcomes.add(wire instanceof Error ? wire.kind : 'open');
        if (!(wire instanceof Error)) {
          const way = pick('end', 'drop', 'broker');
          if (way === 'end') await wire.end();
          else if (way === 'drop') wire.drop();
          expect(
            await wire
              .publish({ topic: 'drift/1/x', payload: '' }, false)
              .catch((error: unknown) => (error as BrokerError).kind === 'unreachable' || way),
          ).not.to.equal(undefined);
        }
        broker.close();
        expect(
          await broker
            .open({ client: 'late', keepAlive: 30, persistent: false, onMessage: ignore, onClosed: ignore })
            .catch((error: unknown) => (error as BrokerError).message),
        ).to.match(/was closed here/);
      }
      expect([...outcomes]).to.have.members(['open', 'unreachable']);
      await far.close();
      silent.close();
      await eventually(() => expect(held()).to.be.at.most(before + 2));
    },
  );
});
