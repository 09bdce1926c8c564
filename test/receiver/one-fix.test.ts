import { oneFix } from 'aurelian-drift';
import { expect } from 'chai';
import { failureOf, hut, kindOf, setUp } from '../support/device.js';

describe('one fix and nothing else', () => {
  it(
    'goes up the whole ladder: asks, waits for the answer without charging the patience, and gets ' +
      'the place',
    async () => {
      const { device, clock } = setUp({ thinking: 20, switch: 'off' });
      expect(await clock.settle(oneFix({ source: device, clock, patience: 5 }))).to.include({
        ...hut,
        origin: 'simulated',
      });
      expect([device.dialogs, device.prompts, device.watches]).to.deep.equal([1, 1, 0]);
    },
  );

  it('fails with the same kinds and remedies as a receiver', async () => {
    const kinds: string[] = [];
    for (const options of [
      { access: { secure: 'no' } },
      { answer: 'refuse' },
      { answer: 'bar' },
      { permission: 'granted', switch: 'off', switchAnswer: 'decline' },
      { permission: 'granted', warmUp: 60 },
    ] as const) {
      const { device, clock } = setUp(options);
      const { kind, remedy } = await failureOf(clock.settle(oneFix({ source: device, clock, patience: 10 })));
      kinds.push(`${kind} ${remedy.act === undefined ? 'told' : 'acts'}`);
      expect(device.watches).to.equal(0);
    }
    expect(kinds).to.deep.equal([
      'insecure told',
      'refused acts',
      'barred acts',
      'declined acts',
      'timed-out told',
    ]);
  });

  it('waits for the accuracy asked, and offers the best so far, marked, when patience ends', async () => {
    const { device, clock } = setUp({ permission: 'granted', reception: 'trees', seed: 2 });
    const coarse = await clock.settle(oneFix({ source: device, clock, accuracy: 5, patience: 10 }));
    expect(coarse.marks).to.deep.equal(['coarse']);
    const rough = setUp({ answer: 'approximate' });
    expect(
      await kindOf(rough.clock.settle(oneFix({ source: rough.device, clock: rough.clock, accuracy: 5 }))),
    ).to.equal('approximate-only');
  });

  it('takes no stored fix for a new one, and believes a clock that is wrong by its second fix', async () => {
    const storedFix = { age: 3600, at: { lat: 44.3, lon: -33.6 } };
    const { device, clock } = setUp({ permission: 'granted', storedFix });
    expect((await clock.settle(oneFix({ source: device, clock }))).lat).to.equal(hut.lat);
    device.putClock(-7200);
    const fix = await clock.settle(oneFix({ source: device, clock }));
    expect(clock.now() - fix.time).to.equal(7_200_000);
  });

  it('keeps a position whose other numbers are unknown', async () => {
    const { device, clock } = setUp({ permission: 'granted' });
    device.watch = (_demand, sink) => {
      sink.fix({ time: clock.now(), ...hut, accuracy: 8, speed: -1, course: 400 });
      return () => {};
    };
    const { accuracy, speed, course } = await clock.settle(oneFix({ source: device, clock }));
    expect([accuracy, speed, course]).to.deep.equal([8, undefined, undefined]);
  });

  it('ends with the signal’s own reason, even while the user is asked, and refuses a misspelt option', async () => {
    const { device, clock } = setUp({ answer: 'ignore' });
    const abort = new AbortController();
    const call = oneFix({ source: device, clock, signal: abort.signal }).catch((reason: unknown) => reason);
    await clock.advance(1);
    abort.abort(new Error('the screen was closed'));
    expect(((await call) as Error).message).to.equal('the screen was closed');
    const misspelt = await oneFix({ acuracy: 3 } as never).catch((error: unknown) => error);
    expect((misspelt as Error).message).to.include('did you mean "accuracy"?');
  });
});
