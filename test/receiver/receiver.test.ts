import type { NoFixError } from 'aurelian-drift';
import { Receiver, Trail, ahead, distance, fixFrom, type Fix, type Source } from 'aurelian-drift';
import { SimulatedDevice, VirtualClock, replaySource } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { hut, kindOf, route, setUp } from '../support/device.js';

describe('access', () => {
  it('is read without a prompt, however often', async () => {
    const { receiver, device } = setUp();
    for (let i = 0; i < 10; i++) expect((await receiver.readAccess()).permission).to.equal('not-asked');
    expect(device.prompts).to.equal(0);
  });

  it('of an environment that cannot locate fails at once as unsupported, without a prompt', async () => {
    const { device, clock } = setUp();
    const none: Source = {
      name: 'nothing',
      supported: false,
      readAccess: async () => ({ ...(await device.readAccess()), support: 'no' }),
      prompt: (level) => device.prompt(level),
      watch: () => () => {},
    };
    const receiver = new Receiver({ source: none, purpose: 'Test.', clock });
    expect(receiver.$access.get().support).to.equal('no');
    const failure = await receiver.fix().catch((error: unknown) => error as NoFixError);
    expect(failure).to.include({ kind: 'unsupported', userText: 'This device cannot find its position.' });
    expect(device.prompts).to.equal(0);
  });

  it('distinguishes refused, barred, switched off and forbidden, each with its own remedy', async () => {
    const remedies = new Set<string>();
    const failing = async (receiver: Receiver, clock: VirtualClock) => {
      const kind = await kindOf(clock.settle(receiver.fix()));
      remedies.add(receiver.$access.get().remedy!.id);
      return kind;
    };
    const refused = setUp({ answer: 'refuse' });
    expect(await failing(refused.receiver, refused.clock)).to.equal('refused');
    const barred = setUp({ permission: 'barred' });
    expect(await failing(barred.receiver, barred.clock)).to.equal('barred');
    expect(barred.device.prompts).to.equal(0);
    const off = setUp({ permission: 'granted', switchAnswer: 'impossible' });
    off.device.switchedOn = false;
    expect(await failing(off.receiver, off.clock)).to.equal('switched-off');
    expect(off.receiver.$access.get()).to.include({ permission: 'granted', switch: 'off' });
    const framed = setUp();
    framed.device.readAccess = () =>
      Promise.resolve({ ...off.receiver.$access.get(), switch: 'on', policy: 'forbidden' });
    expect(await failing(framed.receiver, framed.clock)).to.equal('forbidden');
    expect([...remedies]).to.deep.equal(['ask-again', 'open-settings', 'turn-on-switch', 'allow-in-frame']);
  });

  it('asks again after a plain refusal, and takes the new answer', async () => {
    const { receiver, device, clock } = setUp({ answer: 'refuse' });
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('refused');
    device.answer = 'grant';
    expect(await clock.settle(receiver.fix())).to.include(hut);
    expect(device.prompts).to.equal(2);
  });

  it('is a live value: a grant and its withdrawal are seen by whoever looks', async () => {
    const { receiver, device, clock } = setUp();
    const seen: string[] = [];
    receiver.$access.subscribe(({ permission }) => {
      if (seen.at(-1) !== permission) seen.push(permission);
    });
    await clock.settle(receiver.ask());
    device.withdraw();
    await clock.advance(0);
    device.reset();
    await clock.advance(0);
    expect(seen).to.deep.equal(['unknown', 'not-asked', 'granted', 'barred', 'not-asked']);
  });
});

