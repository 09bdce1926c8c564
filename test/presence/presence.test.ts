import { ClosedError, ahead, rounded } from 'aurelian-drift';
import {
  BrokerError,
  PartyGuard,
  PartyWatch,
  Roster,
  bucketOf,
  memberTopic,
  pageMemory,
  readMessage,
  writeStateMessage,
  termsText,
  type Broker,
  type JoinOutcome,
  type Wire,
  type WireOptions,
} from 'aurelian-drift/presence';
import { memoryBroker, type MemoryBroker } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { countingClock } from '../support/counting-clock.js';
import { hut, route } from '../support/device.js';
import { PARTY, home, member, watcher } from '../support/party.js';
import { choices, disposed } from '../support/endings.js';

const PLACE = memberTopic(PARTY, 'ines', 'place');
const STATE = memberTopic(PARTY, 'ines', 'state');

/** The storage of a page. */
function storage() {
  const kept = new Map<string, string>();
  return {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, text: string) => void kept.set(key, text),
    removeItem: (key: string) => void kept.delete(key),
  };
}

/** A member who walks at about one metre a second and shares the position. */
async function sharing(
  options: Parameters<typeof member>[1] = {},
  device: Parameters<typeof member>[2] = {},
) {
  const parts = member('ines', options, { route, ...device });
  const presence = parts.presence();
  const follow = parts.follow();
  const joined = presence.join(follow);
  await parts.clock.advance(2);
  return { ...parts, presence, another: parts.presence, follow, joined, seen: await watcher(parts) };
}

/** A member whose cluster denies every subscription from a given time on, for some seconds. */
function electing(seconds: number, from = 0) {
  const parts = member('ines', {}, { route });
  const begin = parts.clock.now() + from * 1000;
  const broker: Broker = {
    name: 'the cluster',
    async open(options) {
      const wire = await parts.broker.open(options);
      const subscribe: Wire['subscribe'] = (filters) =>
        parts.clock.now() >= begin && parts.clock.now() < begin + seconds * 1000
          ? Promise.reject(new BrokerError('refused', 'denied'))
          : wire.subscribe(filters);
      return new Proxy(wire, {
        get: (target, key) => {
          if (key === 'subscribe') return subscribe;
          const value: unknown = Reflect.get(target, key);
          return typeof value === 'function' ? (value.bind(target) as unknown) : value;
        },
      });
    },
  };
  const sharing = parts.presence({ broker });
  const join = () => sharing.join(parts.follow());
  return { ...parts, sharing, join, waited: () => (parts.clock.now() - begin) / 1000 };
}

