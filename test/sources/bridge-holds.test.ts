import {
  FenceWatch,
  Receiver,
  Recorder,
  ahead,
  bridgeSource,
  dutyCycling,
  functionPort,
  textPort,
  type BridgePort,
  type Clock,
  type Crossing,
  type NoFixError,
} from 'aurelian-drift';
import { BRIDGE_VERSION } from 'aurelian-drift/internal';
import { SimulatedDevice, VirtualClock, simulatedShell } from 'aurelian-drift/testing';
import { expect } from 'chai';
import fc from 'fast-check';
import { bridgeSchema } from '../../scripts/bridge-schema.js';
import { bridged, channel, isFromPage, isFromShell, offSchema, schema } from '../support/bridge.js';
import { hut, kindOf, route, takesOn } from '../support/device.js';

const kinds = (messages: readonly { kind: string }[]) => messages.map(({ kind }) => kind);
const watchIn = (messages: readonly { kind: string }[]) =>
  (messages.find(({ kind }) => kind === 'watch') as unknown as { watch: number }).watch;
const USER = 900;

describe('a bridge whose far end fails', () => {
  it('ends every call within its time when no answer comes', async () => {
    const clock = new VirtualClock();
    const ports = channel();
    ports.shell.addEventListener('message', ({ data }) => {
      const { kind, nonce } = data as { kind: string; nonce: string };
      const abilities = ['turn-on-switch', 'open-settings', 'last-fix', 'keep-screen-on'];
      if (kind === 'hello')
        ports.shell.postMessage({
          drift: 2, kind: 'hello', nonce, version: 2, session: 'session-x', shell: 'silent', confidence: 95, abilities,
        }); // prettier-ignore
    });
    const source = bridgeSource(ports.page, { clock, warn() {} });
    expect(await clock.settle(source.readAccess())).to.deep.equal({});
    const calls: [() => Promise<unknown>, number, unknown][] = [
      [() => source.readAccess(), 5, {}],
      [async () => source.cached?.(), 5, undefined],
      [() => source.keepScreenOn!(), 5, undefined],
      [() => source.prompt('foreground'), USER, undefined],
      [() => source.turnOnSwitch!({ maxAge: 0 }), USER, 'impossible'],
      [() => source.openSettings!('app'), USER, false],
    ];
    for (const [call, seconds, outcome] of calls) {
      const since = clock.now();
      expect(await clock.settle(call())).to.deep.equal(outcome);
      expect(clock.now() - since).to.equal(seconds * 1000);
    }
    // A call under way ends with the bridge.
    const asked = source.prompt('foreground');
    source.close();
    await asked;
    source.close();
  });

  it('goes on with another port when one was closed, after a gap, and tells of it meanwhile', async () => {
    const { receiver, clock, device, source, closeShell, ports, warnings } = bridged({
      route,
      permission: 'granted',
    });
    const follow = receiver.follow();
    const told: string[] = [];
    follow.onEvent(({ kind }) => void told.push(kind));
    const recorder = new Recorder();
    recorder.start(follow);
    await clock.advance(10);
    const asking = source.prompt('background');
    closeShell();
    await asking; // it gets no answer any more
    await clock.advance(30);
    expect(told).to.include('outage').and.to.include('silent');
    expect(warnings.join()).to.include('has closed its port');
    const before = recorder.trail.length;
    const again = channel();
    simulatedShell(again.shell, device, { clock });
    source.use(again.page);
    await clock.advance(10);
    expect(recorder.trail.length).to.be.within(before + 8, before + 11);
    expect(recorder.trail.segments.length).to.equal(2);
    expect(follow.state).to.equal('live');
    expect(offSchema(ports).concat(offSchema(again))).to.deep.equal([]);
    follow.stop();
    await clock.advance(0);
    expect(kinds(again.fromPage).at(-1)).to.equal('stop');
  });

  it('opens its watches again for a shell that has restarted, also when one rests', async () => {
    const { receiver, clock, shell, fromPage, fromShell, source } = bridged({ route, permission: 'granted' });
    const recorder = new Recorder();
    const follow = receiver.follow();
    recorder.start(follow);
    await clock.advance(10);
    const unanswered = source.cached!();
    shell.restart();
    await clock.settle(unanswered);
    await clock.advance(10);
    expect(kinds(fromPage).filter((kind) => kind === 'hello').length).to.be.above(1);
    expect(kinds(fromPage).lastIndexOf('watch')).to.be.above(kinds(fromPage).lastIndexOf('hello'));
    expect(recorder.trail.segments.length).to.equal(2);
    expect(recorder.trail.length).to.be.at.least(18);
    expect(offSchema({ fromPage, fromShell })).to.deep.equal([]);
  });

  it('takes a hello that comes late, and one of another version or another page for none', async () => {
    const clock = new VirtualClock();
    const ports = channel();
    const warnings: string[] = [];
    const source = bridgeSource(ports.page, { clock, warn: (text) => warnings.push(text) });
    const receiver = new Receiver({ source, clock, purpose: 'Test.', warn() {} });
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('unsupported');
    const { nonce } = ports.fromPage[0] as unknown as { nonce: string };
    const hello = (change: object) =>
      ports.shell.postMessage({
        drift: 2, kind: 'hello', nonce, version: 2, session: 'session-y', shell: 's', confidence: 95, ...change,
      }); // prettier-ignore
    hello({ nonce: 'of another page' });
    hello({ version: 3 });
    await clock.advance(0);
    expect(source.refusals.count).to.equal(2);
    expect(await clock.settle(source.readAccess())).to.deep.equal({ support: 'no' });
    ports.shell.postMessage({ drift: 2, kind: 'gap', watch: 1 });
    await clock.advance(0);
    expect(source.refusals.last).to.equal('gap came before hello');
    const device = new SimulatedDevice({ at: hut, clock, permission: 'granted' });
    simulatedShell(ports.shell, device, { clock }).restart();
    await clock.advance(0);
    expect((await clock.settle(receiver.fix())).lat).to.be.closeTo(hut.lat, 0.001);
  });
});

