import { NO_FIX_KINDS, NoFixError, type Access } from 'aurelian-drift';
import { expect } from 'chai';
import { failureOf, hut, kindOf, route, setUp } from '../support/device.js';

describe('the ladder to a permission', () => {
  it('goes up support, origin, policy, declaration, switch, permission, in that order', async () => {
    const broken = {
      support: 'no',
      secure: 'no',
      policy: 'forbidden',
      declaration: 'incomplete',
      undeclared: ['WhileInUsePurpose'],
      switch: 'off',
      permission: 'barred',
    } as const;
    const kinds: string[] = [];
    const fixed: Record<string, string> = {};
    for (const [rung, good] of Object.entries({
      support: 'yes',
      secure: 'yes',
      policy: 'allowed',
      declaration: 'complete',
      switch: 'on',
      permission: 'granted',
    })) {
      const { receiver, device, clock } = setUp({
        switchAnswer: 'impossible',
        access: { ...broken, ...fixed },
      });
      kinds.push(await kindOf(clock.settle(receiver.fix())));
      expect(device.prompts).to.equal(0);
      fixed[rung] = good;
    }
    expect(kinds).to.deep.equal([
      'unsupported',
      'insecure',
      'forbidden',
      'undeclared',
      'switched-off',
      'barred',
    ]);
  });

  it('names undeclared levels', async () => {
    const { receiver, clock } = setUp({
      access: { declaration: 'incomplete', undeclared: ['WhileInUsePurpose', 'RoughPosition'] },
    });
    const { kind, message } = await failureOf(clock.settle(receiver.fix()));
    expect(kind).to.equal('undeclared');
    expect(message).to.include('missing: WhileInUsePurpose, RoughPosition');
  });

  it(
    'asks for the switch inside the app, and continues without a second press when the ' + 'user accepts',
    async () => {
      const { receiver, device, clock } = setUp({ switch: 'off', thinking: 6 });
      const states: string[] = [];
      receiver.$status.subscribe(({ state }) => states.at(-1) !== state && states.push(state));
      expect(await clock.settle(receiver.fix({ patience: 5 }))).to.include(hut);
      expect([device.dialogs, device.prompts]).to.deep.equal([1, 1]);
      expect(states).to.deep.equal(['idle', 'asking', 'idle', 'asking', 'idle', 'waiting', 'ready']);
    },
  );

  it('ends as declined when the user declines it, in a neutral tone, and shows no prompt', async () => {
    const { receiver, device, clock } = setUp({ switch: 'off', switchAnswer: 'decline' });
    const failure = await failureOf(clock.settle(receiver.fix()));
    expect([failure.kind, failure.neutral, device.prompts]).to.deep.equal(['declined', true, 0]);
  });

  it(
    'shows no switch dialog where the switch suffices, and the same one where it is too weak for the ' +
      'demand',
    async () => {
      const { receiver, device, clock } = setUp({ switch: 'weak' });
      await clock.settle(receiver.fix({ accuracy: 800 }));
      expect(device.dialogs).to.equal(0);
      await clock.settle(receiver.fix({ accuracy: 20 }));
      expect([device.dialogs, receiver.$access.get().switch]).to.deep.equal([1, 'on']);
      await clock.settle(receiver.fix({ accuracy: 20 }));
      expect(device.dialogs).to.equal(1);
    },
  );

  it(
    'reports switched-off, never refused, when the permission is granted and there is no ' + 'dialog',
    async () => {
      const { receiver, device, clock } = setUp({
        permission: 'granted',
        switch: 'off',
        switchAnswer: 'impossible',
      });
      expect(await receiver.readAccess()).to.include({ permission: 'granted', switch: 'off' });
      expect(await kindOf(clock.settle(receiver.fix()))).to.equal('switched-off');
      expect(device.settingsOpened).to.deep.equal([]);
    },
  );

  it('has a remedy that acts: asks, turns the switch on, opens the settings and reads again on return', async () => {
    const act = async ({ remedy }: Access) => (await remedy!.act!()) as Access;
    const fresh = setUp();
    const asked = await fresh.receiver.readAccess();
    expect(asked.remedy!.id).to.equal('ask');
    expect((await fresh.clock.settle(act(asked))).permission).to.equal('granted');
    const off = setUp({ permission: 'granted', switch: 'off' });
    expect((await off.clock.settle(act(await off.receiver.readAccess()))).switch).to.equal('on');
    const barred = setUp({ permission: 'barred', inSettings: (device) => device.grant() });
    const failure = await failureOf(barred.clock.settle(barred.receiver.fix()));
    expect(failure.remedy.id).to.equal('open-settings');
    await barred.clock.settle(failure.remedy.act!());
    expect([barred.device.settingsOpened, barred.receiver.$access.get().permission]).to.deep.equal([
      ['app'],
      'granted',
    ]);
    expect(barred.receiver.$access.get()).not.to.have.property('remedy');
  });

  it('shares one prompt among an ask, a fix and a follow, and does not ask again while the first is open', async () => {
    const { receiver, device, clock } = setUp({ thinking: 9, route });
    const follow = receiver.follow();
    follow.onFix(() => {});
    await clock.settle(Promise.all([receiver.ask(), receiver.fix(), receiver.fix()]));
    expect([device.prompts, follow.running]).to.deep.equal([1, true]);
  });

  it(
    'asks for the foreground level only, and warns an app that asks for the background ' + 'without using it',
    async () => {
      const { receiver, device, clock, warnings } = setUp({ answer: 'grant' });
      await clock.settle(receiver.fix());
      expect(receiver.$access.get().level).to.equal('foreground');
      device.reset();
      await clock.settle(receiver.ask('background'));
      expect(warnings.join()).to.include('background: true');
      expect(receiver.$diagnostics.get().map(({ kind }) => kind)).to.deep.equal(['background-unused']);
      const used = setUp({ background: 'by-level' });
      used.receiver.follow({ background: true }).onFix(() => {});
      await used.clock.advance(2);
      expect([used.receiver.$access.get().level, used.warnings]).to.deep.equal(['background', []]);
    },
  );

  it('forgets a permission for one run at the next, and keeps one for the foreground', async () => {
    for (const [answer, after] of [
      ['once', 'not-asked'],
      ['foreground', 'granted'],
    ] as const) {
      const { device, clock, start, receiver } = setUp({ answer });
      await clock.settle(receiver.ask());
      // A form is opened again, or the page is reloaded within the run: another receiver, the same permission.
      expect((await start().readAccess()).permission).to.equal('granted');
      expect(device.prompts).to.equal(1);
      device.restartApp();
      expect((await start().readAccess()).permission).to.equal(after);
    }
  });

  it(
    'reports an approximate permission with its radius at once, instead of waiting for a ' + 'precise fix',
    async () => {
      const { receiver, clock } = setUp({ answer: 'approximate', reception: 'open', roughness: 3000 });
      const asked = clock.now();
      const failure = await failureOf(clock.settle(receiver.fix({ accuracy: 10, patience: 60 })));
      expect([failure.kind, failure.radius, failure.remedy.id]).to.deep.equal([
        'approximate-only',
        3000,
        'allow-precise',
      ]);
      expect(failure.message).to.include('10 m was asked');
      expect((clock.now() - asked) / 1000).to.be.below(5);
      expect((await clock.settle(receiver.fix())).accuracy).to.equal(3000);
      const follow = receiver.follow({ accuracy: 10 });
      const events: string[] = [];
      follow.onFix(() => {});
      follow.onEvent((event) =>
        events.push(event.kind === 'approximate-only' ? `${event.kind} ${event.radius}` : event.kind),
      );
      await clock.advance(5);
      expect(events.filter((kind) => kind.startsWith('approximate'))).to.deep.equal([
        'approximate-only 3000',
      ]);
    },
  );

  it('prompts again after a reset in a test, with no new installation', async () => {
    const { receiver, device, clock } = setUp();
    await clock.settle(receiver.fix());
    expect(receiver.$access.get().scope).to.equal('app');
    device.reset();
    await clock.settle(receiver.fix());
    expect(device.prompts).to.equal(2);
  });

  it(
    'in strict mode reports a prompt without a user’s act, unless the app needs positions ' + 'as it starts',
    async () => {
      const counts = [];
      for (const [acting, startUp] of [
        [false, false],
        [true, false],
        [undefined, false],
        [false, true],
      ] as const) {
        const { receiver, device, clock } = setUp({}, { strict: true, startUp });
        device.acting = acting;
        await clock.settle(receiver.ask());
        counts.push(receiver.$diagnostics.get().filter(({ kind }) => kind === 'prompt-without-act').length);
      }
      expect(counts).to.deep.equal([1, 0, 0, 0]);
    },
  );

  it('goes through a script of answers, the last for all that come after', async () => {
    const { receiver, device, clock } = setUp({ answer: ['refuse', 'bar'] });
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('refused');
    expect(receiver.$access.get().askable).to.equal('yes');
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('barred');
    expect(receiver.$access.get().askable).to.equal('no');
    expect(await kindOf(clock.settle(receiver.fix()))).to.equal('barred');
    expect(device.prompts).to.equal(2);
  });

  it('has texts and a remedy for every kind, and keeps the original of an unknown one', async () => {
    for (const kind of NO_FIX_KINDS) {
      const { userText, message, remedy } = new NoFixError(kind);
      for (const text of [userText, message, remedy.text]) expect(text.length, kind).to.be.above(10);
    }
    const { receiver, device, clock } = setUp();
    const cause = new Error('the platform fell over');
    device.prompt = () => Promise.reject(cause);
    const failure = await failureOf(clock.settle(receiver.fix()));
    expect([failure.kind, failure.cause]).to.deep.equal(['unknown', cause]);
  });
});
