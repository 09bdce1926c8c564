import { partyBroker, RIGHTS, type PartyUser } from 'aurelian-drift-node';
import type { Member, PartyWatch } from 'aurelian-drift/presence';
import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { copyFile, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { connect, createServer, type AddressInfo, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { freePort, served, startMosquitto, type Certificate } from '../../scripts/servers.js';
import { eventually } from './eventually.js';

export const PARTY = 'vanesk';
const user = (id: string, role: PartyUser['role']): PartyUser => ({
  id,
  role,
  party: PARTY,
  password: `${id}-1234`,
});
export const USERS = [
  user('ines', 'member'),
  user('tomas', 'member'),
  user('odile', 'member'),
  user('hut', 'viewer'),
  user('watchman', 'guard'),
];

export interface RunningBroker {
  readonly name: string;
  /** The address of one server over TCP, or of each server of a cluster. */
  readonly tcp: readonly string[];
  readonly webSocket: readonly string[];
  /** In PEM, if it uses TLS. */
  readonly ca?: string;
  /** Kills one server (SIGKILL), and starts it again with its stored state, or with an empty one. */
  readonly kill?: (server?: number) => Promise<void>;
  readonly restart?: (server?: number) => Promise<void>;
  close(): Promise<void>;
}

/** The shipped stand-in. */
export async function standIn(tls?: Certificate): Promise<RunningBroker> {
  const { address, webSocketAddress, close } = await partyBroker({
    users: USERS,
    port: 0,
    webSocketPort: 0,
    ...(tls !== undefined && { tls }),
  });
  return {
    name: 'the stand-in',
    tcp: [address!],
    webSocket: [webSocketAddress!],
    ...(tls && { ca: tls.cert }),
    close,
  };
}

/** Debian’s mosquitto with the shipped configuration. */
export async function mosquitto(tls?: Certificate): Promise<RunningBroker> {
  const { tcp, webSocket, ...server } = await startMosquitto(USERS, tls);
  return { name: 'mosquitto', tcp: [tcp], webSocket: [webSocket], ...(tls && { ca: tls.cert }), ...server };
}

/** A cluster of three of Debian’s nats-server with the shipped configuration, on free ports. */
export async function natsCluster(): Promise<RunningBroker> {
  const folder = await mkdtemp(join(tmpdir(), 'cluster-'));
  await copyFile(
    fileURLToPath(new URL('../../deploy/nats/party.conf', import.meta.url)),
    join(folder, 'party.conf'),
  );
  await writeFile(join(folder, 'users.conf'), RIGHTS.nats(USERS));
  const nodes = [];
  for (const name of ['one', 'two', 'three'])
    nodes.push({
      name,
      ports: {
        MQTT: await freePort(),
        WEB: await freePort(),
        CLIENT: await freePort(),
        ROUTE: await freePort(),
      },
    });
  const routes = nodes.map(({ ports }) => `nats://127.0.0.1:${ports.ROUTE}`);
  await writeFile(join(folder, 'routes.conf'), `routes: [${routes.join(', ')}]\n`);
  const starting = await Promise.allSettled(
    nodes.map(({ name, ports }) => {
      const at = Object.entries(ports).map(([what, port]) => [`PARTY_${what}`, `127.0.0.1:${port}`]);
      const env = {
        PARTY_NODE: name,
        PARTY_STORE: join(folder, name),
        ...(Object.fromEntries(at) as Record<string, string>),
      };
      return served('nats-server', ['-c', 'party.conf'], folder, [ports.MQTT, ports.WEB], env);
    }),
  );
  const servers = starting.flatMap((each) => (each.status === 'fulfilled' ? [each.value] : []));
  const failed = starting.find((each) => each.status === 'rejected');
  if (failed !== undefined) {
    await Promise.all(servers.map((server) => server.kill()));
    throw failed.reason;
  }
  return {
    name: 'a cluster of nats-server',
    tcp: nodes.map(({ ports }) => `mqtt://127.0.0.1:${ports.MQTT}`),
    webSocket: nodes.map(({ ports }) => `ws://127.0.0.1:${ports.WEB}/mqtt`),
    kill: (server = 0) => servers[server]!.kill(),
    restart: (server = 0) => servers[server]!.start(),
    async close() {
      await Promise.all(servers.map((server) => server.kill()));
      await rm(folder, { recursive: true, force: true });
    },
  };
}

/**
 * Waits until a member is seen to have vanished, and checks that it was in time: one and a half keep-alives and 5 s
 * after the last sign of life, by the times of the watcher, however late a loaded machine shows it.
 */
export async function vanished(watch: PartyWatch, id: string, keepAlive: number): Promise<Member> {
  const limit = 1.5 * keepAlive + 5;
  const member = await eventually(() => {
    const found = watch.$members.get().find((each) => each.id === id);
    expect(found).to.include({ id, state: 'vanished' });
    return found as Member;
  });
  expect((member.since - member.seen) / 1000).to.be.at.most(limit);
  return member;
}

/** A self-signed certificate for 127.0.0.1, valid for a day. */
export async function certificate(): Promise<Certificate> {
  const folder = await mkdtemp(join(tmpdir(), 'cert-'));
  const { status, stderr } = spawnSync(
    'openssl',
    [
      'req',
      '-x509',
      '-newkey',
      'ec',
      '-pkeyopt',
      'ec_paramgen_curve:prime256v1',
      '-nodes',
      '-keyout',
      'key.pem',
      '-out',
      'cert.pem',
      '-days',
      '1',
      '-subj',
      '/CN=party',
      '-addext',
      'subjectAltName=IP:127.0.0.1',
    ],
    { cwd: folder, encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
  const read = (name: string) => readFile(join(folder, name), 'utf8');
  const made = { key: await read('key.pem'), cert: await read('cert.pem') };
  await rm(folder, { recursive: true });
  return made;
}

/** A network between a client and a broker that can be cut without closing a connection. */
export async function network(to: string) {
  const { hostname, port, protocol } = new URL(to);
  const pairs = new Set<readonly [Socket, Socket]>();
  let cut = false;
  const server = createServer((near) => {
    const far = connect(Number(port), hostname);
    const pair = [near, far] as const;
    for (const [from, into] of [pair, [far, near] as const]) {
      from.on('data', (data) => !cut && into.write(data));
      from.on('error', () => {});
      // A cut network notifies neither end.
      from.on('close', () => !cut && into.destroy());
    }
    pairs.add(pair);
    if (cut) near.pause();
  });
  server.listen(0, '127.0.0.1');
  await once(server, 'listening');
  return {
    address: `${protocol}//127.0.0.1:${(server.address() as AddressInfo).port}`,
    cut() {
      cut = true;
      for (const pair of pairs) for (const socket of pair) socket.pause();
    },
    /** Restored; earlier connections over it stay dead. */
    mend() {
      cut = false;
      for (const pair of pairs) for (const socket of pair) socket.destroy();
      pairs.clear();
    },
    async close() {
      for (const pair of pairs) for (const socket of pair) socket.destroy();
      server.close();
      await once(server, 'close');
    },
  };
}
