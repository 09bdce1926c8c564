import { Receiver, browserSource, oneFix } from 'aurelian-drift';
import { VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { failureOf, hut, kindOf, setUp } from '../support/device.js';

const never = () => new Promise<never>(() => {});
/** Seconds of clock time that a call took, and how it ended. */
async function spent(clock: VirtualClock, call: Promise<unknown>): Promise<[string, number]> {
  const since = clock.now();
  return [await kindOf(clock.settle(call)), Math.round((clock.now() - since) / 1000)];
}

/** The platform's interfaces as a page has them; each test says what they do. */
function platform(permissions: object | undefined, more: object = {}, others: object = {}) {
  const cleared: number[] = [];
  let watches = 0;
  const geolocation = {
    watchPosition: () => ++watches,
    clearWatch: (id: number) => cleared.push(id),
    getCurrentPosition: () => {},
    ...more,
  };
  const before = Object.getOwnPropertyDescriptor(globalThis, 'navigator');
  const document = Object.assign(new EventTarget(), { visibilityState: 'visible' });
  const page = { navigator: { geolocation, permissions, ...others }, document, window: new EventTarget() };
  for (const [name, value] of Object.entries(page))
    Object.defineProperty(globalThis, name, { value, configurable: true });
  const clock = new VirtualClock();
  const receiver = new Receiver({ source: browserSource(), purpose: 'Test.', clock, warn: () => {} });
  const restore = () => {
    for (const name of ['document', 'window']) Reflect.deleteProperty(globalThis, name);
    if (before === undefined) Reflect.deleteProperty(globalThis, 'navigator');
    else Object.defineProperty(globalThis, 'navigator', before);
  };
  return { clock, receiver, restore, document, open: () => watches - cleared.length };
}

describe('no call outlives its patience', () => {
  it('when the source never reports its access, or does not read the last fix', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted' });
    device.readAccess = never;
    expect(await spent(clock, receiver.fix({ patience: 1 }))).to.deep.equal(['timed-out', 1]);
    expect(await spent(clock, oneFix({ source: device, clock, patience: 2 }))).to.deep.equal([
      'timed-out',
      2,
    ]);
    const quick = receiver.quickThenFresh({ patience: 3 });
    expect(await spent(clock, quick.next())).to.deep.equal(['timed-out', 3]);
    // Reading alone ends too, and reports nothing.
    expect(await clock.settle(receiver.readAccess())).to.include({ permission: 'unknown' });
    expect(receiver.$diagnostics.get().map(({ kind }) => kind)).to.include('unanswered');

    const second = setUp({ permission: 'granted' });
    second.device.cached = never;
    const first = await second.clock.settle(second.receiver.quickThenFresh().next());
    expect(first.value).to.include(hut);
  });

  it('when a prompt, the dialog for the switch or the app’s own card is never answered', async () => {
    const reported = setUp();
    reported.device.prompt = never;
    // The pretend device gives no position without a permission, and reports that.
    expect(await spent(reported.clock, reported.receiver.fix({ patience: 5 }))).to.deep.equal([
      'refused',
      900,
    ]);
    expect((await reported.clock.settle(reported.receiver.ask())).permission).to.equal('not-asked');
    const dialog = setUp({ permission: 'granted', switch: 'off' });
    Object.defineProperty(dialog.device, 'turnOnSwitch', { value: never });
    expect(await spent(dialog.clock, dialog.receiver.fix())).to.deep.equal(['switched-off', 900]);
    const card = setUp({}, { explain: never });
    expect(await spent(card.clock, card.receiver.fix())).to.deep.equal(['declined', 900]);
    expect(card.warnings.join()).to.include('the simulated device did not answer explain within 900 s');
  });

  it('counts one patience over all that is waited for, and not the user’s time', async () => {
    const { receiver, device, clock } = setUp({ thinking: 300, warmUp: 60 });
    const read = device.readAccess.bind(device);
    device.readAccess = async () => {
      await new Promise<void>((resolve) => clock.after(2, resolve));
      return read();
    };
    // Three readings of 2 s, the user's 300 s, and 4 s of the device.
    expect(await spent(clock, receiver.fix({ patience: 10 }))).to.deep.equal(['timed-out', 310]);
  });
});

describe('a browser that grants without a prompt, with a device that never answers', () => {
  it('ends within a minute and the patience where there is no interface for permissions', async () => {
    const { clock, receiver, restore } = platform(undefined);
    try {
      expect(await spent(clock, receiver.fix({ patience: 2 }))).to.deep.equal(['timed-out', 62]);
    } finally {
      restore();
    }
  });

  it(
    'ends after a quarter of an hour where the state stays “prompt”, and at once where a time-out ' +
      'tells of the answer',
    async () => {
      const status = Object.assign(new EventTarget(), { state: 'prompt' });
      const permissions = { query: () => Promise.resolve(status) };
      const silent = platform(permissions);
      try {
        expect(await spent(silent.clock, silent.receiver.fix({ patience: 2 }))).to.deep.equal([
          'timed-out',
          902,
        ]);
      } finally {
        silent.restore();
      }
      // By the standard, the time-out of a request begins when the user has answered, here after 600 ms.
      const standard = platform(permissions, {
        getCurrentPosition: (_found: unknown, failed: (error: object) => void) =>
          setTimeout(failed, 600, { code: 3, TIMEOUT: 3, PERMISSION_DENIED: 1 }),
      });
      try {
        const asked = standard.receiver.ask();
        expect((await asked).permission).to.equal('not-asked');
        expect(standard.open()).to.equal(0);
        expect(standard.receiver.$diagnostics.get()).to.deep.equal([]);
      } finally {
        standard.restore();
      }
    },
  );
});