describe('a bridge that grows', () => {
  it('leaves alone what it does not know, with one notice each', async () => {
    const { receiver, clock, ports, source, warnings } = bridged(
      { route, permission: 'granted' },
      { abilities: ['rest', 'sing' as never] },
    );
    const follow = receiver.follow();
    follow.onFix(() => {});
    await clock.advance(3);
    for (let i = 0; i < 5; i++) {
      ports.shell.postMessage({ drift: 2, kind: 'weather', rain: true });
      ports.shell.postMessage({ drift: 2, kind: 'gap', watch: 1, reason: 'none' });
      await clock.advance(1);
    }
    expect(source.refusals.count).to.equal(0);
    const notices = warnings.filter((text) => text.includes('not known here'));
    expect(notices).to.have.length(3);
    expect(notices.join()).to.include('"sing"').and.to.include('"weather"').and.to.include('"reason" of gap');
    expect(follow.state).to.equal('live');
  });

  it('takes −1 and a strange origin for unknown, refuses an impossible fix by message, and counts it', async () => {
    const { receiver, clock, ports, fromPage, source, shell } = bridged({
      at: hut,
      permission: 'granted',
      warmUp: 3600,
    });
    const follow = receiver.follow();
    const fixes: object[] = [];
    follow.onFix((fix) => void fixes.push(fix));
    await clock.advance(1);
    const time = clock.now();
    const unknown = {
      accuracy: -1,
      altitude: 12,
      altitudeAccuracy: -1,
      speed: -1,
      course: -1,
      origin: 'dream',
    };
    ports.shell.postMessage({
      drift: 2,
      kind: 'fixes',
      watch: watchIn(fromPage),
      fixes: [
        { time, lat: 120, lon: 3 },
        { time, ...hut, ...unknown },
      ],
    });
    await clock.advance(1);
    expect(fixes).to.have.length(1);
    expect(fixes[0]).to.include({ ...hut, origin: 'unknown' });
    for (const name of ['accuracy', 'altitude', 'speed', 'course'])
      expect((fixes[0] as Record<string, unknown>)[name], name).to.equal(undefined);
    expect([source.refusals.count, receiver.deliveries.impossible]).to.deep.equal([1, 1]);
    expect(shell.refused.join()).to.include('latitude');
    ports.shell.postMessage({
      drift: 2,
      kind: 'trouble',
      watch: watchIn(fromPage),
      failure: 'eclipse',
      note: 'total',
    });
    follow.onEvent(takesOn);
    await clock.advance(1);
    expect([follow.error?.kind, follow.error?.message]).to.satisfy(
      ([kind, message]: [string, string]) => kind === 'unknown' && message.includes('"eclipse": total'),
    );
  });

  it('takes batches up to a limit', async () => {
    const { receiver, clock, ports, fromPage, source } = bridged({
      at: hut,
      permission: 'granted',
      warmUp: 3600,
    });
    const recorder = new Recorder();
    recorder.start(receiver.follow());
    await clock.advance(1);
    const message = (i: number) => ({
      drift: 2, kind: 'fixes', watch: watchIn(fromPage), fixes: [{ time: clock.now() + i, ...hut }],
    }); // prettier-ignore
    const batch = (length: number) => Array.from({ length }, (_, i) => message(i));
    ports.shell.postMessage(batch(1000));
    await clock.advance(0);
    expect(recorder.trail.length).to.equal(1000);
    ports.shell.postMessage(batch(1001));
    await clock.advance(0);
    expect([recorder.trail.length, source.refusals.last]).to.deep.equal([
      1000,
      'a batch has 1001 messages, 1000 at most',
    ]);
    expect([isFromShell(batch(1000)), isFromShell(batch(1001))]).to.deep.equal([true, false]);
  });

  it('has a published schema, made of what is checked', () => {
    expect(schema).to.deep.equal(JSON.parse(JSON.stringify(bridgeSchema)));
    expect(isFromPage({ drift: 2, kind: 'ask', session: 'session-1', id: 1, level: 'always' })).to.equal(
      false,
    );
    expect(isFromPage({ drift: 2, kind: 'stop', session: 'session-1', watch: 1, later: true })).to.equal(
      true,
    );
    expect(BRIDGE_VERSION).to.equal(2);
  });
});

