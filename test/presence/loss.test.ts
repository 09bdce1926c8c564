import { Receiver, ahead, fencesToGeoJson } from 'aurelian-drift';
import {
  PartyGuard,
  PartyWatch,
  Presence,
  memberTopic,
  mqttBroker,
  partyFilters,
  writePlaceMessage,
  readMessage,
  slotBuckets,
  bucketOf,
} from 'aurelian-drift/presence';
import { SimulatedDevice, scaledClock } from 'aurelian-drift/testing';
import { expect } from 'chai';
import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { started, workFolder, type Running } from '../support/aurelian.js';
import {
  PARTY,
  USERS,
  mosquitto,
  natsCluster,
  network,
  vanished,
  type RunningBroker,
} from '../support/brokers.js';
import { hut } from '../support/device.js';
import { eventually } from '../support/eventually.js';
import { section } from '../support/party.js';

const passwordOf = (id: string) => USERS.find((each) => each.id === id)?.password ?? '';
const brokerAs = (id: string, addresses: readonly string[]) =>
  mqttBroker(addresses, { username: id, password: passwordOf(id) });
const ignore = () => {};
/** In the past, so that a walk on a fast clock stays in the past however long it takes. */
const AN_HOUR_AGO = Date.now() - 3_600_000;
/** A user who walks east of the hut, in real time, or on a fast clock that starts in the past. */
function walker(tempo = 1, start = Date.now()) {
  const clock = scaledClock(tempo, start);
  const device = new SimulatedDevice({
    route: { parts: [[hut, ahead(hut, 90, 2000)]] },
    permission: 'granted',
    warmUp: 0,
    clock,
  });
  return { clock, follow: new Receiver({ source: device, purpose: 'Test.', clock, warn: ignore }).follow() };
}

