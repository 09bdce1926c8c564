import { Receiver, Recorder, bridgeSource, type BridgeSource } from 'aurelian-drift';
import { VirtualClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { bridged, channel } from '../support/bridge.js';
import { hut, kindOf, route, takesOn } from '../support/device.js';

describe('the bridge to a native shell', () => {
  it('asks, reads levels and precision, and gets one fix', async () => {
    const { receiver, clock, device, shell, warnings } = bridged({ answer: 'once' });
    expect(await clock.settle(receiver.readAccess())).to.include({
      permission: 'not-asked',
      switch: 'on',
      scope: 'app',
    });
    expect(device.prompts).to.equal(0);
    expect(await clock.settle(receiver.fix())).to.include({ origin: 'simulated' });
    expect(receiver.$access.get()).to.include({ permission: 'granted', level: 'once', precision: 'precise' });
    expect([shell.refused, warnings]).to.deep.equal([[], []]);
  });

  it('brings radii of 68 % to the 95 % that a fix states', async () => {
    for (const confidence of [68, 95] as const) {
      const { receiver, clock, fromShell } = bridged({ permission: 'granted' }, { confidence });
      const { accuracy } = await clock.settle(receiver.fix());
      const reported = fromShell.find(({ kind }) => kind === 'fixes') as unknown as {
        fixes: { accuracy: number }[];
      };
      // √(ln 0.05 / ln 0.32), worked out by hand: 1.6215
      expect(accuracy! / reported.fixes[0]!.accuracy).to.be.closeTo(confidence === 68 ? 1.6215 : 1, 1e-4);
      expect(accuracy).to.be.closeTo(7.5, 0.1); // 2.4477 × √(3² + 0.7²) m under an open sky
    }
  });

  it('opens the dialog for the switch and the settings pages, as far as the shell can', async () => {
    const able = bridged({ permission: 'granted', switch: 'off' });
    expect(await able.clock.settle(able.receiver.fix())).to.have.property('lat');
    expect(able.device.dialogs).to.equal(1);
    const barred = bridged({ permission: 'barred', inSettings: (device) => device.grant() });
    expect(await kindOf(barred.clock.settle(barred.receiver.fix()))).to.equal('barred');
    await barred.clock.settle(barred.receiver.$access.get().remedy!.act!());
    expect([barred.device.settingsOpened, barred.receiver.$access.get().permission]).to.deep.equal([
      ['app'],
      'granted',
    ]);
    const unable = bridged({ permission: 'granted', switch: 'off' }, { abilities: [] });
    expect(await kindOf(unable.clock.settle(unable.receiver.fix()))).to.equal('switched-off');
    expect(unable.device.dialogs).to.equal(0);
  });

  it('follows on while the app is hidden, under the words given, and pauses one that is for the front', async () => {
    const { receiver, clock, device } = bridged({ route });
    const back = receiver.follow({ background: true, sign: 'On the round' });
    const front = receiver.follow();
    const recorder = new Recorder();
    recorder.start(back);
    front.onFix(() => {});
    await clock.advance(5);
    device.hide();
    await clock.advance(1);
    const before = recorder.trail.length;
    await clock.advance(60);
    expect(recorder.trail.length - before).to.equal(60);
    expect([front.state, device.sign, receiver.$access.get().level]).to.deep.equal([
      'paused',
      'On the round',
      'background',
    ]);
    device.show();
    await clock.advance(2);
    expect([front.state, receiver.lifeLog.map(({ kind }) => kind)]).to.deep.equal([
      'live',
      ['hidden', 'shown'],
    ]);
    back.stop();
    front.stop();
    await clock.advance(0);
    expect(device.watches).to.equal(0);
  });

  it('delivers delayed fixes as a bundle, with the original times', async () => {
    const { receiver, clock, device } = bridged({ route, permission: 'granted' });
    const recorder = new Recorder();
    recorder.start(receiver.follow());
    await clock.advance(5.5);
    device.asleep = true;
    await clock.advance(20);
    device.asleep = false;
    await clock.advance(0);
    const times = Array.from(recorder.trail, ({ time }) => time);
    expect(times).to.have.length(25);
    expect(new Set(times.slice(1).map((time, i) => time - times[i]!))).to.deep.equal(new Set([1000]));
    expect(receiver.deliveries.late).to.be.within(17, 20);
  });

  it('ends a follow as withdrawn when the shell reports it', async () => {
    const { receiver, clock, device } = bridged({ route, permission: 'granted' });
    const follow = receiver.follow();
    follow.onFix(() => {});
    follow.onEvent(takesOn);
    await clock.advance(3);
    device.withdraw();
    await clock.advance(1);
    expect([follow.error?.kind, follow.error?.remedy.id]).to.deep.equal(['withdrawn', 'open-settings']);
  });

  it('has the platform’s last fix, and keeps the screen on', async () => {
    const { receiver, clock, device, source } = bridged({ permission: 'granted' });
    expect(await clock.settle(source.readAccess())).to.include({ permission: 'granted' });
    expect(await clock.settle(source.cached!())).to.equal(undefined);
    const fix = await clock.settle(receiver.fix());
    expect((await clock.settle(source.cached!()))!.lat).to.equal(fix.lat);
    const follow = receiver.follow({ keepScreenOn: true });
    follow.onFix(() => {});
    await clock.advance(2);
    expect(device.screenHolds).to.equal(1);
    follow.stop();
    await clock.advance(0);
    expect(device.screenHolds).to.equal(0);
  });

  it('without a hello in time is unsupported, with a message', async () => {
    const clock = new VirtualClock();
    const warnings: string[] = [];
    const { page } = channel();
    const source: BridgeSource = bridgeSource(page, {
      clock,
      patience: 3,
      warn: (text) => warnings.push(text),
    });
    const receiver = new Receiver({ source, clock, purpose: 'Test.', warn: () => {} });
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('unsupported');
    expect(warnings).to.deep.equal([
      'the shell did not say hello within 3 s: there is no positioning without it',
    ]);
  });

  const broken: readonly [string, unknown, string][] = [
    ['text', 'hello', 'a message must be an object'],
    [
      'another version',
      { drift: 1, kind: 'fixes', watch: 1, fixes: [] },
      'version 1 is not spoken here; drift must be 2',
    ],
    [
      'a field of the wrong type',
      { drift: 2, kind: 'fixes', watch: 'one', fixes: [] },
      'fixes: watch should be number, got "one"',
    ],
    ['an answer to no question', { drift: 2, kind: 'done', id: 99 }, 'there is no open question 99'],
  ];
  for (const [what, message, reason] of broken) {
    it(`refuses ${what}, tells the shell the problem, and continues`, async () => {
      const { receiver, clock, source, ports, shell, warnings } = bridged({ permission: 'granted', route });
      const follow = receiver.follow();
      follow.onFix(() => {});
      await clock.advance(3);
      ports.shell.postMessage(message);
      await clock.advance(3);
      expect(source.refusals.count).to.equal(1);
      expect(source.refusals.last).to.include(reason);
      expect(shell.refused[0]).to.include(reason);
      expect(warnings.join()).to.include(reason);
      expect(follow.state).to.equal('live');
    });
  }

  it('refuses a page’s broken message on the shell’s side as well', async () => {
    const { clock, ports, warnings, receiver } = bridged({ permission: 'granted' });
    await clock.settle(receiver.readAccess());
    ports.page.postMessage({ drift: 2, kind: 'ask', session: 'session-0', id: 7, level: 'always' });
    await clock.advance(0);
    expect(warnings.join()).to.include('refused a message: ask: level should be');
  });

  it('counts an invalid fix like any other source, and drops messages for a stopped watch', async () => {
    const { receiver, clock, ports, source } = bridged({ permission: 'granted', route });
    const follow = receiver.follow();
    follow.onFix(() => {});
    await clock.advance(3);
    ports.shell.postMessage({
      drift: 2,
      kind: 'fixes',
      watch: 1,
      fixes: [{ time: clock.now(), lat: 120, lon: 3 }],
    });
    ports.shell.postMessage({
      drift: 2,
      kind: 'fixes',
      watch: 77,
      fixes: [{ time: clock.now(), lat: 20, lon: 3 }],
    });
    await clock.advance(1);
    expect([receiver.deliveries.impossible >= 0, source.refusals.count, follow.state]).to.deep.equal([
      true,
      0,
      'live',
    ]);
    expect(receiver.$fix.get()!.lat).to.be.closeTo(hut.lat, 0.01);
  });
});

describe('a shell whose answers break the rules, or never come', () => {
  /** A hand-made shell: sends hello, grants when asked, and answers one kind of message as a test defines. */
  function byHand(answer: (message: { id?: number; kind: string }, send: (message: object) => void) => void) {
    const clock = new VirtualClock();
    const { page, shell } = channel();
    const warnings: string[] = [];
    const warn = (text: string) => void warnings.push(text);
    const send = (message: object) => shell.postMessage({ drift: 2, ...message });
    shell.addEventListener('message', ({ data }) => {
      const message = data as { id?: number; kind: string; watch: number; nonce?: string };
      const fix = { time: clock.now(), lat: hut.lat, lon: hut.lon };
      if (message.kind === 'hello')
        send({
          kind: 'hello',
          nonce: message.nonce,
          version: 2,
          session: 'by hand 1',
          shell: 'by hand',
          confidence: 95,
          abilities: ['last-fix', 'keep-screen-on'],
        });
      else if (message.kind === 'ask') send({ kind: 'done', id: message.id });
      else if (message.kind === 'watch') send({ kind: 'fixes', watch: message.watch, fixes: [fix] });
      else if (message.id !== undefined) answer(message, send);
    });
    const receiver = new Receiver({
      source: bridgeSource(page, { clock, warn }),
      clock,
      purpose: 'Test.',
      warn,
    });
    return { clock, receiver, warnings };
  }

  it('access with one wrong value says nothing about it, and the rest counts', async () => {
    const { clock, receiver, warnings } = byHand(({ id }, send) =>
      send({ kind: 'access', id, access: { permission: 'granted', precision: 'fine' } }),
    );
    expect(await clock.settle(receiver.fix({ patience: 1 }))).to.include(hut);
    expect(receiver.$access.get()).to.include({ permission: 'granted', precision: 'unknown' });
    expect(warnings.join()).to.include('access: access.precision should be');
  });

  it(
    'without any answer a fix ends with its patience, and a follow continues after that ' + 'of the bridge',
    async () => {
      const { clock, receiver, warnings } = byHand(() => {});
      const since = clock.now();
      expect(await kindOf(clock.settle(receiver.fix({ patience: 1 })))).to.equal('timed-out');
      expect(clock.now() - since).to.equal(1000);
      const follow = receiver.follow({ keepScreenOn: true });
      let received = 0;
      follow.onFix(() => received++);
      await clock.advance(30);
      expect([received, follow.running]).to.deep.equal([1, true]);
      expect(warnings.join()).to.include('did not answer read-access within 5 s');
      follow.stop();
      expect((await clock.settle(receiver.quickThenFresh().next())).value).to.include(hut);
    },
  );

  it('has no remedy that it cannot do', async () => {
    const { clock, receiver } = byHand(({ id }, send) =>
      send({ kind: 'access', id, access: { permission: 'granted', switch: 'off' } }),
    );
    const { remedy } = await clock.settle(receiver.readAccess());
    expect([remedy!.id, remedy!.act]).to.deep.equal(['turn-on-switch', undefined]);
  });
});