describe('sharing', () => {
  it('is off until it is switched on: no record, no connection', async () => {
    const { presence, broker, clock, follow } = member();
    const made = presence();
    follow().onFix(() => {});
    await clock.advance(60);
    expect(broker.retained.size).to.equal(0);
    expect(made.$status.get()).to.deep.equal({ state: 'off' });
  });

  it('keeps the record at the last of the fixes', async () => {
    const { presence, broker, clock, follow, joined } = await sharing();
    const fixes: { time: number; lat: number }[] = [];
    follow.onFix((fix) => fixes.push(fix));
    await clock.advance(10);
    expect(fixes).to.have.length.at.least(10);
    const reading = readMessage(PARTY, PLACE, broker.retained.get(PLACE) ?? '');
    expect(reading).to.have.nested.property('place.time', fixes.at(-1)?.time);
    expect(reading)
      .to.have.nested.property('place.lat')
      .closeTo(fixes.at(-1)?.lat ?? 0, 1e-7);
    expect([await joined, presence.$status.get().state]).to.deep.equal(['sharing', 'sharing'] satisfies [
      JoinOutcome,
      string,
    ]);
  });

  it(
    'off: the record is gone, the follow off, and watchers read left; leaving again, or without ' +
      'having joined, is harmless',
    async () => {
      const { presence, broker, clock, follow, seen } = await sharing();
      await clock.settle(presence.leave());
      expect([broker.retained.size, follow.running, presence.$status.get()]).to.deep.equal([
        0,
        false,
        { state: 'off' },
      ]);
      await clock.advance(60);
      expect(seen.reported).to.deep.equal(['ines joined', 'ines moved', 'ines left']);
      expect(seen.one()).to.deep.include({ state: 'left', place: undefined, trail: [] });
      await clock.settle(presence.leave());
      await clock.settle(member().presence().leave());
      expect(broker.retained.size).to.equal(0);
    },
  );

  it('ends with the follow, and by itself at its time limit', async () => {
    const stopped = await sharing();
    stopped.follow.stop();
    await stopped.clock.advance(1);
    expect(stopped.broker.retained.size).to.equal(0);
    const limited = await sharing({ limit: 600 });
    await limited.clock.advance(597);
    expect(limited.seen.one()).to.have.property('until', limited.clock.now() + 500);
    await limited.clock.advance(3);
    expect([limited.broker.retained.size, limited.presence.on, limited.follow.running]).to.deep.equal([
      0,
      false,
      false,
    ]);
  });

  it('sends less often on request, and the last fix in any case with the next sign of life', async () => {
    const { clock, broker } = await sharing({ every: 15, beyond: 100, keepAlive: 30 });
    const times = new Set<number>();
    for (let i = 0; i < 40; i++) {
      const reading = readMessage(PARTY, PLACE, broker.retained.get(PLACE) ?? '');
      if (reading.kind === 'place') times.add(reading.place.time);
      await clock.advance(1);
    }
    // A hundred metres take longer than the twenty seconds between two pings.
    const steps = [...times].map((time, i, all) => (time - (all[i - 1] ?? time)) / 1000).slice(1);
    expect(steps).to.have.length.within(1, 2);
    for (const step of steps) expect(step).to.be.within(19, 21);
  });
});