describe('one fix', () => {
  it('is the place, to the last digit, with its origin', async () => {
    const { receiver, clock } = setUp();
    const fix = await clock.settle(receiver.fix());
    expect(fix).to.include({ ...hut, origin: 'simulated', accuracy: 0 });
    expect(fix).not.to.have.any.keys('altitude', 'course', 'marks');
  });

  it('waits 20 s for the answer without charging it to the patience', async () => {
    const { receiver, device, clock } = setUp({ thinking: 20, warmUp: 3 });
    const states: string[] = [];
    receiver.$status.subscribe(({ state }) => states.push(state));
    const asked = clock.now();
    let watchedAt = 0;
    const watch = device.watch.bind(device);
    device.watch = (demand, sink) => {
      watchedAt = clock.now();
      return watch(demand, sink);
    };
    await clock.settle(receiver.fix({ patience: 5 }));
    expect(watchedAt - asked).to.equal(20_000);
    expect(states.filter((state, i) => state !== states[i - 1])).to.deep.equal([
      'idle',
      'asking',
      'idle',
      'waiting',
      'ready',
    ]);
    expect(device.watches).to.equal(0);
  });

  it('that three presses asked for is one prompt, one watch and one answer', async () => {
    const { receiver, device, clock } = setUp({ thinking: 4 });
    const [a, b, c] = await clock.settle(Promise.all([receiver.fix(), receiver.fix(), receiver.fix()]));
    expect([device.prompts, b, c]).to.deep.equal([1, a, a]);
  });

  it('times out as such when patience ends without a word, and not as a refusal', async () => {
    const { receiver, device, clock } = setUp({ warmUp: 60 });
    const asked = clock.now();
    expect(await kindOf(clock.settle(receiver.fix({ patience: 10 })))).to.equal('timed-out');
    expect(clock.now() - asked).to.equal(10_000);
    expect(device.watches).to.equal(0);
  });

  it('without a signal ends as no-signal when patience ends; a retry when it is back succeeds', async () => {
    const { receiver, device, clock } = setUp();
    device.signal = false;
    expect(await kindOf(clock.settle(receiver.fix({ patience: 10 })))).to.equal('no-signal');
    device.signal = true;
    expect(await clock.settle(receiver.fix())).to.include(hut);
  });

  it(
    'waits past coarse fixes for the accuracy asked, and offers the best marked coarse when patience ' +
      'ends',
    async () => {
      const { receiver, clock } = setUp({ reception: 'trees', seed: 2 });
      const coarse = await clock.settle(receiver.fix({ accuracy: 5, patience: 10 }));
      expect(coarse.marks).to.deep.equal(['coarse']);
      expect(await clock.settle(receiver.fix({ accuracy: 50 }))).not.to.have.property('marks');
    },
  );

  it('may be an old one, marked cached, when it is young enough', async () => {
    const { receiver, clock } = setUp();
    const first = await clock.settle(receiver.fix());
    await clock.advance(60);
    expect(await receiver.fix({ maxAge: 90 })).to.deep.equal({ ...first, marks: ['cached'] });
    expect((await clock.settle(receiver.fix({ maxAge: 30 }))).time).to.be.above(first.time);
  });

  it('ends with the signal’s own reason, even while the user is asked', async () => {
    const { receiver, device, clock } = setUp({ answer: 'ignore' });
    const abort = new AbortController();
    const call = receiver.fix({ signal: abort.signal });
    call.catch(() => {});
    await clock.advance(1);
    abort.abort(new Error('the screen was closed'));
    await call.then(
      () => expect.fail('it went on'),
      (reason: unknown) => expect((reason as Error).message).to.equal('the screen was closed'),
    );
    expect(device.watches).to.equal(0);
  });

  it('before there was one is absent, not zeros; after, it has an age', async () => {
    const { receiver, clock } = setUp();
    expect(receiver.lastFix()).to.equal(undefined);
    expect(receiver.$fix.get()).to.equal(undefined);
    const fix = await clock.settle(receiver.fix());
    await clock.advance(65);
    expect(receiver.lastFix()).to.deep.equal({ fix, age: 65 });
  });

  it('refuses options it does not know, and milliseconds where seconds are due', async () => {
    const { receiver } = setUp();
    const message = (options: object) =>
      receiver.fix(options).catch((error: unknown) => (error as Error).message);
    expect(await message({ pateince: 3 })).to.equal('fix has no option "pateince", did you mean "patience"?');
    expect(await message({ patience: 15_000 })).to.include('did you mean 15 s?');
    expect(await message({ accuracy: '10' })).to.equal('fix: accuracy must be a number of metres, got "10"');
    expect(() => new Receiver({ purpose: 'Test.' } as never)).to.throw('source is missing');
    expect(() => new Receiver({ source: setUp().device, purpose: '  ' })).to.throw('purpose must be a text');
  });
});

