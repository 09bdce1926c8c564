import { ClosedError, Receiver, type Fix, type Follow, type Source } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { countingClock } from '../support/counting-clock.js';
import { hut, route } from '../support/device.js';
import { choices, disposed } from '../support/endings.js';

const CYCLES = 250;
const ignore = () => {};

/** A source that counts who listens to it. */
function countingSource(device: SimulatedDevice): { source: Source; listeners: Set<object> } {
  const listeners = new Set<object>();
  const counted = (end: () => void) => {
    const entry = {};
    listeners.add(entry);
    return () => {
      listeners.delete(entry);
      end();
    };
  };
  const source = new Proxy(device, {
    get(target, key) {
      if (key === 'onEvent') return (listener: () => void) => counted(target.onEvent(listener));
      if (key === 'life')
        return {
          get hidden() {
            return device.life.hidden;
          },
          onEvent: (listener: () => void) => counted(device.life.onEvent(listener)),
        };
      const value: unknown = Reflect.get(target, key, target);
      return typeof value === 'function' ? (value.bind(target) as unknown) : value;
    },
  });
  return { source, listeners };
}

describe('the end of a receiver', () => {
  it('leaves nothing behind, hundreds of times, in whatever state and way it ends', async () => {
    const pick = choices(18);
    const seen = new Map<string, number>();
    for (let cycle = 0; cycle < CYCLES; cycle++) {
      const time = new VirtualClock();
      const clock = countingClock(time);
      const device = new SimulatedDevice({
        clock: time,
        route,
        thinking: 20,
        warmUp: pick(0, 5),
        permission: pick('granted', 'not-asked'),
        answer: pick('foreground', 'refuse', 'ignore'),
      } as never);
      const { source, listeners } = countingSource(device);
      const given = new AbortController();
      const receiver = new Receiver({
        source,
        clock,
        purpose: 'Test.',
        warn: ignore,
        signal: given.signal,
        ...(pick(true, false) && { explain: () => new Promise(ignore) }),
      });
      const follows: Follow[] = [];
      const waits: Promise<unknown>[] = [];
      const wait = (promise: Promise<unknown>) =>
        waits.push(
          promise.then(
            () => 'done',
            (error: unknown) => error,
          ),
        );
      let after = 0;
      const use = () => {
        if (pick(true, false)) wait(receiver.fix({ patience: 600 }));
        if (pick(true, false)) wait(receiver.ask());
        if (pick(true, false)) wait(receiver.readAccess());
        if (pick(true, false)) follows.push(receiver.follow());
        if (pick(true, false)) wait(receiver.quickThenFresh().next());
        follows.at(-1)?.onFix(() => after++);
        receiver.$fix.listen(ignore);
      };
      use();
      await time.advance(pick(0, 0, 0.5, 10, 21, 60));
      use();
      const { state } = receiver.$status.get();
      seen.set(state, (seen.get(state) ?? 0) + 1);
      const way = pick('close', 'abort', 'dispose');
      if (way === 'close') receiver.close();
      else if (way === 'abort') given.abort(new Error('enough'));
      else disposed(receiver);
      receiver.close();

      const reported = await Promise.all(waits);
      const place = `cycle ${cycle}, ${state}, ${way}`;
      for (const outcome of reported) {
        if (outcome === 'done' || (outcome as Error).name === 'NoFixError') continue; // it had ended before
        if (way === 'abort') expect((outcome as Error).message, place).to.equal('enough');
        else expect(outcome, place).to.be.instanceOf(ClosedError);
      }
      const received = after;
      for (const follow of follows) expect(follow.running, place).to.equal(false);
      expect([clock.set.size, listeners.size, device.watches, receiver.closed], place).to.deep.equal([
        0,
        0,
        0,
        true,
      ]);
      await time.advance(30); // the user answers, or the device finds a fix: no listener is called
      expect([clock.set.size, listeners.size, device.watches, after], place).to.deep.equal([
        0,
        0,
        0,
        received,
      ]);
    }
    expect([...seen.keys()]).to.include.members(['idle', 'asking', 'waiting', 'following', 'failed']);
  }).timeout(240_000);

  it('inside a callback is safe, and later calls are refused with a message', async () => {
    const clock = new VirtualClock();
    const device = new SimulatedDevice({ clock, route, permission: 'granted', warmUp: 0 });
    const receiver = new Receiver({ source: device, clock, purpose: 'Test.', warn: ignore });
    const fixes: Fix[] = [];
    const follow = receiver.follow();
    follow.onFix((fix) => {
      fixes.push(fix);
      if (fixes.length === 3) receiver.close();
    });
    await clock.advance(10);
    expect([fixes.length, follow.state, await follow.outcome, device.watches]).to.deep.equal([
      3,
      'stopped',
      'stopped',
      0,
    ]);
    for (const call of [() => receiver.follow(), () => receiver.placeByHand(hut)])
      expect(call).to.throw(ClosedError, 'the receiver is closed');
    for (const call of [receiver.fix(), receiver.ask(), receiver.quickThenFresh().next()])
      expect(await call.catch((error: unknown) => error)).to.be.instanceOf(ClosedError);
    expect((await receiver.readAccess()).permission).to.equal('granted');
    expect(receiver.lastFix()?.fix).to.equal(fixes[2]);
  });

  it('takes any signal of the right shape, also one that has aborted before', async () => {
    const clock = new VirtualClock();
    const device = new SimulatedDevice({ clock, route, permission: 'granted' });
    const listeners = new Set<() => void>();
    const signal = {
      aborted: false,
      reason: undefined as unknown,
      addEventListener: (_: string, listener: () => void) => void listeners.add(listener),
      removeEventListener: (_: string, listener: () => void) => void listeners.delete(listener),
    };
    const receiver = new Receiver({ source: device, clock, purpose: 'Test.', signal });
    const fix = receiver.fix({ signal }).catch((error: unknown) => error);
    await clock.advance(0.1);
    expect(listeners.size).to.be.above(1);
    Object.assign(signal, { aborted: true, reason: 'over' });
    for (const listener of [...listeners]) listener();
    expect([await fix, receiver.closed, listeners.size]).to.deep.equal(['over', true, 0]);
    const late = new Receiver({ source: device, clock, purpose: 'Test.', signal });
    expect(() => late.follow())
      .to.throw('over')
      .and.be.a('string');
  });
});
