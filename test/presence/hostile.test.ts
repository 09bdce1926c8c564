import { FenceWatch, InputError, fixFrom, type Fix } from 'aurelian-drift';
import { diskGuardStore, partyBroker } from 'aurelian-drift-node';
import {
  PartyGuard,
  PartyWatch,
  Roster,
  memberTopic,
  memoryGuardStore,
  mqttBroker,
  writePlaceMessage,
  readMessage,
  writeStateMessage,
  writeAlarmMessage,
} from 'aurelian-drift/presence';
import { VirtualClock, journey, memoryBroker } from 'aurelian-drift/testing';
import { ClassicLevel } from 'classic-level';
import { expect } from 'chai';
import fc from 'fast-check';
import { once } from 'node:events';
import { mkdtemp, rm } from 'node:fs/promises';
import { createServer } from 'node:http';
import { connect, createServer as createTcpServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { USERS } from '../support/brokers.js';
import { damaged } from '../support/damage.js';
import { hut, route } from '../support/device.js';
import { eventually } from '../support/eventually.js';
import { opened, sealed } from '../support/kept-text.js';
import { PARTY, section } from '../support/party.js';

const PLACE = memberTopic(PARTY, 'ines', 'place');
const session = 'mp5k2v1c-1a';

describe('a request line that is no URL', () => {
  it('is refused with 404, and the broker and the server beside it go on', async () => {
    const http = createServer((_request, response) => response.end('a page'));
    http.listen(0, '127.0.0.1');
    await once(http, 'listening');
    const broker = await partyBroker({ users: USERS, webSocketPort: 0, server: http });
    const ports = [(http.address() as AddressInfo).port, Number(new URL(broker.webSocketAddress!).port)];
    for (const port of ports) {
      for (const target of ['//', '/', '*', '/party/..//', '/%zz', 'http://[', '//party', '/par ty']) {
        const socket = connect(port, '127.0.0.1');
        socket.on('error', () => {});
        socket.write(
          `GET ${target} HTTP/1.1\r\nHost: here\r\nConnection: Upgrade\r\nUpgrade: ` +
            `websocket\r\nSec-WebSocket-Version: 13\r\nSec-WebSocket-Key: dGhlIHNhbXBsZSBub25jZQ==\r\n\r\n`,
        );
        const answer: Buffer[] = [];
        socket.on('data', (data: Buffer) => answer.push(data));
        await once(socket, 'close');
        expect(Buffer.concat(answer).toString(), target).to.match(/^HTTP\/1.1 4\d\d /);
      }
      const watch = new PartyWatch({
        party: PARTY,
        broker: mqttBroker(`ws://127.0.0.1:${port}/party?page=1`, { username: 'hut', password: 'hut-1234' }),
      });
      await eventually(() => expect(watch.$link.get().state).to.equal('up'));
      await watch.close();
    }
    await broker.close();
    http.close();
  });
});

/** A valid message of each kind. */
const place = writePlaceMessage('ines', {
  ...hut,
  time: Date.UTC(2026, 4, 14, 8),
  session,
  number: 3,
  accuracy: 8,
  trail: [{ ...hut, time: Date.UTC(2026, 4, 14, 7, 59) }],
});
const state = writeStateMessage('ines', {
  state: 'here',
  session,
  link: 1,
  sent: Date.UTC(2026, 4, 14, 8),
  keepAlive: 30,
  retention: 60,
});
const alarm = writeAlarmMessage({
  id: 'ines:a:enter:1',
  member: 'ines',
  kind: 'enter',
  time: Date.UTC(2026, 4, 14, 8),
  fence: 'a',
  name: 'A',
  ...hut,
});
const sound = { place, state, alarm } as const;
const leaves = Object.keys(sound) as (keyof typeof sound)[];
const hostile =
  '{"type":"Feature","geometry":{"type":"Point","coordinates":[{"toString":1,"valueOf":1},0]},' +
  '"properties":{"member":"ines"}}';

/** A minimal broker: it accepts every connection and answers pings, and acknowledges only what the test allows. */
async function mumbling(acknowledges: (kind: number) => boolean) {
  const published: string[] = [];
  let connections = 0;
  const server = createTcpServer((socket) => {
    let pending = Buffer.alloc(0);
    socket.on('error', () => {});
    socket.on('data', (data: Buffer) => {
      pending = Buffer.concat([pending, data]);
      for (;;) {
        // MQTT 3.1.1, 2.2: packet type and remaining length.
        let length = 0;
        let at = 1;
        for (let digit = 128, factor = 1; digit >= 128 && at < pending.length; factor *= 128) {
          digit = pending[at++]!;
          length += (digit & 127) * factor;
        }
        if (pending.length < 2 || pending.length < at + length) return;
        const kind = pending[0]! >> 4;
        const body = pending.subarray(at, at + length);
        pending = pending.subarray(at + length);
        if (kind === 1) connections++;
        if (kind === 1) socket.write(Uint8Array.of(0x20, 2, 0, 0));
        if (kind === 12) socket.write(Uint8Array.of(0xd0, 0));
        if (kind === 8 && acknowledges(kind)) socket.write(Uint8Array.of(0x90, 3, body[0]!, body[1]!, 1));
        if (kind !== 3) continue;
        const topic = body.readUInt16BE(0);
        published.push(body.toString('utf8', 2, 2 + topic));
        if (acknowledges(kind)) socket.write(Uint8Array.of(0x40, 2, body[2 + topic]!, body[3 + topic]!));
      }
    });
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  const broker = mqttBroker(`mqtt://127.0.0.1:${port}`, { patience: 0.2 });
  return { server, broker, published, connections: () => connections };
}

describe('a broker that acknowledges nothing', () => {
  it('is left, with the reason, and tried again: a subscription', async () => {
    const { server, broker, connections } = await mumbling(() => false);
    const watch = new PartyWatch({ party: PARTY, broker, warn: () => {} });
    const whys: string[] = [];
    watch.$link.listen((link) => link.state === 'down' && whys.push(link.reason));
    await eventually(() => expect([whys.length > 1, connections() > 1]).to.deep.equal([true, true]));
    expect(whys[0]).to.match(/acknowledged nothing for 0\.6\d* s/);
    await watch.close();
    server.close();
  });

  it('is left and tried again: places, which are sent once more to one that does', async () => {
    let deaf = true;
    const { server, broker, published } = await mumbling((kind) => kind !== 3 || !deaf);
    const wire = await broker.open({
      client: 'c',
      keepAlive: 30,
      persistent: false,
      onMessage: () => {},
      onClosed: () => {},
    });
    const message = { topic: PLACE, payload: 'x' };
    const refused: unknown = await wire.publish(message, true).catch((error: unknown) => error);
    expect(refused).to.have.property('kind', 'unreachable');
    deaf = false;
    const next = await broker.open({
      client: 'c',
      keepAlive: 30,
      persistent: false,
      onMessage: () => {},
      onClosed: () => {},
    });
    await next.publish(message, true);
    await next.end();
    expect(published).to.deep.equal([PLACE, PLACE]);
    server.close();
  });
});

describe('a message with anything in it', () => {
  it('is read without ever throwing, by a reader, a roster and whoever looks at the roster', () => {
    const anything = fc.oneof(
      fc.json({ maxDepth: 6 }),
      fc.constantFrom(
        hostile,
        '['.repeat(8000),
        `${'['.repeat(4000)}${']'.repeat(4000)}`,
        '{"properties":[]}',
      ),
      ...leaves.map((leaf) => damaged(JSON.parse(sound[leaf])).map((each) => JSON.stringify(each))),
    );
    const now = Date.UTC(2026, 4, 14, 8, 1);
    fc.assert(
      fc.property(
        fc.constantFrom(...leaves),
        fc.array(anything, { minLength: 1, maxLength: 4 }),
        (leaf, payloads) => {
          const roster = new Roster(PARTY);
          for (const payload of payloads) {
            const topic = memberTopic(PARTY, 'ines', leaf);
            const reading = readMessage(PARTY, topic, payload);
            if (reading.kind === 'problem') expect(reading.reason.length).to.be.within(1, 300);
            roster.take(topic, payload, false, now);
            for (const { lat, lon } of roster.members.flatMap((member) => member.place ?? []))
              expect(Math.abs(lat) <= 90 && Math.abs(lon) <= 180).to.equal(true);
            roster.tick(now + 60_000);
          }
        },
      ),
      { numRuns: 3000 },
    );
  }).timeout(240_000);

  it('of an ordinary member crashes no watcher and jams no guard: it is dropped, and the next one counts', async () => {
    const clock = new VirtualClock();
    const broker = memoryBroker({ clock });
    const warnings: string[] = [];
    const warn = (text: string) => void warnings.push(text);
    const watch = new PartyWatch({ party: PARTY, broker, clock, warn });
    const guard = new PartyGuard({ party: PARTY, broker, clock, fences: [section], warn });
    await guard.start();
    await clock.advance(1);
    broker.publish(PLACE, hostile);
    broker.publish(
      PLACE,
      writePlaceMessage('ines', {
        ...(section.kind === 'circle' ? section.centre : hut),
        time: clock.now(),
        session,
        number: 1,
        accuracy: 5,
      }),
    );
    await clock.advance(1);
    expect([watch.dropped.malformed, guard.counts.dropped.malformed]).to.deep.equal([1, 1]);
    expect([watch.$members.get().length, guard.counts.places]).to.deep.equal([1, 1]);
    await guard.close();
    await watch.close();
  });
});

/** A watch that has seen a walk past the section, and the following fixes. */
function walked(): { watch: FenceWatch; next: Fix[] } {
  const fixes = Array.from(journey(route, { seed: 4, reception: 'street' }), ({ fix }) => fix!);
  const watch = new FenceWatch([{ ...section, linger: 60 }]);
  for (const fix of fixes.slice(0, 220)) watch.take(fix);
  return { watch, next: fixes.slice(220, 420) };
}

describe('the kept state of a watch', () => {
  it(
    'is refused as a whole when it is damaged, and nothing has changed; or nothing that comes of it ' +
      'is out of order',
    () => {
      const { watch, next } = walked();
      const kept = watch.state;
      const { value } = opened(kept);
      const whole = (reported: FenceWatch) => next.flatMap((fix) => reported.take(fix));
      let refused = 0;
      fc.assert(
        fc.property(damaged(value), (state) => {
          const again = new FenceWatch([{ ...section, linger: 60 }]);
          again.restore(kept);
          const before = again.state;
          try {
            again.restore(sealed('fence-watch', 1, state));
          } catch (error) {
            expect(error).to.be.instanceOf(InputError);
            refused++;
            expect(again.state).to.deep.equal(before);
            return;
          }
          for (const { time, lat, lon, certainty } of whole(again))
            expect([time, lat, lon, certainty].every(Number.isFinite)).to.equal(true);
        }),
        { numRuns: 1000 },
      );
      expect(refused).to.be.above(500);
      expect(() => watch.restore(sealed('fence-watch', 1, { ...value, last: { lat: 'x' } }))).to.throw(
        'last.lat',
      );
      for (let i = 0; i < kept.length; i += 7)
        expect(() => watch.restore(`${kept.slice(0, i)}\u0003${kept.slice(i + 1)}`)).to.throw(InputError);
      for (const nothing of [undefined, null, 3, [], {}])
        expect(() => watch.restore(nothing as never)).to.throw(
          InputError,
          'this is not the state of a FenceWatch',
        );
    },
  ).timeout(240_000);

  it(
    'of a guard is replaced for the member, with a report, when it is damaged, in memory ' + 'or on disk',
    async () => {
      const clock = new VirtualClock();
      const store = memoryGuardStore();
      const { watch } = walked();
      const memory = {
        watch: opened(watch.state).value,
        session,
        number: 7,
        link: 1,
        missed: false,
        stays: 60,
      };
      const save = (id: string, change: object) =>
        store.save(id, { text: sealed('guarded-member', 1, { ...memory, ...change }) }, []);
      await save('ines', { watch: { ...memory.watch, fences: { orchard: { side: 3 } } } });
      await save('tomas', { number: 'seven' });
      await save('odile', {});
      const warnings: string[] = [];
      const broker = memoryBroker({ clock });
      const guard = new PartyGuard({
        party: PARTY,
        broker,
        clock,
        fences: [section],
        store,
        warn: (text) => warnings.push(text),
      });
      await guard.start();
      expect(warnings.map((text) => text.slice(text.lastIndexOf('; ')))).to.deep.equal([
        '; ines begins anew',
        '; tomas begins anew',
      ]);
      await clock.advance(1);
      broker.publish(
        PLACE,
        writePlaceMessage('ines', { ...hut, time: clock.now(), session, number: 1, accuracy: 5 }),
      );
      await clock.advance(1);
      expect(guard.counts.places).to.equal(1);
      await guard.close();

      const folder = await mkdtemp(join(tmpdir(), 'guard-'));
      const level = new ClassicLevel<string, string>(folder, { keyEncoding: 'utf8', valueEncoding: 'utf8' });
      await level.put('member/ines', '{"version":1,');
      await level.put('untold/000000000000001/x', 'nonsense');
      await level.put('untold/000000000000002/y', sealed('alarm', 1, { id: 'y' }));
      await level.close();
      const disk = await diskGuardStore(folder, { warn: (text) => warnings.push(text) });
      expect([(await disk.members()).length, await disk.unreported()]).to.deep.equal([1, []]);
      expect(warnings.filter((text) => text.includes('is left out'))).to.have.length(2);
      const onDisk = new PartyGuard({
        party: PARTY,
        broker: memoryBroker({ clock }),
        clock,
        fences: [section],
        store: disk,
        warn: (text) => warnings.push(text),
      });
      await onDisk.start();
      expect(warnings.at(-1)).to.include('ines begins anew');
      await onDisk.close();
      await rm(folder, { recursive: true });
    },
  );
});

describe('a fix of anything', () => {
  it('is made or refused with one clear error, whatever the types of its fields', () => {
    const fields = [
      'time',
      'lat',
      'lon',
      'accuracy',
      'altitude',
      'altitudeDatum',
      'altitudeAccuracy',
      'course',
      'speed',
      'origin',
      'marks',
    ];
    const value = fc.oneof(
      fc.anything(),
      fc.constantFrom({ toString: 1, valueOf: 1 }, [null], ['late'], 'sea', Symbol('x')),
    );
    fc.assert(
      fc.property(fc.dictionary(fc.constantFrom(...fields), value), (wrong) => {
        try {
          fixFrom({ time: Date.UTC(2026, 4, 14, 8), ...hut, ...wrong });
        } catch (error) {
          expect(error).to.be.instanceOf(InputError);
        }
      }),
      { numRuns: 2000 },
    );
    for (const nothing of [undefined, null, 'x', 3])
      expect(() => fixFrom(nothing as never)).to.throw(InputError, 'a fix must be an object');
  });
});