describe('a follow', () => {
  it('gives fix after fix, the first one flagged, until its handle stops it; then nothing more', async () => {
    const { receiver, device, clock } = setUp({ route });
    const seen: [number, boolean][] = [];
    const follow = receiver.follow();
    follow.onFix((fix, { first }) => seen.push([fix.time, first]));
    await clock.advance(5.5);
    expect(seen.map(([, first]) => first)).to.deep.equal([true, false, false, false, false]);
    expect([receiver.receiving, device.watches, receiver.$status.get().state]).to.deep.equal([
      true,
      1,
      'following',
    ]);
    expect(follow.stop()).to.equal(true);
    await clock.advance(10);
    expect(seen).to.have.length(5);
    expect([receiver.receiving, device.watches, receiver.$status.get().state]).to.deep.equal([
      false,
      0,
      'idle',
    ]);
    expect(follow.stop()).to.equal(false);
    expect(await follow.outcome).to.equal('stopped');
  });

  it('shared by three is one watch, and each gets every fix once', async () => {
    const { receiver, device, clock } = setUp({ route, permission: 'granted' });
    const counts = [0, 0, 0];
    const follows = counts.map((_, i) => {
      const follow = receiver.follow();
      follow.onFix(() => counts[i]!++);
      return follow;
    });
    await clock.advance(4.5);
    expect([device.watches, ...counts]).to.deep.equal([1, 4, 4, 4]);
    follows[0]!.stop();
    follows[1]!.stop();
    await clock.advance(2);
    expect([device.watches, ...counts]).to.deep.equal([1, 4, 4, 6]);
    follows[2]!.stop();
    expect(device.watches).to.equal(0);
  });

  it('lets a fix through exactly when both every and beyond are met', async () => {
    // One fix a second at 5 m/s: 10 s are 50 m, 25 m are 5 s, so 10 s decides; then the walker stands.
    const time = Date.UTC(2026, 4, 14, 8);
    const made = Array.from({ length: 61 }, (_, i) => ({
      time: time + i * 1000,
      ...ahead(hut, 90, Math.min(i, 30) * 5),
    }));
    const clock = new VirtualClock(time);
    const receiver = new Receiver({ source: replaySource(Trail.from(made), clock), purpose: 'Test.', clock });
    const passed = (options: object) => {
      const follow = receiver.follow(options);
      const times: number[] = [];
      follow.onFix((fix) => times.push((fix.time - time) / 1000));
      return { follow, times };
    };
    const both = passed({ every: 10, beyond: 25 });
    const far = passed({ beyond: 25 });
    const rare = passed({ every: 10 });
    await clock.settle(both.follow.outcome);
    expect(both.times).to.deep.equal([0, 10, 20, 30]);
    expect(far.times).to.deep.equal([0, 5, 10, 15, 20, 25, 30]);
    expect(rare.times).to.deep.equal([0, 10, 20, 30, 40, 50, 60]);
  });

  it('in a loop gives a slow reader the newest, and counts the missed ones', async () => {
    const { receiver, clock } = setUp({ route, permission: 'granted' });
    const follow = receiver.follow();
    const read: Fix[] = [];
    const reading = (async () => {
      for await (const fix of follow) {
        read.push(fix);
        await new Promise<void>((resolve) => clock.after(2.5, resolve));
        if (read.length === 3) follow.stop();
      }
    })();
    await clock.settle(reading);
    expect(read).to.have.length(3);
    const whole = (read[2]!.time - read[0]!.time) / 1000 + 1;
    expect(follow.missed)
      .to.equal(whole - 3)
      .and.to.be.above(1);
  });

  it('continues after an outage, and gives every binding the same fix', async () => {
    const { receiver, device, clock } = setUp({ route, permission: 'granted' });
    const follow = receiver.follow();
    await clock.advance(3.5);
    device.signal = false;
    await clock.advance(30);
    const before = follow.passed;
    device.signal = true;
    await clock.advance(3);
    expect([before, follow.passed, follow.state]).to.deep.equal([3, 6, 'live']);
    expect(receiver.$fix.get()).to.equal(follow.latest);
    expect(receiver.$status.get()).to.deep.equal({ state: 'following', fix: follow.latest });
  });

  it(
    'ends once as withdrawn when the permission is revoked; with an error if nobody ' + 'handles it',
    async () => {
      for (const handled of [true, false]) {
        const { receiver, device, clock, warnings } = setUp({ route, permission: 'granted' });
        const follow = receiver.follow();
        const reported: string[] = [];
        follow.onFix(() => {});
        if (handled) follow.onEvent((event) => event.kind === 'failed' && reported.push(event.error.kind));
        await clock.advance(3);
        device.withdraw();
        await clock.advance(3);
        expect([follow.state, follow.error!.kind, receiver.$status.get().state]).to.deep.equal([
          'failed',
          'withdrawn',
          'failed',
        ]);
        expect(reported).to.deep.equal(handled ? ['withdrawn'] : []);
        expect(warnings.length).to.equal(handled ? 0 : 1);
      }
    },
  );

  it('throws its failure into the loop that reads it', async () => {
    const { receiver, clock } = setUp({ answer: 'refuse' });
    const reading = (async () => {
      for await (const fix of receiver.follow()) expect.fail(`a fix: ${fix.time}`);
    })();
    expect(await kindOf(clock.settle(reading))).to.equal('refused');
  });

  it('stops when its signal aborts', async () => {
    const { receiver, device, clock } = setUp({ route, permission: 'granted' });
    const abort = new AbortController();
    const follow = receiver.follow({ signal: abort.signal });
    await clock.advance(2);
    abort.abort();
    expect([follow.state, device.watches]).to.deep.equal(['stopped', 0]);
  });

  it('keeps the position of a fix whose other numbers are unknown or impossible', async () => {
    const { receiver, device, clock, warnings } = setUp({ permission: 'granted' });
    const unknown = { accuracy: -1, altitude: 40, altitudeAccuracy: -1, course: -1, speed: NaN };
    device.watch = (_demand, sink) => {
      sink.fix({ time: clock.now(), lat: 44, lon: -33, ...unknown });
      return () => {};
    };
    const fix = await clock.settle(receiver.fix());
    expect(fix).to.deep.equal({ time: fix.time, lat: 44, lon: -33, origin: 'unknown' });
    expect(warnings).to.deep.equal([]);
    device.watch = (_demand, sink) => {
      sink.fix({ time: clock.now(), lat: 44.1, lon: -33, speed: -7, course: 12 });
      return () => {};
    };
    expect(await clock.settle(receiver.fix()))
      .to.include({ lat: 44.1, course: 12 })
      .and.not.to.have.key('speed');
    expect(warnings[0]).to.include('a value is left out: speed must be 0…1000000, got -7');
  });

  it('warns of an impossible fix from a source and leaves it out', async () => {
    const { receiver, device, clock, warnings } = setUp({ permission: 'granted' });
    device.watch = (_demand, sink) => {
      sink.fix({ time: clock.now(), lat: 133, lon: 44 });
      sink.fix({ time: clock.now(), lat: 44, lon: -33 });
      return () => {};
    };
    expect(await clock.settle(receiver.fix())).to.include({ lat: 44, lon: -33 });
    expect(warnings[0]).to.include('gave an impossible fix; a fix is left out: latitude 133');
  });
});