describe('any port', () => {
  const pairs: Readonly<Record<string, () => ReturnType<typeof channel>>> = {
    'JSON texts over a port': () => {
      const raw = channel();
      return { ...raw, page: textPort(raw.page), shell: textPort(raw.shell) };
    },
    'two functions': () => {
      const raw = channel();
      const shell = functionPort((text) => queueMicrotask(() => page.receive(text)));
      const page = functionPort((text) => queueMicrotask(() => shell.receive(JSON.parse(text))));
      return { ...raw, page, shell };
    },
  };
  for (const [what, make] of Object.entries(pairs))
    it(`carries the whole exchange: ${what}`, async () => {
      const { receiver, clock, source, device } = bridged({ route, answer: 'grant' }, {}, make());
      const recorder = new Recorder();
      const follow = receiver.follow({ background: true });
      recorder.start(follow);
      await clock.advance(20);
      device.hide();
      await clock.advance(20);
      expect(recorder.trail.length).to.be.within(36, 41);
      expect(source.refusals.count).to.equal(0);
      source.close();
      await clock.advance(1);
      expect(device.watches).to.equal(0);
    });

  it('refuses a text that is no JSON', () => {
    let post: (message: unknown) => void = () => {};
    const port: BridgePort = {
      postMessage() {},
      addEventListener: (kind, listener) => {
        if (kind === 'message') post = (data) => listener({ data });
      },
    };
    const source = bridgeSource(textPort(port), { clock: new VirtualClock(), warn() {} });
    for (const text of ['{', 'hello', '7', 'null']) post(text);
    expect(source.refusals.count).to.equal(4);
  });
});