describe('losses of a party', function () {
  this.timeout(600_000);
  const folder = workFolder();
  const ends: (() => unknown)[] = [];
  afterEach(async () => {
    for (const end of ends.splice(0).reverse()) await end();
  });

  async function running(start: () => Promise<RunningBroker>): Promise<RunningBroker> {
    const broker = await start();
    ends.push(() => broker.close());
    return broker;
  }
  function watching({ tcp }: RunningBroker, keepAlive: number, closing = ends) {
    const watch = new PartyWatch({
      party: PARTY,
      broker: brokerAs('hut', tcp),
      keepAlive,
      every: 0.05,
      warn: ignore,
    });
    closing.push(() => watch.close());
    const one = (id: string) => watch.$members.get().find((member) => member.id === id);
    return { watch, one };
  }
  function command(words: readonly string[], id: string): Running {
    const made = started(folder.path, ['party', ...words], { env: { AURELIAN_PASSWORD: passwordOf(id) } });
    ends.push(() => {
      made.kill('SIGKILL');
      return made.over;
    });
    return made;
  }
  const announce = ({ tcp }: RunningBroker) =>
    command(['announce', 'demo', '--as', 'ines', '--broker', tcp.join(), '--keep-alive', '2s'], 'ines');

  /** It takes a minute of waiting: it begins before the others and is checked after them. */
  async function cutForAMinute(last: (() => unknown)[]): Promise<void> {
    const own = async (start: () => Promise<RunningBroker>) => {
      const broker = await start();
      last.push(() => broker.close());
      return broker;
    };

    const broker = await own(mosquitto);
    const { watch, one } = watching(broker, 4, last);
    const numbers: number[] = [];
    const listener = await brokerAs('watchman', broker.tcp).open({
      client: 'listener',
      keepAlive: 30,
      persistent: false,
      onClosed: ignore,
      onMessage: ({ topic, payload }) => {
        const reading = readMessage(PARTY, topic, payload);
        if (reading.kind === 'place') numbers.push(reading.place.number);
      },
    });
    last.push(() => listener.end());
    await listener.subscribe(partyFilters(PARTY));
    const line = await network(broker.tcp[0] as string);
    last.push(() => line.close());
    const presence = new Presence({
      party: PARTY,
      member: 'ines',
      broker: brokerAs('ines', [line.address]),
      recipients: ['the hut'],
      keepAlive: 4,
      warn: ignore,
    });
    last.push(() => presence.leave());
    await presence.join(walker().follow);
    await eventually(() => expect(numbers.length).to.be.at.least(4));
    line.cut();
    await vanished(watch, 'ines', 4);
    // One position a second.
    await eventually(() => expect(presence.waiting.places).to.be.at.least(57), 180);
    line.mend();
    const latest = presence.latest!.number;
    await eventually(() => expect(one('ines')?.state).to.equal('moved'));
    // All queued positions have arrived, and some later ones.
    await eventually(() => expect(numbers.at(-1)).to.be.at.least(latest + 2));
    // Some were in transit when the network was cut, and may arrive twice: MQTT delivers at least once.
    const once = [...new Set(numbers)];
    expect(once).to.deep.equal(once.map((_, i) => i + 1));
    expect(once.length).to.be.at.least(60);
    expect(numbers.length - once.length).to.be.at.most(16);
  }

  const last: (() => unknown)[] = [];
  let cut: Promise<unknown>;
  before(() => {
    cut = cutForAMinute(last).then(
      () => undefined,
      (error: unknown) => error,
    );
  });
  after(async () => {
    await cut; // it cannot leave before the network is restored
    for (const end of last.reverse()) await end();
  });

  it(
    'an announcer that is killed (keep-alive 2 s) has vanished, with its last place; one that is ' +
      'asked to end has left',
    async () => {
      const broker = await running(mosquitto);
      const { watch, one } = watching(broker, 2);
      const first = announce(broker);
      await eventually(() => expect(one('ines')?.place?.number).to.be.at.least(2));
      first.kill('SIGKILL');
      const { place } = await vanished(watch, 'ines', 2);
      expect(place?.lat).to.be.closeTo(44.186, 0.01);
      const second = announce(broker);
      await eventually(() => expect(one('ines')?.state).to.equal('moved'));
      second.kill('SIGTERM');
      expect((await second.over).code).to.equal(0);
      await eventually(() => expect(one('ines')).to.deep.include({ state: 'left', place: undefined }));
    },
  );

  it(
    'a broker that is killed and returns without memory hears of everybody again ' + '(keep-alive 2 s)',
    async () => {
      const broker = await running(mosquitto);
      const { watch, one } = watching(broker, 2);
      announce(broker);
      await eventually(() => expect(one('ines')?.state).to.equal('moved'));
      await broker.kill?.();
      await eventually(() => expect(watch.$link.get().state).to.equal('down'));
      // No more messages, and the watcher decides by its own clock.
      await vanished(watch, 'ines', 2);
      await broker.restart?.();
      await eventually(() => expect(one('ines')?.state).to.equal('moved'));
    },
  );

  it(
    'guards of slots that are killed and restarted lose no crossing and report none ' +
      'twice; the others are undisturbed',
    async () => {
      const broker = await running(mosquitto);
      const fences = join(folder.path, 'fences.geojson');
      await writeFile(fences, JSON.stringify(fencesToGeoJson([section])));
      const slots = [1, 2, 3];
      const guard = (number: number) =>
        command(
          [
            'guard',
            '--broker',
            broker.tcp.join(),
            '--user',
            'watchman',
            '--fences',
            fences,
            '--slot',
            `${number}/3`,
            '--memory',
            `memory-${number}`,
            '--json',
          ],
          'watchman',
        );
      const guards = slots.map(guard);
      for (const each of guards) await eventually(() => expect(each.err()).to.include('connected'));
      // Twelve members walk into the section and out of it; the guard's user may publish their positions.
      const members = Array.from({ length: 12 }, (_, i) => `warden-${i}`);
      const speaker = await brokerAs('watchman', broker.tcp).open({
        client: 'speaker',
        keepAlive: 30,
        persistent: false,
        onMessage: ignore,
        onClosed: ignore,
      });
      ends.push(() => speaker.end());
      const alarms: string[] = [];
      const { watch } = watching(broker, 30);
      watch.onEvent((event) => event.kind === 'alarm' && alarms.push(event.alarm.id));
      const start = Date.now() - 600_000;
      for (let i = 0; i < 150; i++) {
        const { lat, lon } = ahead(hut, 90, i * 4);
        for (const id of members) {
          const payload = writePlaceMessage(id, {
            lat,
            lon,
            time: start + i * 1000,
            accuracy: 5,
            session: `${start.toString(36)}-1`,
            number: i + 1,
          });
          await speaker.publish({ topic: memberTopic(PARTY, id, 'place'), payload }, true);
        }
        if (i === 48 || i === 51 || i === 100) {
          guards[1]?.kill('SIGKILL');
          await guards[1]?.over;
          // Messages wait at the broker; then the guard takes over its slot.
          if (i !== 100) guards[1] = guard(2);
        }
      }
      guards[1] = guard(2);
      const expected = members.flatMap((id) => [`${id} enter`, `${id} exit`]).sort();
      const reported = () => alarms.map((id) => `${id.split(':')[0]} ${id.split(':')[2]}`).sort();
      await eventually(() => expect(reported()).to.deep.equal(expected));
      for (const each of guards) each.kill('SIGTERM');
      await Promise.all(guards.map(({ over }) => over));
      const ids: string[] = [];
      for (const number of slots) {
        const log = await command(['alarms', `memory-${number}`, '--json'], 'watchman').over;
        const own = log.json() as { id: string; member: string }[];
        const buckets = slotBuckets({ number, count: 3 });
        for (const { member } of own) expect(buckets).to.include(bucketOf(member));
        ids.push(...own.map(({ id }) => id));
      }
      expect(ids.sort()).to.deep.equal([...alarms].sort());
      expect(new Set(ids).size).to.equal(24);
      // Two guards may take over from the three.
      const divided = await command(
        ['divide', ...slots.map((number) => `memory-${number}`), '--slots', '2', '--into', 'anew', '--json'],
        'watchman',
      ).over;
      const [first, second] = (divided.json() as [{ slots: { members: number }[] }])[0].slots;
      expect(first!.members + second!.members).to.equal(12);
      const again = await command(['alarms', 'anew/2', '--json'], 'watchman').over;
      for (const { member } of again.json() as { member: string }[]) expect(bucketOf(member) % 2).to.equal(1);
      expect(again.json().length).to.equal(2 * second!.members);
    },
  );

  it('a node of a cluster that is killed while a party walks: nothing that was acknowledged is lost', async () => {
    const cluster = await running(natsCluster);
    const guard = new PartyGuard({
      party: PARTY,
      broker: brokerAs('watchman', [...cluster.tcp].reverse()),
      fences: [section],
      warn: ignore,
    });
    ends.push(() => guard.close());
    const alarms: string[] = [];
    guard.onEvent(({ alarm: { member, kind } }) => alarms.push(`${member} ${kind}`));
    await guard.start();
    await eventually(() => expect(guard.$link.get().state).to.equal('up'));
    // A walk of ten minutes in twenty seconds.
    const parties = ['ines', 'tomas', 'odile'].map((id) => {
      const { clock, follow } = walker(30, AN_HOUR_AGO);
      const presence = new Presence({
        party: PARTY,
        member: id,
        broker: brokerAs(id, cluster.tcp),
        recipients: ['the hut'],
        clock,
        patience: 300,
        warn: ignore,
      });
      void presence.join(follow);
      const numbers: number[] = [];
      follow.onFix(() => numbers.push(presence.latest?.number ?? 0));
      return { presence, follow, numbers };
    });
    const walked = (places: number) =>
      eventually(() => {
        for (const { numbers } of parties) expect(numbers.at(-1) ?? 0).to.be.at.least(places);
      });
    await walked(150);
    await cluster.kill?.(0);
    await walked(520);
    // Each walk stops at a moment without queued messages; a cluster that has lost a node needs time to work
    // again.
    await Promise.all(
      parties.map(({ presence, follow }) =>
        eventually(() => {
          expect(presence.waiting.places).to.equal(0);
          follow.stop();
        }, 240),
      ),
    );
    // Then the guard has all acknowledged positions, each of them once.
    await eventually(
      () =>
        expect(parties.map(({ presence }) => presence.$status.get())).to.deep.equal([
          { state: 'off' },
          { state: 'off' },
          { state: 'off' },
        ]),
      240,
    );
    await eventually(() => expect(guard.counts.members).to.equal(0), 240);
    expect(alarms.sort()).to.deep.equal([
      'ines enter',
      'ines exit',
      'odile enter',
      'odile exit',
      'tomas enter',
      'tomas exit',
    ]);
    const sent = parties.reduce((sum, { numbers }) => sum + (numbers.at(-1) ?? 0), 0);
    expect(guard.counts.places).to.equal(sent);
    expect(sent).to.be.at.least(3 * 500);
  });

  it(
    'a network that is cut for 60 s (keep-alive 4 s): vanished in time, and then every place in ' +
      'order and once',
    async () => {
      const failure = await cut;
      expect(failure).to.equal(undefined);
    },
  );
});
