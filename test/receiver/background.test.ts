import { Recorder, type FollowEvent } from 'aurelian-drift';
import type { SimulatedDeviceOptions } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { failureOf, route, setUp, takesOn } from '../support/device.js';

function following(device: SimulatedDeviceOptions, options: object) {
  const parts = setUp({ route, ...device });
  const follow = parts.receiver.follow(options);
  const recorder = new Recorder();
  recorder.start(follow);
  const events: string[] = [];
  follow.onEvent((event: FollowEvent) => {
    events.push(event.kind === 'continues' && event.sign ? 'continues-with-sign' : event.kind);
  });
  return { ...parts, follow, recorder, events };
}

describe('while the app is hidden', () => {
  it(
    'a follow in the background continues: 60 fixes in 60 s, under a sign with the app’s ' +
      'words until it stops',
    async () => {
      const { device, clock, recorder, follow, events, warnings } = following(
        { background: 'by-level' },
        { background: true, sign: 'Recording the round' },
      );
      await clock.advance(10);
      expect(device.sign).to.equal(undefined);
      const before = recorder.trail.length;
      device.hide();
      await clock.advance(60);
      expect(recorder.trail.length - before).to.equal(60);
      expect([device.sign, follow.reach]).to.deep.equal(['Recording the round', 'background']);
      follow.stop();
      expect([device.sign, events, warnings]).to.deep.equal([undefined, ['continues'], []]);
    },
  );

  it(
    'a web page follows only while it is visible, states it at the start, and offers to ' +
      'keep the screen on',
    async () => {
      const { receiver, device, clock, warnings } = setUp({ route, background: 'none' });
      const follow = receiver.follow({ background: true });
      follow.onFix(() => {});
      let offer: (() => Promise<boolean>) | undefined;
      follow.onEvent((event) => {
        if (event.kind === 'visible-only') offer = event.keepScreenOn;
      });
      await clock.advance(2);
      expect(follow.reach).to.equal('visible-only');
      expect(warnings.join()).to.include('only while the app is visible');
      expect(await offer!()).to.equal(true);
      expect(device.screenHolds).to.equal(1);
      follow.stop();
      expect(device.screenHolds).to.equal(0);
    },
  );

  it('a follow in front pauses cleanly, and resumes with a gap in the trail', async () => {
    const { device, clock, recorder, follow, events } = following({ background: 'by-level' }, {});
    await clock.advance(10);
    const before = recorder.trail.length;
    device.hide();
    expect([follow.state, device.watches]).to.deep.equal(['paused', 0]);
    await clock.advance(60);
    expect(recorder.trail.length).to.equal(before);
    device.show();
    expect(follow.state).to.equal('waiting');
    await clock.advance(10);
    expect([follow.state, recorder.trail.segments.length]).to.deep.equal(['live', 2]);
    expect(events).to.deep.equal(['visible-only', 'paused', 'resumed', 'gap']);
    const { gaps, rawDistance } = recorder.trail.summary();
    expect(gaps).to.have.length(1);
    expect(rawDistance).to.be.below(30); // 80 m were walked, 60 of them unseen
  });

  it('a follow that needs the background continues while one in front pauses, on one watch', async () => {
    const { receiver, device, clock, recorder } = following({ background: 'by-level' }, { background: true });
    const front = receiver.follow({ accuracy: 3 });
    let seen = 0;
    front.onFix(() => seen++);
    await clock.advance(5);
    device.hide();
    const [kept, shown] = [recorder.trail.length, seen];
    await clock.advance(10);
    expect([recorder.trail.length - kept, seen - shown]).to.deep.equal([10, 0]);
    expect(device.demand).to.deep.equal({ maxAge: 0, background: true });
  });

  it(
    'a lower level than requested is reported at the start, and the actual one when it is ' + 'hidden',
    async () => {
      for (const [background, outcome] of [
        ['with-sign', 'continues-with-sign'],
        ['by-level', 'paused'],
      ] as const) {
        const { device, clock, events, warnings } = following(
          { background, answer: 'foreground' },
          { background: true },
        );
        await clock.advance(5);
        device.hide();
        expect(events).to.deep.equal(['less-than-asked', outcome]);
        expect(warnings.join()).to.include('was granted "foreground"');
      }
    },
  );

  it(
    'an incomplete background declaration fails at the start, with the missing parts; in ' +
      'front it is not needed',
    async () => {
      const access = { backgroundDeclaration: 'incomplete', undeclared: ['AlwaysPurpose'] } as const;
      const { receiver, device, clock } = setUp({ route, access, background: 'by-level' });
      const follow = receiver.follow({ background: true });
      follow.onEvent(takesOn);
      await clock.advance(5);
      expect([follow.error!.kind, device.prompts]).to.deep.equal(['undeclared', 0]);
      expect(follow.error!.message).to.include('missing: AlwaysPurpose');
      expect(await clock.settle(receiver.fix())).to.have.property('lat');
    },
  );

  it(
    'distinguishes hidden, frozen, restored, closed and killed, and ends cleanly with the ' + 'app',
    async () => {
      for (const [end, event] of [
        ['closeApp', 'closed'],
        ['killApp', 'killed'],
      ] as const) {
        const { receiver, device, clock, follow, events, recorder } = following({}, {});
        await clock.advance(5);
        device.hide();
        device.freeze();
        await clock.advance(30);
        device.restore();
        await clock.advance(5);
        device[end]();
        await clock.advance(30);
        expect(receiver.lifeLog.map(({ kind }) => kind)).to.deep.equal([
          'hidden',
          'frozen',
          'restored',
          event,
        ]);
        expect(events.at(-1)).to.equal(event);
        expect([follow.state, device.watches, recorder.trail.length]).to.deep.equal(['ended', 0, 10]);
      }
    },
  );

  it('a one-shot keeps its patience, and its failure gives the reason', async () => {
    const { receiver, device, clock } = setUp({ permission: 'granted' });
    device.hide();
    const { kind, message } = await failureOf(clock.settle(receiver.fix({ patience: 5 })));
    expect([kind, device.watches]).to.deep.equal(['timed-out', 0]);
    expect(message).to.include('while the app was hidden');
  });
});