describe('who may speak', () => {
  it('is a page of a known origin that has said hello, by its session', async () => {
    const stranger = bridged({ at: hut }, { origins: ['https://app.example'] });
    expect(await kindOf(stranger.clock.settle(stranger.receiver.fix()))).to.equal('unsupported');
    expect(stranger.shell.refused[0]).to.equal('hello: pages of no origin may not speak here');

    const { receiver, clock, ports, shell, device } = bridged({ at: hut, permission: 'granted' });
    await clock.settle(receiver.fix());
    const refused = shell.refused.length;
    ports.page.postMessage({ drift: 2, kind: 'open-settings', session: 'a guess of it', id: 1, page: 'app' });
    ports.page.postMessage({ drift: 2, kind: 'watch', watch: 9, maxAge: 0 });
    await clock.advance(1);
    expect(shell.refused.slice(refused)).to.deep.equal([
      'open-settings: this is not the session of the page that said hello',
      'watch: this is not the session of the page that said hello',
    ]);
    expect([device.settingsOpened, device.watches]).to.deep.equal([[], 0]);
  });
});

describe('a follow over the bridge', () => {
  it('changes its demand, and never stops while somebody follows', async () => {
    const { receiver, clock, fromPage, fromShell } = bridged({ route, permission: 'granted' });
    const coarse = receiver.follow({ every: 60, accuracy: 1000 });
    coarse.onFix(() => {});
    await clock.advance(10);
    const fine = receiver.follow({ every: 1 });
    fine.onFix(() => {});
    await clock.advance(10);
    fine.stop();
    await clock.advance(10);
    const watching = ['watch', 'change', 'rest', 'stop'];
    expect(kinds(fromPage).filter((kind) => watching.includes(kind))).to.deep.equal([
      'watch',
      'change',
      'change',
    ]);
    coarse.stop();
    await clock.advance(1);
    expect(kinds(fromPage).at(-1)).to.equal('stop');
    expect(offSchema({ fromPage, fromShell })).to.deep.equal([]);
  });

  /** The clock of a page that sleeps: an alarm of more than a few seconds rings ten minutes late. */
  const sleepy = (clock: Clock): Clock => ({
    now: () => clock.now(),
    after: (seconds, action) => clock.after(seconds > 4 ? seconds + 600 : seconds, action),
  });

  it('rests by the alarm of the shell, so that a crossing is told in time although the page sleeps', async () => {
    const clock = new VirtualClock();
    const ports = channel();
    const start = ahead(hut, 270, 400);
    const device = new SimulatedDevice({
      route: [start, ahead(hut, 90, 400)], clock, permission: 'granted', reception: 'exact', background: 'by-level',
    }); // prettier-ignore
    simulatedShell(ports.shell, device, { clock });
    const page = sleepy(clock);
    const receiver = new Receiver({
      source: bridgeSource(ports.page, { clock: page, warn() {} }),
      clock: page,
      purpose: 'Test.',
      warn() {},
    });
    const watch = new FenceWatch([{ kind: 'circle', id: 'f', name: 'F', centre: hut, radius: 50 }]);
    const follow = receiver.follow({
      every: 300,
      dutyCycling: dutyCycling({ nearestEdge: (at) => watch.nearestEdge(at), lateness: 15 }),
    });
    const told: { readonly crossing: Crossing; readonly at: number }[] = [];
    follow.onFix((fix) => {
      for (const crossing of watch.take(fix)) told.push({ crossing, at: clock.now() });
    });
    await clock.advance(700);
    const enter = told.find(({ crossing }) => crossing.kind === 'enter')!;
    expect((enter.at - enter.crossing.time) / 1000).to.be.within(0, 20); // lateness, and the warm-up of the device
    expect(kinds(ports.fromPage)).to.include('rest').and.not.to.include('stop');
    const { receiverOn } = receiver.usage;
    expect(receiverOn, 'the device rests for a good part of 700 s').to.be.below(500);
    expect(offSchema(ports)).to.deep.equal([]);
  });

  it('goes on where a shell cannot rest, and says so once', async () => {
    const { receiver, clock, fromPage, warnings } = bridged(
      { at: hut, permission: 'granted' },
      { abilities: [] },
    );
    const follow = receiver.follow({ every: 60, dutyCycling: dutyCycling() });
    follow.onFix(() => {});
    await clock.advance(600);
    expect(kinds(fromPage)).to.not.include('rest').and.not.include('stop');
    expect(warnings.filter((text) => text.includes('cannot rest'))).to.have.length(1);
    expect(follow.state).to.be.oneOf(['live', 'still']);
  });

  it('is told at once that the switch was turned off in mid-course, in words for an app', async () => {
    const { receiver, clock, device } = bridged({ route, permission: 'granted', switchAnswer: 'impossible' });
    const follow = receiver.follow();
    follow.onFix(() => {});
    follow.onEvent(takesOn);
    await clock.advance(5);
    device.switchedOn = false;
    await clock.advance(0);
    expect(follow.error?.kind).to.equal('switched-off');
    device.switchedOn = true;
    device.withdraw();
    const error = await clock.settle(receiver.fix()).catch((failure: unknown) => failure);
    expect((error as NoFixError).remedy.text)
      .to.include('settings')
      .and.not.match(/address|site|page/);
  });

  it('asks a shell that goes on with a sign for no more than the foreground', async () => {
    for (const [background, level] of [
      ['with-sign', 'foreground'],
      ['by-level', 'background'],
    ] as const) {
      const { receiver, clock, fromPage } = bridged({ route, background }, { background });
      const follow = receiver.follow({ background: true, sign: 'On the round' });
      follow.onFix(() => {});
      await clock.advance(5);
      expect(fromPage.find(({ kind }) => kind === 'ask')).to.include({ level });
    }
  });
});