describe('sharing, over the life of the app', () => {
  it('continues in the background, where the platform allows it', async () => {
    const { device, clock, presence, receiver, broker } = member(
      'ines',
      {},
      { route, background: 'by-level' },
    );
    const made = presence();
    void made.join(receiver.follow({ background: true, sign: 'Sharing' }));
    await clock.advance(5);
    const seen = await watcher({ clock, broker });
    device.hide();
    await clock.advance(300);
    expect([made.$status.get().state, seen.one()?.state]).to.deep.equal(['sharing', 'moved']);
    expect(clock.now() - (seen.one()?.place?.time ?? 0)).to.be.at.most(1500);
  });

  it(
    'announces asleep with the last fix before it pauses, and that is neither late nor ' +
      'vanished; shown again it continues',
    async () => {
      const { device, clock, seen, presence, follow } = await sharing({ every: 60 }, { background: 'none' });
      await clock.advance(5);
      const last = follow.latest;
      device.hide();
      await clock.advance(1);
      expect(presence.$status.get()).to.deep.equal({ state: 'asleep' });
      await clock.advance(600);
      expect(seen.one()).to.have.property('state', 'asleep');
      expect(seen.one()).to.have.nested.property('place.time', last?.time);
      device.show();
      await clock.advance(5);
      expect([presence.$status.get().state, seen.one()?.state]).to.deep.equal(['sharing', 'moved']);
      expect(seen.reported).to.deep.equal(['ines joined', 'ines moved', 'ines asleep', 'ines moved']);
    },
  );

  it(
    'closed or ended by the system: the record is gone; without an ending only expiry ' +
      'protects, and that is stated',
    async () => {
      for (const end of ['closeApp', 'killApp'] as const) {
        const { device, clock, broker, seen, presence } = await sharing();
        device[end]();
        await clock.advance(1);
        expect([broker.retained.size, seen.one()?.state, presence.$status.get().state]).to.deep.equal([
          0,
          'left',
          'off',
        ]);
      }
      const { clock, presence, warnings, follow } = member('ines', {}, { route });
      const bare = presence({ life: undefined as never, keepAlive: 20, retention: 900 });
      void bare.join(follow());
      await clock.advance(1);
      expect(warnings.join()).to.match(/only expiry protects; others learn within 35 s .* gone 900 s later/);
      expect(bare.terms).to.include({ protection: 'only-expiry', vanishedAfter: 35, retention: 900 });
    },
  );

  it(
    'the process dies: others see vanished with the last place within one and a half keep-alive ' +
      'periods and 5 s, then nothing',
    async () => {
      for (const how of ['closed', 'silent'] as const) {
        const { clock, broker, seen } = await sharing({ keepAlive: 20, retention: 300 });
        await clock.advance(100);
        const last = seen.one()?.place;
        broker.kill(clientOf(broker), how);
        await clock.advance(35);
        expect([how, seen.one()?.state, seen.one()?.place]).to.deep.equal([how, 'vanished', last]);
        // A late joiner has the state within the time that it takes to detect it.
        const lost = clock.now() - 35_000;
        await clock.advance(100);
        const late = await watcher({ clock, broker });
        expect(late.one()?.since).to.be.within(lost, lost + 36_000);
        await clock.advance(200);
        expect([seen.one(), late.one()]).to.deep.equal([undefined, undefined]);
      }
    },
  );

  it('and as soon by the watcher’s own clock, when the broker reports nothing', async () => {
    for (const phase of [0, 0.3, 0.6, 0.9]) {
      const { clock, broker, seen } = await sharing({ keepAlive: 20 });
      const after: number[] = [];
      seen.watch.onEvent(
        (event) => event.kind === 'vanished' && after.push((clock.now() - event.member.seen) / 1000),
      );
      await clock.advance(100 + phase);
      broker.cut(broker.clients.find((name) => name.includes('.watch.')) ?? '');
      await clock.advance(60);
      expect(after).to.have.length(1);
      expect(after[0]).to.be.within(30, 35);
    }
  });

  it(
    'after a restart it is off, and remembers that it was on: leave removes the old ' +
      'record, join continues',
    async () => {
      const kept = storage();
      const own = pageMemory(() => kept);
      const { clock, broker, presence, follow } = member('ines', { memory: own }, { route });
      expect(own.read()).to.equal(undefined);
      void presence().join(follow());
      await clock.advance(3);
      const since = clock.now() - 3000;
      broker.kill(clientOf(broker));
      const restarted = presence();
      expect([restarted.on, restarted.before]).to.deep.equal([
        false,
        { party: PARTY, member: 'ines', since },
      ]);
      expect(broker.retained.size).to.equal(2);
      await clock.settle(restarted.leave());
      expect([broker.retained.size, restarted.before]).to.deep.equal([0, undefined]);
    },
  );
});