describe('in Node, where nothing locates', () => {
  it('one fix and a receiver fail as unsupported, without noise', () => {
    const script = `
      import { Receiver, browserSource, oneFix } from 'aurelian-drift';
      const receiver = new Receiver({ source: browserSource(), purpose: 'Test.' });
      const kinds = [oneFix(), receiver.fix()].map((call) => call.catch(({ kind }) => kind));
      const follow = receiver.follow();
      follow.onEvent((event) => event.kind === 'failed' && kinds.push(event.error.kind));
      await follow.outcome;
      process.stdout.write((await Promise.all(kinds)).join());`;
    const node = ['--conditions=aurelian-source', '--import=tsx', '--input-type=module', '-e', script];
    const { stdout, stderr } = spawnSync(process.execPath, node, { encoding: 'utf8' });
    expect([stdout, stderr]).to.deep.equal(['unsupported,unsupported,unsupported', '']);
  });
});

describe('a last fix', () => {
  it('that is coarser than demanded is not accepted, however young', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted', reception: 'exact' });
    const watch = device.watch.bind(device);
    device.watch = (demand, sink) =>
      watch(demand, { ...sink, fix: (raw) => sink.fix({ ...raw, accuracy: 1500 }) });
    const coarse = await clock.settle(receiver.fix());
    expect(coarse.accuracy).to.equal(1500);
    device.watch = (demand, sink) =>
      watch(demand, { ...sink, fix: (raw) => sink.fix({ ...raw, accuracy: 8 }) });
    const good = await clock.settle(receiver.fix({ accuracy: 20, maxAge: 60 }));
    expect([good.accuracy, good.marks]).to.deep.equal([8, undefined]);
    expect((await clock.settle(receiver.fix({ accuracy: 20, maxAge: 60 }))).marks).to.deep.equal(['cached']);
  });
});

describe('a remedy', () => {
  it('for a switch that has no dialog opens its settings where the source can, and else has no act', async () => {
    const { receiver, device, clock } = setUp({
      permission: 'granted',
      switch: 'off',
      switchAnswer: 'impossible',
    });
    const { remedy } = await clock.settle(receiver.readAccess());
    await clock.settle(remedy!.act!());
    expect(device.settingsOpened).to.deep.equal(['switch']);
    const failure = await failureOf(clock.settle(receiver.fix()));
    await clock.settle(failure.remedy.act!());
    expect(device.settingsOpened).to.deep.equal(['switch', 'switch']);
    const bare = setUp({ permission: 'granted', switch: 'off', switchAnswer: 'impossible' });
    Object.defineProperty(bare.device, 'openSettings', { value: undefined });
    expect((await failureOf(bare.clock.settle(bare.receiver.fix()))).remedy).not.to.have.property('act');
  });

  it('the press on the card is the user’s act: strict mode reports nothing', async () => {
    const { receiver, device, clock } = setUp({}, { strict: true, explain: () => Promise.resolve('go-on') });
    device.acting = false;
    await clock.settle(receiver.ask());
    expect([device.prompts, receiver.$diagnostics.get()]).to.deep.equal([1, []]);
  });
});

describe('the screen that a follow keeps on', () => {
  it('delays no fix, is requested once, and is released also when it comes after the end', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted', background: 'none' });
    let held = 0;
    let grant = () => {};
    device.keepScreenOn = () =>
      new Promise((resolve) => {
        held++;
        grant = () => resolve(() => held--);
      });
    const follow = receiver.follow({ keepScreenOn: true });
    follow.onEvent((event) => event.kind === 'visible-only' && void event.keepScreenOn?.());
    let received = 0;
    follow.onFix(() => received++);
    await clock.advance(3);
    expect([held, received > 0]).to.deep.equal([1, true]);
    follow.stop();
    grant();
    await clock.advance(1);
    expect(held).to.equal(0);
  });

  it('of a page is released also when the platform grants it again after the end', async () => {
    let held = 0;
    const grants: (() => void)[] = [];
    const wakeLock = {
      request: () =>
        new Promise((resolve) => {
          grants.push(() => {
            held++;
            resolve({ release: () => Promise.resolve(held--) });
          });
        }),
    };
    const { restore, document } = platform(undefined, {}, { wakeLock });
    try {
      const asked = browserSource().keepScreenOn!();
      grants[0]!();
      const release = (await asked)!;
      // The page stops the platform watch when it is hidden and starts it when it is shown: twice, quickly.
      held--;
      document.dispatchEvent(new Event('visibilitychange'));
      document.dispatchEvent(new Event('visibilitychange'));
      grants[1]!();
      await Promise.resolve();
      release();
      grants[2]!();
      await new Promise((resolve) => setImmediate(resolve));
      // Clearing a watch twice is harmless, and never counts below zero here.
      expect(held).to.be.at.most(0);
      expect(grants).to.have.length(3);
    } finally {
      restore();
    }
  });
});