describe('a bridge with anything on it', () => {
  const value = fc.oneof(
    fc.constantFrom(
      undefined,
      null,
      -1,
      0,
      1,
      2,
      1e9,
      '',
      'x',
      'granted',
      'off',
      true,
      NaN,
      'no-signal',
      'hidden',
    ),
    fc.jsonValue({ maxDepth: 2 }),
  );
  const field = fc.constantFrom(
    'drift', 'kind', 'id', 'watch', 'nonce', 'version', 'session', 'access', 'fixes', 'failure', 'event', 'result', 'x',
  ); // prettier-ignore
  const act = fc.record({
    take: fc.nat(40),
    change: fc.option(fc.tuple(field, value), { nil: undefined }),
    wait: fc.constantFrom(0, 0, 0, 1, 20),
  });

  it('ends every call, and keeps nothing, however messages are changed, repeated and reordered', async () => {
    await fc.assert(
      fc.asyncProperty(fc.array(act, { minLength: 3, maxLength: 25 }), async (acts) => {
        const { receiver, clock, device, source, fromShell, ports } = bridged({
          route,
          answer: ['refuse', 'grant'],
        });
        let ended = 0;
        const count = () => ended++;
        const calls = [receiver.fix({ patience: 5 }), receiver.ask('background'), receiver.readAccess()];
        for (const call of calls) call.then(count, count);
        const follow = receiver.follow();
        follow.onEvent(takesOn);
        follow.onFix(() => {});
        for (const { take, change, wait } of acts) {
          await clock.advance(wait);
          const said = fromShell[take % Math.max(1, fromShell.length)] ?? {};
          const message = change === undefined ? said : { ...said, [change[0]]: change[1] };
          ports.shell.postMessage(JSON.parse(JSON.stringify(message)));
        }
        await clock.advance(2 * USER + 120);
        expect(ended).to.equal(calls.length);
        source.close();
        receiver.close();
        await clock.advance(1);
        expect(device.watches).to.equal(0);
      }),
      {
        numRuns: 60,
        seed: 25,
        // A hello that comes again with another session once left a watch open on the device.
        examples: [
          [
            [
              { take: 0, change: ['session', '        '], wait: 0 },
              { take: 1, change: undefined, wait: 0 },
            ],
          ],
        ],
      },
    );
  });
});