describe('sharing, over a network that comes and goes', () => {
  it('queues, and sends later in order and once', async () => {
    const { clock, broker, presence, seen } = await sharing();
    const numbers: number[] = [];
    broker.onEvent(({ topic, payload }) => {
      const reading = readMessage(PARTY, topic, payload);
      if (reading.kind === 'place') numbers.push(reading.place.number);
    });
    await clock.advance(5);
    broker.reachable = false;
    await clock.advance(60);
    expect(presence.$status.get().state).to.equal('unreachable');
    expect(presence.waiting.places).to.be.within(59, 61);
    broker.reachable = true;
    await clock.advance(40);
    expect(presence.$status.get()).to.deep.equal({ state: 'sharing', veiled: false });
    expect([presence.waiting, numbers.length]).to.deep.equal([{ places: 0, lost: 0 }, new Set(numbers).size]);
    expect(numbers).to.deep.equal(numbers.map((_, i) => (numbers[0] as number) + i));
    expect(numbers.length).to.be.at.least(100);
    expect(seen.one()?.state).to.equal('moved');
  });

  it('switched off meanwhile: only the removal is sent', async () => {
    const { clock, broker, presence, seen } = await sharing();
    const mend = broker.cut(clientOf(broker));
    await clock.advance(90);
    expect(seen.one()?.state).to.equal('vanished');
    const said: string[] = [];
    broker.onEvent(
      ({ topic, payload }) =>
        topic.includes('/ines/') &&
        said.push(`${topic.split('/').at(-1)} ${payload === '' ? 'gone' : 'said'}`),
    );
    const left = presence.leave();
    await clock.advance(10);
    expect(presence.$status.get()).to.deep.equal({ state: 'leaving' });
    mend();
    await clock.settle(left);
    await clock.advance(60);
    expect(said).to.deep.equal(['place gone', 'state gone']);
    expect([broker.retained.size, presence.$status.get()]).to.deep.equal([0, { state: 'off' }]);
    expect(seen.one()?.state).to.equal('left');
  });

  it(
    'switched off and on again without a network: it is on, and nothing takes it back; cleared by ' +
      'somebody else, it is said again',
    async () => {
      const { clock, broker, presence, receiver, seen } = await sharing();
      const mend = broker.cut(clientOf(broker));
      await clock.advance(10);
      void presence.leave();
      void presence.join(receiver.follow());
      mend();
      await clock.advance(90);
      expect([presence.$status.get().state, seen.one()?.state]).to.deep.equal(['sharing', 'moved']);
      broker.publish(PLACE, '', true);
      broker.publish(STATE, '', true);
      await clock.advance(1);
      expect([...broker.retained.keys()].sort()).to.deep.equal([PLACE, STATE]);
      expect(seen.one()?.state).to.equal('moved');
    },
  );

  it('a broker that restarts without memory receives everything again', async () => {
    const { clock, broker, seen } = await sharing();
    broker.restart();
    expect(broker.retained.size).to.equal(0);
    await clock.advance(5);
    expect([...broker.retained.keys()].sort()).to.deep.equal([PLACE, STATE]);
    expect(seen.one()?.state).to.equal('moved');
  });

  it('the last will of a connection that was given up late does not make a living member vanish', async () => {
    const { clock, broker, seen } = await sharing({ keepAlive: 20 });
    broker.lose(clientOf(broker), 'silent');
    await clock.advance(60); // reconnected at once; the will came after 30 s
    expect(seen.reported).to.deep.equal(['ines joined', 'ines moved']);
    expect(broker.retained.get(STATE)).to.include('"here"');
  });

  it(
    'joins a cluster that denies every subscription until it has a leader; permanent ' +
      'denial is a refusal',
    async () => {
      const patient = electing(9);
      expect(await patient.clock.settle(patient.join())).to.equal('sharing');
      const denied = electing(3600);
      expect(await denied.clock.settle(denied.join())).to.equal('refused');
      expect(denied.waited()).to.be.within(15, 25);
    },
  );

  it(
    'that let us in once and denies us for a minute, as a cluster does that has lost a node, ends ' +
      'nothing',
    async () => {
      const { sharing, join, clock, broker } = electing(60, 20);
      expect(await clock.settle(join())).to.equal('sharing');
      await clock.advance(18);
      broker.reachable = false;
      await clock.advance(3);
      broker.reachable = true;
      await clock.advance(40);
      expect(sharing.$status.get()).to.deep.equal({ state: 'unreachable', reason: 'denied' });
      await clock.advance(60);
      expect(sharing.$status.get()).to.deep.equal({ state: 'sharing', veiled: false });
    },
  );

  it('a member who leaves while refused is told so, and does not wait for ever', async () => {
    const parts = member('ines', {}, { route });
    const refusing = {
      name: 'the broker',
      open: (options: WireOptions) =>
        parts.broker.reachable
          ? parts.broker.open(options)
          : Promise.reject(new BrokerError('refused', 'the user name or password is wrong')),
    };
    const presence = parts.presence({ broker: refusing });
    expect(await parts.clock.settle(presence.join(parts.follow()))).to.equal('sharing');
    parts.broker.reachable = false;
    await parts.clock.settle(presence.leave());
    expect(presence.$status.get()).to.deep.equal({
      state: 'refused',
      reason: 'the user name or password is wrong',
    });
  });

  it(
    'a client that may not write for a member is told so, and two devices of one member ' + 'do not fight',
    async () => {
      const refused = member('ines', { shared: memoryBroker({ allows: () => false }) }, { route });
      const outcome = refused.presence().join(refused.follow());
      expect(await refused.clock.settle(outcome)).to.equal('refused');
      const first = await sharing();
      const second = first.presence;
      await first.clock.advance(5);
      const newer = first.another();
      void newer.join(first.receiver.follow());
      await first.clock.advance(10);
      expect(second.$status.get()).to.deep.equal({
        state: 'refused',
        reason: 'another device announces the same member now',
      });
      expect(newer.$status.get().state).to.equal('sharing');
      expect(first.seen.reported).to.deep.equal(['ines joined', 'ines moved', 'ines joined', 'ines moved']);
    },
  );
});

