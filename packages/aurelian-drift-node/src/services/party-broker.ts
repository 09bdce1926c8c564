import type { AedesOptions, Client } from 'aedes';
import type { IncomingMessage, Server as HttpServer } from 'node:http';
import type { Duplex } from 'node:stream';
import { createServer, type AddressInfo, type Server } from 'node:net';
import { createServer as createTlsServer } from 'node:tls';
import { createServer as createHttpsServer } from 'node:https';
import { createServer as createHttpServer } from 'node:http';
import { timingSafeEqual, createHash } from 'node:crypto';
import { InputError, type AbortSignalLike } from 'aurelian-drift';
import { mayPublish, mayRead, MESSAGE_BYTES, type Holder } from 'aurelian-drift/presence';
import {
  abortSignal,
  anything,
  checkOptions,
  closedByAwaitUsing,
  consoleWarn,
  Lifetime,
  numberFrom,
  type PartyUser,
} from 'aurelian-drift/internal';

/** Options of `partyBroker`. */
export interface PartyBrokerOptions {
  /** Users with their roles. The user name is the `id`: of a member, or the name of a viewer or guard. */
  readonly users: readonly PartyUser[];
  /** Port for MQTT over TCP, 0 for any free one. Default: none. */
  readonly port?: number;
  /** Port for MQTT over WebSocket, 0 for any free one. Default: none. */
  readonly webSocketPort?: number;
  /** An HTTP server of another service that also accepts WebSockets for the broker, at the path `/party`. */
  readonly server?: HttpServer;
  /** Address to listen at. Default 127.0.0.1. */
  readonly host?: string;
  /** Key and certificate in PEM, for TLS on TCP and WebSocket. */
  readonly tls?: { readonly key: string; readonly cert: string };
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** A running broker of a party. */
export interface PartyBroker {
  /** `mqtt://…` or `mqtts://…`; absent without a port. */
  readonly address: string | undefined;
  /** `ws://…` or `wss://…`; absent without a port for it. */
  readonly webSocketAddress: string | undefined;
  /** Ends it and all connections. Closing twice is harmless. */
  readonly close: () => Promise<void>;
}

/** Path of the WebSockets of the party. */
const PATH = '/party';
/** Maximum size of a packet in bytes: a message, its topic and the overhead. */
const PACKET_BYTES = MESSAGE_BYTES + 1024;

/**
 * A stand-in broker of MQTT 3.1.1 that knows the members of parties: each writes to its own topics only, viewers write
 * nothing, and guards publish alarms. A session belongs to the user who began it: others cannot take it over by its
 * client id. For development and tests, and for a hut without a network; it stores nothing beyond its end.
 *
 * @throws {InputError} for invalid users.
 */
export async function partyBroker(options: PartyBrokerOptions): Promise<PartyBroker> {
  checkOptions('partyBroker', options, {
    users: anything,
    port: numberFrom(0, 65_535, ''),
    webSocketPort: numberFrom(0, 65_535, ''),
    server: anything,
    host: anything,
    tls: anything,
    signal: abortSignal,
  });
  const { port, webSocketPort, server, host = '127.0.0.1', tls } = options;
  const users = new Map(options.users.map((user) => [user.id, user]));
  if (users.size < options.users.length)
    throw new InputError('bad-value', 'partyBroker: two users have the same id');
  // Loaded when it is needed, as other services are.
  const [{ Aedes }, { WebSocketServer, createWebSocketStream }] = await Promise.all([
    import('aedes'),
    import('ws'),
  ]);
  const holders = new WeakMap<Client, Holder>();
  const broker = await Aedes.createBroker({
    ...rulesOf(users, holders),
    concurrency: 1000,
    maxClientsIdLength: 256,
  });
  const lifetime = new Lifetime((error) =>
    consoleWarn(`the party’s broker threw as it was closed: ${String(error)}`, error),
  );

  const sockets = new WebSocketServer({
    noServer: true,
    maxPayload: 1 << 20, // of one frame, which may hold many packets
    handleProtocols: (protocols) => (protocols.has('mqtt') ? 'mqtt' : false),
  });
  sockets.on('connection', (socket, request) => {
    const stream = createWebSocketStream(socket);
    stream.on('error', () => stream.destroy()); // a connection that breaks is not an error of the broker
    broker.handle(stream, request);
  });
  const take = (http: HttpServer) => {
    const upgrade = (request: IncomingMessage, socket: Duplex, head: Buffer) => {
      // The request line is compared as text: it may contain invalid URLs.
      if (request.url?.split('?', 1)[0] !== PATH)
        socket.end('HTTP/1.1 404 Not Found\r\nconnection: close\r\n\r\n');
      else sockets.handleUpgrade(request, socket, head, (one) => sockets.emit('connection', one, request));
    };
    http.on('upgrade', upgrade);
    lifetime.add(() => void http.off('upgrade', upgrade));
  };
  const listen = (listener: Server | HttpServer, at: number) =>
    new Promise<number>((resolve, reject) => {
      listener.once('error', reject);
      listener.listen(at, host, () => resolve((listener.address() as AddressInfo).port));
      lifetime.add(() => new Promise<void>((done) => listener.close(() => done())));
    });

  // After its servers, which accept no more connections then: releases run in reverse order.
  lifetime.add(async () => {
    await new Promise<void>((done) => broker.close(done));
    sockets.close();
    for (const socket of sockets.clients) socket.terminate();
  });

  const name = host.includes(':') ? `[${host}]` : host;
  let address: string | undefined;
  let webSocketAddress: string | undefined;
  try {
    if (port !== undefined) {
      const tcp =
        tls === undefined ? createServer(broker.handle) : createTlsServer({ ...tls }, broker.handle);
      address = `${tls === undefined ? 'mqtt' : 'mqtts'}://${name}:${await listen(tcp, port)}`;
    }
    if (webSocketPort !== undefined) {
      const http = tls === undefined ? createHttpServer() : createHttpsServer({ ...tls });
      take(http);
      webSocketAddress = `${tls === undefined ? 'ws' : 'wss'}://${name}:${await listen(http, webSocketPort)}${PATH}`;
    }
    if (server !== undefined) take(server);
  } catch (error) {
    lifetime.end(error); // one of two ports may be open already
    throw error;
  }
  lifetime.endWith(options.signal);
  return closedByAwaitUsing({
    address,
    webSocketAddress,
    close() {
      lifetime.end(undefined);
      return lifetime.released;
    },
  });
}

function rulesOf(users: ReadonlyMap<string, PartyUser>, holders: WeakMap<Client, Holder>): AedesOptions {
  return {
    authenticate(client, username, password, done) {
      const user = users.get(username ?? '');
      if (user === undefined || !isSame(String(password ?? ''), user.password)) {
        // 5: not authorized, MQTT 3.1.1, 3.2.2.3.
        done(Object.assign(new Error('the user name or password is wrong'), { returnCode: 5 }), false);
        return;
      }
      holders.set(client, user);
      // A session belongs to its user: the same client id of another user is another session.
      (client as { id: string }).id = `${user.id}/${client.id}`;
      done(null, true);
    },
    authorizeForward(client, packet) {
      const holder = holders.get(client);
      return holder !== undefined && mayRead(holder, packet.topic) ? packet : null;
    },
    authorizePublish(client, { topic, payload }, done) {
      const holder = client === null ? undefined : holders.get(client);
      const empty = payload.length === 0;
      const allowed =
        holder !== undefined && payload.length <= PACKET_BYTES && mayPublish(holder, topic, empty);
      done(allowed ? null : new Error(`not allowed to write ${topic}`));
    },
    authorizeSubscribe(client, subscription, done) {
      const holder = holders.get(client);
      // Null refuses this one subscription.
      done(null, holder !== undefined && mayRead(holder, subscription.topic) ? subscription : null);
    },
  };
}

/** Compares two texts in a time that does not depend on where they differ. */
function isSame(one: string, other: string): boolean {
  const digest = (text: string) => createHash('sha256').update(text).digest();
  return timingSafeEqual(digest(one), digest(other));
}
