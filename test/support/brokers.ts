import { partyBroker, RIGHTS, type PartyUser } from 'aurelian-drift/node';
import type { Member, PartyWatch } from 'aurelian-drift/presence';
import { expect } from 'chai';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { copyFile, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { connect, createServer, type AddressInfo, type Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
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
  /** Of one server over TCP, or of each of a cluster. */
  readonly tcp: readonly string[];
  readonly webSocket: readonly string[];
  /** In PEM, when it speaks TLS. */
  readonly ca?: string;
  /** Ends one server (SIGKILL), and starts it again with what it wrote to disk, or without any memory. */
  readonly kill?: (server?: number) => Promise<void>;
  readonly restart?: (server?: number) => Promise<void>;
  close(): Promise<void>;
}

/** The stand-in that ships. */
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

/** Debian’s mosquitto with the configuration that ships, on free ports. */
export async function mosquitto(tls?: Certificate): Promise<RunningBroker> {
  const folder = await mkdtemp(join(tmpdir(), 'party-'));
  const [tcp, webSocket] = [await freePort(), await freePort()];
  const shipped = await readFile(
    fileURLToPath(new URL('../../deploy/mosquitto/party.conf', import.meta.url)),
    'utf8',
  );
  const security = tls === undefined ? '' : `\ncertfile ${folder}/cert.pem\nkeyfile ${folder}/key.pem`;
  const conf = shipped
    .replace('listener 1883', `listener ${tcp} 127.0.0.1`)
    .replace('listener 9001', `listener ${webSocket} 127.0.0.1`)
    .replaceAll(/^protocol .*$/gm, (line) => line + security);
  await writeFile(join(folder, 'party.conf'), `${conf}\nuser root\n`);
  await writeFile(join(folder, 'rights'), RIGHTS.mosquitto(USERS));
  await writeFile(join(folder, 'passwords'), USERS.map(({ id, password }) => `${id}:${password}\n`).join(''));
  spawnSync('mosquitto_passwd', ['-U', join(folder, 'passwords')]);
  if (tls !== undefined) {
    await writeFile(join(folder, 'cert.pem'), tls.cert);
    await writeFile(join(folder, 'key.pem'), tls.key);
  }
  const server = await served('mosquitto', ['-c', 'party.conf'], folder, [tcp, webSocket]);
  const s = tls === undefined ? '' : 's';
  return {
    name: 'mosquitto',
    tcp: [`mqtt${s}://127.0.0.1:${tcp}`],
    webSocket: [`ws${s}://127.0.0.1:${webSocket}`],
    ...(tls && { ca: tls.cert }),
    kill: () => server.kill(),
    async restart() {
      await server.kill();
      await rm(join(folder, 'mosquitto.db'), { force: true });
      await server.start();
    },
    async close() {
      await server.kill();
      await rm(folder, { recursive: true, force: true });
    },
  };
}

/** A cluster of three of Debian’s nats-server with the configuration that ships, on free ports. */
export async function natsCluster(): Promise<RunningBroker> {
  const folder = await mkdtemp(join(tmpdir(), 'cluster-'));
  await copyFile(
    fileURLToPath(new URL('../../deploy/nats/party.conf', import.meta.url)),
    join(folder, 'party.conf'),
  );
  await writeFile(join(folder, 'users.conf'), RIGHTS.nats(USERS));
  const nodes = [];
  for (const name of ['one', 'two', 'three'])
    nodes.push({ name, ports: { MQTT: await freePort(), WEB: await freePort(), CLIENT: await freePort(), ROUTE: await freePort() } }); // prettier-ignore
  const routes = nodes.map(({ ports }) => `nats://127.0.0.1:${ports.ROUTE}`);
  await writeFile(join(folder, 'routes.conf'), `routes: [${routes.join(', ')}]\n`);
  const servers = await Promise.all(
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

/** A server that can be killed and started again. */
async function served(
  command: string,
  args: readonly string[],
  cwd: string,
  ports: readonly number[],
  env: Readonly<Record<string, string>> = {},
) {
  let child: ChildProcess | undefined;
  const start = async () => {
    child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    let told = '';
    for (const stream of [child.stdout, child.stderr]) stream?.on('data', (data) => (told += String(data)));
    await Promise.all(
      ports.map((port) => listening(port, () => (child?.exitCode === null ? undefined : told))),
    );
  };
  await start();
  return {
    start,
    async kill() {
      if (child === undefined || child.exitCode !== null || child.signalCode !== null) return;
      child.kill('SIGKILL');
      await once(child, 'exit');
    },
  };
}

/** Resolves once somebody listens at a port. */
async function listening(port: number, dead: () => string | undefined): Promise<void> {
  for (let tries = 0; tries < 400; tries++) {
    const text = dead();
    if (text !== undefined) throw new Error(`the server ended: ${text}`);
    const socket = connect(port, '127.0.0.1');
    const up = await new Promise<boolean>((resolve) => {
      socket.once('connect', () => resolve(true));
      socket.once('error', () => resolve(false));
    });
    socket.destroy();
    if (up) return;
    await new Promise((resolve) => setTimeout(resolve, 25));
  }
  throw new Error(`nobody listens at ${port}`);
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}

/**
 * Waits until a member is seen to have vanished, and checks that it was in time: one and a half keep-alives and 5 s after the last sign of
 * life, by what the watcher states; what is waited is longer by what a machine takes that does much beside.
 */
export async function vanished(watch: PartyWatch, id: string, keepAlive: number): Promise<Member> {
  const limit = 1.5 * keepAlive + 5;
  const member = await eventually(() => {
    const found = watch.$members.get().find((each) => each.id === id);
    expect(found).to.include({ id, state: 'vanished' });
    return found as Member;
  }, limit + 3);
  expect((member.since - member.seen) / 1000).to.be.at.most(limit);
  return member;
}

export interface Certificate {
  readonly key: string;
  readonly cert: string;
}

/** A certificate of this machine’s own for 127.0.0.1, good for a day. */
export async function certificate(): Promise<Certificate> {
  const folder = await mkdtemp(join(tmpdir(), 'cert-'));
  const { status, stderr } = spawnSync(
    'openssl',
    ['req', '-x509', '-newkey', 'ec', '-pkeyopt', 'ec_paramgen_curve:prime256v1', '-nodes', '-keyout', 'key.pem', '-out', 'cert.pem', '-days', '1', '-subj', '/CN=party', '-addext', 'subjectAltName=IP:127.0.0.1'], // prettier-ignore
    { cwd: folder, encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
  const read = (name: string) => readFile(join(folder, name), 'utf8');
  const made = { key: await read('key.pem'), cert: await read('cert.pem') };
  await rm(folder, { recursive: true });
  return made;
}

/** A network between a client and a broker, that can be cut without anybody closing anything. */
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
      // A cut network tells nobody that the other end is gone.
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
    /** Whole again; what was connected over it is gone for good. */
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