describe('sharing no more than one wants to', () => {
  it('rounds places to a stated size, and states how exact they are', async () => {
    const { seen, follow, presence } = await sharing({ rounding: 500 });
    const { lat, lon, accuracy } = rounded(follow.latest!, 500);
    expect(seen.one()?.place?.lat).to.be.closeTo(lat, 1e-7);
    expect(seen.one()?.place?.lon).to.be.closeTo(lon, 1e-7);
    expect(seen.one()?.place?.accuracy).to.be.at.least(accuracy - 0.1);
    expect(seen.one()?.rounding).to.equal(500);
    expect(seen.one()?.place).to.include({ course: undefined, speed: undefined });
    expect(presence.latest).to.include({ lat, lon });
  });

  it(
    'and a walking member does not seem still between two such places, nor a standing one ' +
      'moved by stray fixes',
    async () => {
      const walking = await sharing({ rounding: 200 });
      await walking.clock.advance(1200);
      expect(walking.seen.reported).to.deep.equal(['ines joined', 'ines moved']);
      const standing = await sharing(
        {},
        { reception: 'street', route: { parts: [[hut, ahead(hut, 90, 1)]] } },
      );
      await standing.clock.advance(60);
      const places = new Set<string>();
      standing.broker.onEvent(({ topic, payload }) => topic === PLACE && places.add(payload));
      await standing.clock.advance(1200);
      expect(standing.seen.reported).to.deep.equal(['ines joined', 'ines moved', 'ines still']);
      expect(places.size).to.be.above(100);
    },
  );

  it(
    'sends nothing from a private area or the random margin around it, except that its ' + 'member is well',
    async () => {
      for (let walk = 0; walk < 12; walk++) {
        // From the centre of the area to the east and out of it.
        const { broker, clock, seen, presence } = await sharing({ veil: home });
        await clock.advance(20);
        expect(broker.retained.has(PLACE)).to.equal(false);
        expect([seen.one()?.state, seen.one()?.veiled]).to.deep.equal(['joined', true]);
        expect(presence.$status.get()).to.deep.equal({ state: 'sharing', veiled: true });
        const first = await firstPlace(broker, clock);
        expect(home.away(first)).to.be.within(0, 205);
        expect(first.lon).to.be.greaterThan(hut.lon);
      }
    },
  );

  it('names who receives it, how exactly, for how long, and when it is removed', () => {
    const { presence, clock } = member('ines', {
      recipients: ['the hut', 'Tolvay rescue'],
      rounding: 100,
      veil: home,
      trail: 600,
      limit: 14_400,
      keepAlive: 30,
      retention: 3600,
    });
    expect(termsText(presence().terms, clock.now())).to.deep.equal([
      'Seen by the hut and Tolvay rescue.',
      'They see the place rounded to 100 m.',
      'Places in your private areas are not sent.',
      'They see your path of the last 10 min.',
      'Sharing ends by itself after 4 h.',
      'Closing this app removes your place.',
      'If this device loses its power or its network, they are told within 50 s that you vanished, and ' +
        'they see your last place for 1 h.',
    ]);
  });

  it('a viewer cannot share, and options are checked', () => {
    const { presence, follow } = member();
    expect(() => presence({ role: 'viewer' }).join(follow())).to.throw(/ines is a viewer of vanesk/);
    expect(() => presence({ membr: 'x' } as object)).to.throw(/no option "membr", did you mean "member"/);
    expect(() => presence({ member: 'Inês/#' })).to.throw(/small letters, digits, - and _.*got "Inês\/#"/);
    expect(() => presence({ recipients: [] })).to.throw(/must name the recipients/);
    expect(() => presence({ keepAlive: 30_000 })).to.throw(/keepAlive/);
  });

  it('shares the path of the last minutes only with the permitted watchers, also later ones', async () => {
    const { clock, broker } = await sharing({ trail: 300 });
    await clock.advance(900);
    const late = await watcher({ clock, broker });
    const trail = late.one()?.trail ?? [];
    expect(trail.length).to.be.within(60, 101);
    expect((clock.now() - (trail[0]?.time ?? 0)) / 1000).to.be.within(280, 305);
    const { broker: bare, clock: other } = await sharing();
    await other.advance(60);
    expect((await watcher({ clock: other, broker: bare })).one()?.trail).to.have.length.at.most(2);
  });
});

