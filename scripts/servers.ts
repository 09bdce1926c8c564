import { RIGHTS, type PartyUser } from 'aurelian-drift-node';
import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** In PEM. */
export interface Certificate {
  readonly key: string;
  readonly cert: string;
}

export interface Mosquitto {
  /** Its addresses. */
  readonly tcp: string;
  readonly webSocket: string;
  /** Ends it (SIGKILL). */
  kill(): Promise<void>;
  /** Starts it again with an empty memory. */
  restart(): Promise<void>;
  close(): Promise<void>;
}

/** Debian’s mosquitto with the shipped configuration, on free ports. */
export async function startMosquitto(users: readonly PartyUser[], tls?: Certificate): Promise<Mosquitto> {
  const folder = await mkdtemp(join(tmpdir(), 'party-'));
  const [tcp, webSocket] = [await freePort(), await freePort()];
  const shipped = await readFile(
    fileURLToPath(new URL('../deploy/mosquitto/party.conf', import.meta.url)),
    'utf8',
  );
  const security = tls === undefined ? '' : `\ncertfile ${folder}/cert.pem\nkeyfile ${folder}/key.pem`;
  const conf = shipped
    .replace('listener 1883', `listener ${tcp} 127.0.0.1`)
    .replace('listener 9001', `listener ${webSocket} 127.0.0.1`)
    .replaceAll(/^protocol .*$/gm, (line) => line + security);
  await writeFile(join(folder, 'party.conf'), `${conf}\nuser root\n`);
  await writeFile(join(folder, 'rights'), RIGHTS.mosquitto(users));
  await writeFile(join(folder, 'passwords'), users.map(({ id, password }) => `${id}:${password}\n`).join(''));
  spawnSync('mosquitto_passwd', ['-U', join(folder, 'passwords')]);
  if (tls !== undefined) {
    await writeFile(join(folder, 'cert.pem'), tls.cert);
    await writeFile(join(folder, 'key.pem'), tls.key);
  }
  const server = await served('mosquitto', ['-c', 'party.conf'], folder, [tcp, webSocket]);
  const s = tls === undefined ? '' : 's';
  return {
    tcp: `mqtt${s}://127.0.0.1:${tcp}`,
    webSocket: `ws${s}://127.0.0.1:${webSocket}`,
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

/** A server that can be killed and restarted. */
export async function served(
  command: string,
  args: readonly string[],
  cwd: string,
  ports: readonly number[],
  env: Readonly<Record<string, string>> = {},
) {
  let child: ChildProcess | undefined;
  const start = async () => {
    child = spawn(command, args, { cwd, env: { ...process.env, ...env }, stdio: ['ignore', 'pipe', 'pipe'] });
    let reported = '';
    for (const stream of [child.stdout, child.stderr])
      stream?.on('data', (data) => (reported += String(data)));
    await Promise.all(
      ports.map((port) => listening(port, () => (child?.exitCode === null ? undefined : reported))),
    );
  };
  const kill = async () => {
    if (child === undefined || child.exitCode !== null || child.signalCode !== null) return;
    child.kill('SIGKILL');
    await once(child, 'exit');
  };
  await start().catch(async (error: unknown) => {
    await kill();
    throw error;
  });
  return { start, kill };
}

/** Resolves when a port accepts connections. */
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

/**
 * Ports of this process, below the range that systems give to outgoing connections, so that no connection takes a port
 * before its server listens.
 */
const FIRST_PORT = 20_000;
const BLOCK = 60;
const BLOCKS = 200;
let taken = 0;

/** A port that is free now and is given out only once. */
export async function freePort(): Promise<number> {
  for (let tries = 0; tries < BLOCK; tries++) {
    const port = FIRST_PORT + (process.pid % BLOCKS) * BLOCK + (taken++ % BLOCK);
    const server = createServer().listen(port, '127.0.0.1');
    const free = await once(server, 'listening').then(
      () => true,
      () => false,
    );
    if (!free) continue;
    server.close();
    await once(server, 'close');
    return port;
  }
  throw new Error('no port is free');
}