describe('the simulated device', () => {
  it('is where it is put, and one update follows when it is moved', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted', every: 60 });
    const follow = receiver.follow();
    const seen: Fix[] = [];
    follow.onFix((fix) => seen.push(fix));
    await clock.advance(10);
    const elsewhere = { lat: 10, lon: 20 };
    device.moveTo(elsewhere);
    await clock.advance(10);
    expect(seen.map(({ lat, lon }) => ({ lat, lon }))).to.deep.equal([hut, elsewhere]);
  });

  it('has no place built in', async () => {
    const clock = new VirtualClock();
    const receiver = new Receiver({ source: new SimulatedDevice({ clock }), purpose: 'Test.', clock });
    expect(await kindOf(clock.settle(receiver.fix({ patience: 30 })))).to.equal('timed-out');
  });

  it('walks an hour in no time, to the same figures as a clock in real time gives', async () => {
    const walkWith = async (advance: (clock: VirtualClock) => Promise<void>) => {
      const { receiver, clock } = setUp({
        route,
        permission: 'granted',
        reception: 'open',
        afterwards: 'end',
      });
      const trail = new Trail();
      const follow = receiver.follow();
      follow.onFix((fix) => trail.append(fix));
      await advance(clock);
      expect(await follow.outcome).to.equal('ended');
      return trail.summary();
    };
    const atOnce = await walkWith((clock) => clock.advance(3600));
    const inSteps = await walkWith(async (clock) => {
      for (let i = 0; i < 7200; i++) await clock.advance(0.5);
    });
    expect(atOnce).to.deep.equal(inSteps);
    expect(atOnce.distance).to.be.closeTo(2000, 80);
  });

  it('starts again, or rests at the end, as configured', async () => {
    const short = { parts: [[hut, ahead(hut, 90, 20)]] };
    const last = async (afterwards: 'again' | 'rest') => {
      const { receiver, clock } = setUp({ route: short, permission: 'granted', afterwards });
      const follow = receiver.follow();
      await clock.advance(19);
      return distance(hut, follow.latest!);
    };
    expect(await last('rest')).to.be.closeTo(20, 0.01);
    expect(await last('again')).to.be.below(5);
  });

  it('refuses a misspelt option', () => {
    expect(() => new SimulatedDevice({ gaits: 'walk' } as object)).to.throw('did you mean "gait"?');
    expect(() => new SimulatedDevice({ at: { lat: 100, lon: 0 } })).to.throw('latitude 100');
  });
});

it('a replayed recording keeps its times, numbers and breaks', async () => {
  const time = Date.UTC(2026, 4, 14, 8);
  const trail = new Trail({ name: 'Old walk' });
  for (const i of [0, 1, 2]) trail.append(fixFrom({ time: time + i * 1000, ...ahead(hut, 0, i) }));
  trail.breakSegment();
  for (const i of [60, 61]) trail.append(fixFrom({ time: time + i * 1000, ...ahead(hut, 0, i) }));
  const clock = new VirtualClock(time);
  const receiver = new Receiver({ source: replaySource(trail, clock), purpose: 'Test.', clock });
  const again = new Trail();
  const follow = receiver.follow();
  follow.onEvent(({ kind }) => kind === 'gap' && again.breakSegment());
  follow.onFix((fix) => again.append(fix));
  await clock.settle(follow.outcome);
  expect(again.segments).to.deep.equal(trail.segments);
  expect([...again]).to.deep.equal([...trail].map((fix) => ({ ...fix, origin: 'replayed' })));
});