describe('the end of every part of a party', () => {
  it('leaves no connection, no record and no alarm, a thousand times, in whatever state and way it ends', async () => {
    const pick = choices(20);
    const seen = new Set<string>();
    for (let cycle = 0; cycle < 1000; cycle++) {
      const parts = member('ines', {}, { route, answer: 'ignore', permission: pick('granted', 'not-asked') });
      const clock = countingClock(parts.clock);
      const given = new AbortController();
      const { signal } = given;
      const { broker } = parts;
      broker.reachable = pick(true, true, false);
      const presence = parts.presence({ clock, signal });
      const follow = parts.follow();
      const joined = pick(true, true, false) ? presence.join(follow) : undefined;
      const watch = new PartyWatch({ party: PARTY, broker, clock, signal });
      const guard = new PartyGuard({ party: PARTY, broker, clock, signal, fences: [], warn: () => {} });
      const started = pick(true, false) ? guard.start().catch(() => {}) : undefined;
      await parts.clock.advance(pick(0, 0.1, 5, 40));
      if (pick(true, false, false)) parts.device.hide();
      if (pick(true, false)) broker.reachable = pick(true, false);
      await parts.clock.advance(pick(0, 0.1, 5));
      seen.add(`${presence.$status.get().state} ${watch.$link.get().state}`);
      const way = pick('hand', 'dispose', 'signal');
      if (way === 'signal') given.abort();
      if (way === 'dispose') for (const each of [presence, watch, guard]) void disposed(each);
      for (let twice = 0; twice < 2; twice++) {
        const ended = [presence.leave(), watch.close(), guard.close()];
        broker.reachable = true; // a record can be removed only with a network
        await parts.clock.settle(Promise.all(ended));
      }
      if (joined !== undefined) expect(await joined).to.be.oneOf(['sharing', 'left']);
      await started;
      follow.stop();
      const place = `cycle ${cycle}, ${[...seen].at(-1)}, ${way}`;
      expect([broker.clients.length, clock.set.size, presence.on], place).to.deep.equal([0, 0, false]);
      expect(broker.retained.has(PLACE), place).to.equal(false);
      broker.close();
      expect(
        await broker
          .open({ client: 'late', keepAlive: 30, persistent: false, onMessage: () => {}, onClosed: () => {} })
          .catch((error: unknown) => (error as BrokerError).kind),
      ).to.equal('unreachable');
      expect(await guard.start().catch((error: unknown) => error)).to.be.instanceOf(
        way === 'signal' ? DOMException : ClosedError,
      );
    }
    for (const state of ['off', 'sharing', 'unreachable', 'asleep'])
      expect(
        [...seen].some((each) => each.startsWith(state)),
        state,
      ).to.equal(true);
  });
});

