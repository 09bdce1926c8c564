import { Receiver, ahead, type Follow } from 'aurelian-drift';
import {
  PartyGuard,
  PartyWatch,
  Presence,
  memberTopic,
  mqttBroker,
  writeStateMessage,
  type Broker,
  type PresenceOptions,
  type Wire,
  type WireOptions,
} from 'aurelian-drift/presence';
import { SimulatedDevice, scaledClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import {
  PARTY,
  USERS,
  certificate,
  mosquitto,
  natsCluster,
  network,
  standIn,
  vanished,
  type RunningBroker,
} from '../support/brokers.js';
import { hut } from '../support/device.js';
import { eventually } from '../support/eventually.js';

/** Seconds. Others are notified within one and a half times that and 5 s that a member vanished. */
const KEEP_ALIVE = 2;
const passwordOf = (id: string) => USERS.find((each) => each.id === id)?.password ?? '';
const ignore = () => {};
/** A denial counts as a refusal after some seconds, which pass ten times as fast here. */
const quick = () => scaledClock(10, Date.now());

/** The same tests for every broker, over TCP and over WebSocket; `brief`: only those that depend on the transport. */
function contract(
  name: string,
  start: () => Promise<RunningBroker>,
  way: 'tcp' | 'webSocket',
  brief = false,
) {
  describe(`${name} over ${way === 'tcp' ? 'TCP' : 'WebSocket'}`, function () {
    this.timeout(240_000);
    let running: RunningBroker;
    const ends: (() => unknown)[] = [];
    before(async () => (running = await start()));
    after(() => (running as RunningBroker | undefined)?.close());
    afterEach(async () => {
      for (const end of ends.splice(0).reverse()) await end();
    });

    const brokerOf = (id: string, addresses: readonly string[] = running[way]): Broker =>
      mqttBroker(addresses, {
        username: id,
        password: passwordOf(id),
        ...(running.ca !== undefined && { ca: running.ca }),
      });
    const walker = (): Follow => {
      const device = new SimulatedDevice({
        route: { parts: [[hut, ahead(hut, 90, 2000)]] },
        permission: 'granted',
        warmUp: 0,
      });
      return new Receiver({ source: device, purpose: 'Test.', warn: ignore }).follow();
    };
    const share = async (id: string, options: Partial<PresenceOptions> = {}) => {
      const presence = new Presence({
        party: PARTY,
        member: id,
        broker: brokerOf(id),
        recipients: ['the hut'],
        keepAlive: KEEP_ALIVE,
        warn: ignore,
        ...options,
      });
      ends.push(() =>
        Promise.race([presence.leave(), new Promise((done) => setTimeout(done, 30_000).unref())]),
      );
      expect(await presence.join(walker())).to.equal('sharing');
      return presence;
    };
    const watch = (): PartyWatch => {
      const made = new PartyWatch({
        party: PARTY,
        broker: brokerOf('hut'),
        keepAlive: KEEP_ALIVE,
        every: 0.05,
        warn: ignore,
      });
      ends.push(() => made.close());
      return made;
    };
    const stateOf = (seen: PartyWatch, id: string) =>
      seen.$members.get().find((member) => member.id === id)?.state;
    /** A bare client. */
    const wireOf = async (
      id: string,
      received: string[] = [],
      more: { client?: string; persistent?: boolean } = {},
    ) => {
      const options: WireOptions = {
        client: more.client ?? `test-${id}-${Math.random().toString(36).slice(2)}`,
        keepAlive: 10,
        persistent: more.persistent ?? false,
        onMessage: ({ topic, payload }) =>
          void received.push(`${topic.split('/').slice(4).join('/')} ${payload}`),
        onClosed: ignore,
      };
      // A new cluster closes connections at first.
      const wire = await eventually(() => brokerOf(id).open(options));
      ends.push(() => wire.drop());
      return wire;
    };

    /** Subscribes with a bare client: a cluster denies that while it elects a leader. */
    const receive = (wire: Wire, ...filters: string[]) => eventually(() => wire.subscribe(filters));

    it('three members are seen in their places, also by a watcher that comes later', async () => {
      const seen = watch();
      await Promise.all(['ines', 'tomas', 'odile'].map((id) => share(id)));
      for (const id of ['ines', 'tomas', 'odile'])
        await eventually(() => expect(stateOf(seen, id)).to.equal('moved'));
      const late = watch();
      await eventually(() =>
        expect(late.$members.get().map(({ place }) => place?.lat.toFixed(2))).to.deep.equal([
          '44.20',
          '44.20',
          '44.20',
        ]),
      );
    });

    it('a member who leaves is seen to have left, and the broker keeps nothing of them', async () => {
      const seen = watch();
      const presence = await share('ines');
      await eventually(() => expect(stateOf(seen, 'ines')).to.equal('moved'));
      await presence.leave();
      await eventually(() => expect(stateOf(seen, 'ines')).to.equal('left'));
      const received: string[] = [];
      const wire = await wireOf('hut', received);
      await receive(wire, `drift/1/${PARTY}/+/+/+`);
      await share('tomas'); // retained messages come before new ones
      await eventually(() => expect(received.join()).to.include('tomas/state'));
      expect(received.join()).to.not.include('ines');
    });

    it(
      'a member who vanishes, with or without a closed connection, is known to have ' + 'vanished in time',
      async () => {
        const seen = watch();
        const line = await network(running[way][0] as string);
        ends.push(() => line.close());
        await share('ines', {
          broker: brokerOf('ines', [line.address + new URL(running[way][0] as string).pathname]),
        });
        await eventually(() => expect(stateOf(seen, 'ines')).to.equal('moved'));
        line.cut();
        const { since, seen: received } = await vanished(seen, 'ines', KEEP_ALIVE);
        // Not too early either.
        expect((since - received) / 1000).to.be.at.least(KEEP_ALIVE);
        // When the network returns, they are present again.
        line.mend();
        await eventually(() => expect(stateOf(seen, 'ines')).to.equal('moved'));
      },
    );

    if (brief) return;

    it('refuses a wrong password, lets a member write only its own topics, and a viewer none', async () => {
      const wrong = mqttBroker(running[way], {
        username: 'ines',
        password: 'guess',
        ...(running.ca !== undefined && { ca: running.ca }),
      });
      const presence = new Presence({
        party: PARTY,
        member: 'ines',
        broker: wrong,
        recipients: ['the hut'],
        warn: ignore,
      });
      expect(await presence.join(walker())).to.equal('refused');
      const received: string[] = [];
      const listener = await wireOf('watchman', received);
      await receive(listener, `drift/1/${PARTY}/+/+/+`);
      const forged = writeStateMessage('tomas', {
        state: 'here',
        session: 'zzz-1',
        link: 1,
        keepAlive: 30,
        retention: 60,
      });
      for (const [id, topic] of [
        ['ines', memberTopic(PARTY, 'tomas', 'state')],
        ['ines', memberTopic(PARTY, 'ines', 'alarm')],
        ['hut', memberTopic(PARTY, 'tomas', 'state')],
        ['hut', memberTopic(PARTY, 'hut', 'state')],
      ] as const) {
        const wire = await wireOf(id);
        // Brokers answer, hang up, or stay silent. They process one client's messages in order: when the next is
        // answered,
        // this one was processed.
        void wire.publish({ topic, payload: forged }, true).catch(ignore);
        await wire.subscribe([memberTopic(PARTY, id, 'place')]).catch(ignore);
      }
      // It is not passed on, and a member does not hear another one's messages.
      const ours = await wireOf('tomas');
      await ours.publish({ topic: memberTopic(PARTY, 'tomas', 'state'), payload: 'true' }, false);
      await eventually(() => expect(received).to.have.length(1));
      expect(received).to.deep.equal(['tomas/state true']);
      const unasked: string[] = [];
      const curious = await wireOf('ines', unasked);
      void curious.subscribe([`drift/1/${PARTY}/+/+/+`]).catch(ignore);
      await curious.subscribe([memberTopic(PARTY, 'ines', 'place')]).catch(ignore);
      await ours.publish({ topic: memberTopic(PARTY, 'tomas', 'state'), payload: 'again' }, false);
      await eventually(() => expect(received).to.have.length(2));
      expect(unasked).to.deep.equal([]);
    });

    // mosquitto grants the subscription, and sends nothing.
    if (!name.startsWith('mosquitto'))
      it('a client that may not read the party is told so, where the broker reports it', async () => {
        const seen = new PartyWatch({ party: PARTY, broker: brokerOf('ines'), clock: quick(), warn: ignore });
        ends.push(() => seen.close());
        await eventually(() => expect(seen.$link.get()).to.have.property('state', 'refused'));
      });

    it('a client that tries to write for another member is told that it cannot', async () => {
      const presence = new Presence({
        party: PARTY,
        member: 'tomas',
        patience: 20,
        clock: quick(),
        broker: brokerOf('ines'),
        recipients: ['the hut'],
        warn: ignore,
      });
      expect(await presence.join(walker())).to.equal('refused');
    });

    it('keeps unacknowledged messages for an absent client, and delivers them in order', async () => {
      const client = `guard-${way}`;
      const first = await wireOf('watchman', [], { client, persistent: true });
      await receive(first, `drift/1/${PARTY}/+/+/place`);
      first.drop();
      const speaker = await wireOf('ines');
      for (let i = 0; i < 200; i++)
        await speaker.publish({ topic: memberTopic(PARTY, 'ines', 'place'), payload: String(i) }, false);
      const received: string[] = [];
      const again = await wireOf('watchman', received, { client, persistent: true });
      expect(again.known).to.equal(true);
      await eventually(() => expect(received).to.have.length(200));
      expect(received).to.deep.equal(Array.from({ length: 200 }, (_, i) => `ines/place ${i}`));
      await again.end();
      // The session is removed.
      await (await wireOf('watchman', [], { client })).end();
    });

    it('a client with the client id of a guard hears nothing of its session', async () => {
      const client = `guard-of-another-${way}`;
      const guard = await wireOf('watchman', [], { client, persistent: true });
      await receive(guard, `drift/1/${PARTY}/+/+/place`);
      guard.drop();
      const speaker = await wireOf('ines');
      const publish = (payload: string) =>
        speaker.publish({ topic: memberTopic(PARTY, 'ines', 'place'), payload }, false);
      for (let i = 0; i < 5; i++) await publish(`waiting ${i}`);
      const allowed: string[] = [];
      const curious = await wireOf('tomas', allowed, { client, persistent: true });
      for (let i = 0; i < 5; i++) await publish(`now ${i}`);
      // It receives its own messages, after all earlier ones.
      await receive(curious, memberTopic(PARTY, 'tomas', 'place'));
      await curious.publish({ topic: memberTopic(PARTY, 'tomas', 'place'), payload: 'own' }, false);
      await eventually(() => expect(allowed).to.include('tomas/place own'));
      expect(allowed).to.deep.equal(['tomas/place own']);
      await curious.end();
      if (!name.startsWith('the stand-in')) return; // the others discard the session, as docs/party.md says
      const received: string[] = [];
      await wireOf('watchman', received, { client, persistent: true });
      const missed = [0, 1, 2, 3, 4].flatMap((i) => [`ines/place waiting ${i}`, `ines/place now ${i}`]);
      await eventually(() => expect(received).to.have.members([...missed, 'tomas/place own']));
    });

    it('a guard hears everything after it was killed before it subscribed, or lost its memory', async () => {
      (await wireOf('watchman', [], { client: `${PARTY}.guard.1-1`, persistent: true })).drop();
      await share('ines');
      for (let run = 0; run < 2; run++) {
        const guard = new PartyGuard({
          party: PARTY,
          broker: brokerOf('watchman'),
          fences: [],
          warn: ignore,
        });
        await guard.start();
        await eventually(() => expect(guard.counts.members).to.equal(1));
        await guard.close();
      }
    });
  });
}

contract('the stand-in', standIn, 'tcp');
contract('the stand-in', standIn, 'webSocket');
contract('mosquitto', mosquitto, 'tcp');
contract('mosquitto', mosquitto, 'webSocket');
contract('the stand-in with TLS', async () => standIn(await certificate()), 'tcp', true);
contract('mosquitto with TLS', async () => mosquitto(await certificate()), 'webSocket', true);
contract('a cluster of nats-server', natsCluster, 'tcp');
contract('a cluster of nats-server', natsCluster, 'webSocket', true);
