import type { Follow, FollowStatus, Receiver } from 'aurelian-drift';
import type { SimulatedDevice, VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { route, setUp } from '../support/device.js';

/** Expected state: who was stopped, what can have failed a follow, and what withholds fixes. */
interface Model {
  stopped: Set<number>;
  /** Number of events that may fail a follow, in total and at the start of each follow. */
  hazards: number;
  readonly begun: number[];
  hidden: boolean;
  able: boolean;
  signal: boolean;
  closed: boolean;
}

interface Real {
  readonly clock: VirtualClock;
  readonly device: SimulatedDevice;
  readonly receiver: Receiver;
  readonly follows: {
    readonly follow: Follow;
    readonly states: FollowStatus[];
    taps: number;
    over?: string;
  }[];
  /** One-shots in progress. */
  shots: number;
  /** What a listener does on the next fix. */
  armed: ((follow: number) => void) | undefined;
}

/** Runs the invariants of the model. */
function consistent(model: Model, real: Real): void {
  const { receiver, device, follows } = real;
  const running = follows.filter(({ follow }) => follow.running);
  expect(receiver.follows).to.have.members(running.map(({ follow }) => follow));
  expect(receiver.$tracking.get().active).to.equal(running.length > 0);
  expect(device.watches, 'one watch on the device, and the receiver knows of it').to.equal(
    receiver.receiving ? 1 : 0,
  );
  if (running.length === 0 && real.shots === 0) expect(receiver.receiving).to.equal(false);
  const { state } = receiver.$status.get();
  if (running.length === 0 && real.shots === 0) expect(state).to.be.oneOf(['idle', 'ready', 'failed']);
  if (state === 'following') expect(running.length + real.shots).to.be.above(0);
  follows.forEach(({ follow, states, over }, i) => {
    if (model.stopped.has(i)) expect(follow.running).to.equal(false);
    else if (follow.state === 'stopped') expect(model.closed, `${i} was stopped by nobody`).to.equal(true);
    expect(follow.error === undefined).to.equal(follow.state !== 'failed');
    if (follow.state === 'failed')
      expect(model.hazards, `${i} failed without a cause`).to.be.above(model.begun[i] ?? 0);
    if (over !== undefined) expect(over).to.equal(follow.state);
    expect(states.at(-1)).to.equal(follow.$status.get());
    states.slice(1).forEach((now, k) => {
      const before = states[k]!.state;
      expect(['stopped', 'ended', 'failed']).not.to.include(before);
      if (before === 'paused') expect(now.state).to.be.oneOf(['waiting', 'stopped', 'ended', 'failed']);
    });
  });
}

type Act = (model: Model, real: Real) => void | Promise<void>;

/** A command of the model: its name, and its effect on both. */
const command = (name: string, act: Act, when: (model: Model) => boolean = () => true) => ({
  check: (model: Readonly<Model>) => when(model),
  async run(model: Model, real: Real) {
    await act(model, real);
    // Pending promises are settled.
    await real.clock.advance(0);
    consistent(model, real);
  },
  toString: () => name,
});

const begin: Act = (model, real) => {
  const i = real.follows.length;
  model.begun.push(model.able ? model.hazards : -1);
  const follow = real.receiver.follow();
  const entry: Real['follows'][number] = { follow, states: [], taps: 0 };
  real.follows.push(entry);
  follow.$status.subscribe((state) => entry.states.push(state));
  follow.onEvent((event) => event.kind === 'failed' && event.error);
  follow.onFix(() => {
    entry.taps++;
    const act = real.armed;
    real.armed = undefined;
    act?.(i);
  });
  void follow.outcome.then((over) => (entry.over = over));
};
const stop = (model: Model, real: Real, i: number) => {
  const entry = real.follows[i];
  if (entry?.follow.stop() === true) model.stopped.add(i);
};
const hazard = (model: Model, change: () => void) => {
  model.hazards++;
  change();
};

const open = (model: Model) => !model.closed;
const commands = [
  fc.constant(command('follow', begin, open)),
  fc.nat(5).map((i) => command(`stop ${i}`, (model, real) => stop(model, real, i))),
  fc
    .constantFrom(0.3, 1, 7, 40, 100)
    .map((seconds) => command(`wait ${seconds} s`, (_, real) => real.clock.advance(seconds))),
  fc.constant(
    command('hide', (model, { device }) => {
      model.hidden = true;
      device.hide();
    }),
  ),
  fc.constant(
    command('show', (model, { device }) => {
      model.hidden = false;
      device.show();
    }),
  ),
  fc.constant(
    command('withdraw', (model, { device }) =>
      hazard(model, () => {
        model.able = false;
        device.withdraw();
      }),
    ),
  ),
  fc.constant(
    command('grant', (model, { device }) => {
      model.able = device.switchedOn;
      device.grant();
    }),
  ),
  fc.constant(
    command('switch off', (model, { device }) =>
      hazard(model, () => {
        model.able = false;
        device.switchedOn = false;
      }),
    ),
  ),
  fc.constant(
    command('switch on', async (model, { device }) => {
      device.switchedOn = true;
      model.able = (await device.readAccess()).permission === 'granted';
    }),
  ),
  fc.boolean().map((received) =>
    command(`signal ${received}`, (model, { device }) => {
      model.signal = device.signal = received;
    }),
  ),
  fc.constant(
    command(
      'fix',
      (_, real) => {
        real.shots++;
        void real.receiver
          .fix({ patience: 20 })
          .catch(() => {})
          .finally(() => real.shots--);
      },
      open,
    ),
  ),
  fc.constant(command('ask', (_, { receiver }) => void receiver.ask().catch(() => {}), open)),
  fc.constant(
    command('stop in a tap', (model, real) => {
      real.armed = (i) => stop(model, real, i);
    }),
  ),
  fc.constant(
    command('follow in a tap', (model, real) => {
      real.armed = () => {
        if (!model.closed) void begin(model, real);
      };
    }),
  ),
  fc.constant(
    command('close in a tap', (model, real) => {
      real.armed = () => {
        model.closed = true;
        real.receiver.close();
      };
    }),
  ),
  fc.constant(
    command('close', (model, { receiver }) => {
      model.closed = true;
      receiver.close();
    }),
  ),
  // When all conditions are met, a follow delivers again, whatever happened before.
  fc.constant(
    command('all is well for a while', async (model, real) => {
      const { device, clock } = real;
      device.switchedOn = device.signal = model.signal = model.able = true;
      device.grant();
      device.show();
      model.hidden = false;
      await clock.advance(45);
      for (const { follow, taps } of real.follows) {
        if (!follow.running) continue;
        expect(follow.state).to.be.oneOf(['live', 'still']);
        expect(taps).to.be.above(0);
        expect(real.receiver.$status.get().state).to.equal('following');
      }
    }),
  ),
];

describe('a receiver and its follows', () => {
  it('agree with their model after any calls in any order, inside listeners too', async () => {
    await fc.assert(
      fc.asyncProperty(fc.commands(commands, { maxCommands: 40, size: 'max' }), async (list) => {
        const { receiver, device, clock } = setUp({ permission: 'granted', route, afterwards: 'again' });
        const model: Model = {
          stopped: new Set(),
          hazards: 0,
          begun: [],
          hidden: false,
          able: true,
          signal: true,
          closed: false,
        };
        const real: Real = { clock, device, receiver, follows: [], shots: 0, armed: undefined };
        await fc.asyncModelRun(() => ({ model, real }), list);
        receiver.close();
        await clock.advance(100);
        expect([device.watches, receiver.follows]).to.deep.equal([0, []]);
      }),
      { numRuns: 600 },
    );
  });

  it('that stop while the user is asked leave nothing of theirs behind the prompt', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted', level: 'foreground', route });
    const follow = receiver.follow();
    follow.onFix(() => {});
    await clock.advance(5);
    device.thinking = 20;
    const asked = receiver.ask('background');
    await clock.advance(5);
    expect(receiver.$status.get().state).to.equal('asking');
    follow.stop();
    await clock.settle(asked);
    expect(receiver.$status.get()).to.deep.equal({ state: 'idle' });
    void receiver.ask('background').catch(() => {});
    await clock.advance(1);
    receiver.close();
    expect(receiver.$status.get()).to.deep.equal({ state: 'idle' });
  });
});