describe('a broker that is found again', () => {
  it(
    'and replays its kept messages slowly leaves nobody out; a member counted as left who ' +
      'has vanished becomes vanished',
    () => {
      const roster = new Roster(PARTY);
      const begin = Date.UTC(2026, 4, 14, 8);
      const state = (id: string) => roster.member(id)?.state;
      const publish = (id: string, seconds: number, how: 'here' | 'vanished', sent?: number) => {
        const message = writeStateMessage(id, {
          state: how,
          session: 'mabc-1',
          link: 1,
          keepAlive: 600,
          retention: 3600,
          sent: sent && begin + sent * 1000,
        });
        roster.take(
          memberTopic(PARTY, id, 'state'),
          message,
          sent !== undefined && seconds > 1,
          begin + seconds * 1000,
        );
      };
      for (const id of ['ines', 'tomas', 'odile']) publish(id, 1, 'here', 1);
      roster.beginAgain(begin + 10_000);
      // One message every four seconds: the last comes eight seconds after the broker is reached.
      publish('ines', 14, 'here', 1);
      publish('tomas', 18, 'here', 1);
      roster.tick(begin + 20_000);
      expect(state('odile')).to.equal('joined');
      roster.tick(begin + 24_000);
      expect(['ines', 'tomas', 'odile'].map(state)).to.deep.equal(['joined', 'joined', 'left']);
      publish('odile', 30, 'vanished');
      expect(state('odile')).to.equal('vanished');
      // A member who left does not vanish by a late last will.
      roster.take(memberTopic(PARTY, 'tomas', 'state'), '', false, begin + 40_000);
      publish('tomas', 41, 'vanished');
      expect(state('tomas')).to.equal('left');
      // Also after another loss of the broker, which no longer retains messages of tomas, who left.
      roster.beginAgain(begin + 42_000);
      publish('ines', 43, 'here', 1);
      roster.tick(begin + 50_000);
      publish('tomas', 51, 'vanished');
      expect(state('tomas')).to.equal('left');
    },
  );
});

describe('messages', () => {
  it('that are forged, oversized, malformed or ancient are dropped and counted, and change nothing', async () => {
    const { clock, broker, seen } = await sharing();
    const before = seen.one();
    const place = (over: object, properties: object = {}) =>
      JSON.stringify({
        type: 'Feature',
        geometry: { type: 'Point', coordinates: [-33.6, 44.2] },
        properties: {
          member: 'ines',
          session: 'mp4f2k3a-1',
          number: 99,
          time: new Date(clock.now()).toISOString(),
          ...properties,
        },
        ...over,
      });
    const wrongBucket = `drift/1/${PARTY}/${(bucketOf('ines') + 1) % 256}/ines/place`;
    for (const [topic, payload] of [
      [wrongBucket, place({})],
      [PLACE, place({}, { member: 'tomas' })],
      [PLACE, 'x'.repeat(9000)],
      [PLACE, '{'],
      [PLACE, place({ geometry: { type: 'Point', coordinates: [44.2, 133.6] } })],
      [PLACE, place({}, { number: 1.5 })],
      [PLACE, place({}, { time: 'yesterday' })],
      [PLACE, place({}, { time: '2019-01-01T00:00:00Z' })],
      [PLACE, place({}, { time: '2031-01-01T00:00:00Z' })],
      [PLACE, place({}, { session: '1-1' })],
      [
        STATE,
        writeStateMessage('ines', {
          state: 'vanished',
          session: '1-1',
          link: 1,
          keepAlive: 30,
          retention: 60,
        }),
      ],
    ] as const)
      broker.publish(topic, payload);
    await clock.advance(0.3);
    expect(seen.watch.dropped).to.deep.equal({
      forged: 2,
      oversized: 1,
      malformed: 4,
      ancient: 4,
      repeated: 0,
    });
    expect(seen.one()?.state).to.equal(before?.state);
    expect(seen.reported).to.deep.equal(['ines joined', 'ines moved']);
  });
});

const clientOf = ({ clients }: MemoryBroker) => clients.find((name) => name.includes('.ines.')) ?? '';

/** The first reported position, however long it takes. */
async function firstPlace(broker: MemoryBroker, clock: { advance(seconds: number): Promise<void> }) {
  for (let i = 0; i < 2000; i++) {
    const reading = readMessage(PARTY, PLACE, broker.retained.get(PLACE) ?? '');
    if (reading.kind === 'place') return reading.place;
    await clock.advance(1);
  }
  throw new Error('no place came');
}
