import { Receiver, Trail, ahead, bridgeSource, nmeaSource, type Source } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, replaySource, simulatedShell } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { countingClock } from '../support/counting-clock.js';
import { hut, route } from '../support/device.js';
import { choices } from '../support/endings.js';

const CYCLES = 250;
const start = Date.UTC(2026, 4, 14, 8);

/** The parts of a source, and the resources it must release. */
interface Made {
  readonly source: Source;
  readonly held: () => number;
}

/** Two ends of a channel, with a count of its listeners. */
function countedChannel(clock: VirtualClock) {
  const ends = [new Set<(event: { data: unknown }) => void>(), new Set<(event: { data: unknown }) => void>()];
  const port = (own: number) => ({
    postMessage: (data: unknown) =>
      void clock.after(0, () => ends[1 - own]!.forEach((listener) => listener({ data }))),
    addEventListener: (_: 'message', listener: (event: { data: unknown }) => void) =>
      void ends[own]!.add(listener),
    removeEventListener: (_: 'message', listener: (event: { data: unknown }) => void) =>
      void ends[own]!.delete(listener),
  });
  return { page: port(0), shell: port(1), listeners: () => ends[0]!.size + ends[1]!.size };
}

const KINDS: Readonly<Record<string, (time: VirtualClock, clock: ReturnType<typeof countingClock>) => Made>> =
  {
    'a simulated device'(_time, clock) {
      const source = new SimulatedDevice({ clock, route, permission: 'granted', bundle: 3 });
      return { source, held: () => source.watches };
    },
    'a bridge and its shell'(time, clock) {
      const ports = countedChannel(time);
      const device = new SimulatedDevice({ clock: time, route, permission: 'granted' });
      const shell = simulatedShell(ports.shell, device);
      const bridge = bridgeSource(ports.page, { clock, warn: () => {} });
      const close = () => {
        bridge.close();
        shell.close();
      };
      // Closing it as a source also closes its far end.
      const source = new Proxy(bridge, {
        get(target, key) {
          const value: unknown = key === 'close' ? close : Reflect.get(target, key, target);
          return typeof value === 'function' ? (value.bind(target) as unknown) : value;
        },
      });
      return { source, held: () => ports.listeners() + device.watches };
    },
    'a recording'(_time, clock) {
      const trail = Trail.from(
        Array.from({ length: 20 }, (_, i) => ({ ...ahead(hut, 90, i), time: clock.now() + i * 1000 })),
      );
      return { source: replaySource(trail, clock), held: () => 0 };
    },
    'a wired receiver'(_time, clock) {
      let open = 0;
      const feed = (): AsyncIterable<string> => ({
        [Symbol.asyncIterator]() {
          open++;
          return {
            next: () => new Promise(() => {}),
            return: () => (open--, Promise.resolve({ done: true, value: undefined })),
          };
        },
      });
      return { source: nmeaSource(feed, { clock }), held: () => open };
    },
  };

describe('the end of a source', () => {
  for (const [name, make] of Object.entries(KINDS))
    it(`leaves nothing of ${name} behind, hundreds of times, whatever it was doing and whoever ends first`, async () => {
      const pick = choices(name.length);
      const seen = new Set<string>();
      for (let cycle = 0; cycle < CYCLES; cycle++) {
        const time = new VirtualClock(start);
        const clock = countingClock(time);
        const { source, held } = make(time, clock);
        const receiver = new Receiver({ source, clock: time, purpose: 'Test.', warn: () => {} });
        const follows = Array.from({ length: pick(0, 1, 2) }, () => receiver.follow());
        for (const follow of follows) follow.onFix(() => {});
        await time.advance(pick(0, 0, 1, 4.2, 30));
        seen.add(follows[0]?.state ?? 'unused');
        const end = [() => receiver.close(), () => source.close?.()];
        if (pick(true, false)) end.reverse();
        for (const each of [...end, ...end]) each();
        await time.advance(60);
        const place = `cycle ${cycle}, ${[...seen].at(-1)}`;
        expect([clock.set.size, held()], place).to.deep.equal([0, 0]);
        // A closed source delivers nothing more.
        if (source.close === undefined || name === 'a simulated device') continue;
        const next = new Receiver({ source, clock: time, purpose: 'Test.', warn: () => {} });
        expect(
          await time.settle(next.fix({ patience: 5 }).catch((error: unknown) => error)),
          place,
        ).to.be.instanceOf(Error);
        next.close();
        expect([clock.set.size, held()], place).to.deep.equal([0, 0]);
      }
      expect([...seen])
        .to.include('unused')
        .and.have.length.above(1);
    });

  it('of an app, begun anew inside a listener, leaves the new run its listeners', async () => {
    const clock = new VirtualClock(start);
    const device = new SimulatedDevice({ clock, route, permission: 'granted' });
    const run = () => new Receiver({ source: device, clock, purpose: 'Test.', warn: () => {} });
    let second: Receiver | undefined;
    const follow = run().follow();
    follow.onEvent(({ kind }) => {
      if (kind !== 'killed') return;
      device.restartApp();
      second = run();
    });
    await clock.advance(3);
    device.killApp();
    device.hide();
    expect(second!.lifeLog.map(({ kind }) => kind)).to.deep.equal(['hidden']);
  });

  it('of a bridge inside one of its own calls is safe, and its follows end', async () => {
    const time = new VirtualClock(start);
    const ports = countedChannel(time);
    simulatedShell(ports.shell, new SimulatedDevice({ clock: time, route, permission: 'granted' }));
    const given = new AbortController();
    const source = bridgeSource(ports.page, { clock: time, signal: given.signal, warn: () => {} });
    const receiver = new Receiver({ source, clock: time, purpose: 'Test.', warn: () => {} });
    const follow = receiver.follow();
    let fixes = 0;
    follow.onFix(() => ++fixes === 2 && given.abort());
    await time.advance(20);
    expect([fixes, follow.state, ports.listeners()]).to.deep.equal([2, 'ended', 1]);
  });
});
