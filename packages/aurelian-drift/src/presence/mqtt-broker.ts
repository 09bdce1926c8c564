import type { IClientOptions, MqttClient } from 'mqtt';
import { checkOptions, numberFrom, someText, anything, yesOrNo } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import { MESSAGE_BYTES } from '../core/presence/messages.js';
import { closedByUsing } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { whenAborted } from '../live/abort-signal.js';
import { consoleWarn } from '../live/warn.js';
import { BrokerError, type Broker, type Wire, type WireMessage, type WireOptions } from './broker.js';

/** Options of `mqttBroker`. */
export interface MqttBrokerOptions {
  /** User name: for a member its own id. */
  readonly username?: string;
  /** Password for `username`. */
  readonly password?: string;
  /**
   * Certificates in PEM that are trusted in addition to those of the system, for a broker with its own authority. In
   * Node only: a browser has its own.
   */
  readonly ca?: string;
  /** Whether the certificate of the broker is checked. Default true. In Node only. */
  readonly checkCertificate?: boolean;
  /**
   * Maximum seconds for connecting; an acknowledgement may take three times as long, after which the connection is
   * dropped and opened again. Default 10.
   */
  readonly patience?: number;
}

const PROTOCOLS = ['mqtt:', 'mqtts:', 'ws:', 'wss:'];
/** Size in bytes above which a payload is too long in any encoding. */
const LONGEST = 4 * MESSAGE_BYTES + 4;
/** DISCONNECT, MQTT 3.1.1, 3.14. */
const DISCONNECT = Uint8Array.of(0xe0, 0);
/** Return codes of CONNACK for a permanent refusal: MQTT 3.1.1, 3.2.2.3. */
const REFUSALS: Readonly<Record<number, string>> = {
  1: 'it does not speak MQTT 3.1.1',
  2: 'it refuses our client id',
  4: 'the user name or password is wrong',
  5: 'the user name or password is wrong, or the broker refuses the user',
};

/**
 * A broker of MQTT 3.1.1 (OASIS, 2014): `mqtt://` and `mqtts://` over TCP and TLS, in Node; `ws://` and `wss://` over
 * WebSocket, everywhere. Of several addresses, such as those of a cluster, the next is tried when one does not answer.
 *
 * It needs the package `mqtt`, an optional peer dependency: `npm install mqtt`.
 *
 * @throws {InputError} for an invalid address or option.
 */
export function mqttBroker(
  addresses: string | readonly string[],
  options: MqttBrokerOptions = {},
): Broker & { close(): void } {
  checkOptions('mqttBroker', options, {
    username: someText,
    password: someText,
    ca: anything,
    checkCertificate: yesOrNo,
    patience: numberFrom(0.1, 300, 'seconds'),
  });
  const urls = [addresses].flat().map(checkAddress);
  if (urls.length === 0) throw new InputError('bad-value', 'mqttBroker needs the address of a broker');
  const { username, password, ca, checkCertificate = true, patience = 10 } = options;
  const name = new URL(urls[0] as string).host;
  let next = 0;
  const lifetime = new Lifetime((error) =>
    consoleWarn(`a broker threw as it was closed: ${String(error)}`, error),
  );
  return closedByUsing({
    name,
    async open(wire) {
      if (lifetime.aborted) throw new BrokerError('refused', `${name} was closed here`);
      const url = urls[next] as string;
      try {
        return await connected(url, wire, lifetime, patience, {
          ...(username !== undefined && { username }),
          ...(password !== undefined && { password }),
          ...(ca !== undefined && { ca }),
          rejectUnauthorized: checkCertificate,
        });
      } catch (error) {
        next = (next + 1) % urls.length;
        throw error;
      }
    },
    close: () => void lifetime.end(new ClosedError('the broker')),
  });
}

function checkAddress(address: string): string {
  if (URL.canParse(address) && PROTOCOLS.includes(new URL(address).protocol)) return address;
  throw new InputError(
    'bad-value',
    `a broker’s address is like mqtt://host:1883, mqtts://, ws:// or wss://; got "${address.slice(0, 80)}"`,
  );
}

/**
 * Tells a missing package from one that could not be loaded just now: parts of a page are loaded over the network.
 *
 * @throws {BrokerError} always: `refused` where `mqtt`, an optional peer dependency, is not installed.
 */
function missing(cause: unknown): never {
  const { code, message } = cause as { readonly code?: unknown; readonly message?: unknown };
  const absent = String(code).endsWith('MODULE_NOT_FOUND') || /\bresolve\b.*\bmqtt\b/i.test(String(message));
  throw absent
    ? new BrokerError('refused', 'mqttBroker needs the package mqtt: npm install mqtt', cause)
    : new BrokerError('unreachable', `the MQTT client could not be loaded: ${String(message)}`, cause);
}

async function connected(
  url: string,
  options: WireOptions,
  lifetime: Lifetime,
  patience: number,
  more: IClientOptions,
): Promise<Wire> {
  const { default: mqtt } = await import('mqtt').catch(missing); // loaded only when it is needed
  const { client: clientId, keepAlive, will, persistent, signal, onMessage, onClosed } = options;
  if (signal?.aborted === true) throw new BrokerError('unreachable', 'it was cancelled');
  const client = mqtt.connect(url, {
    ...more,
    connectTimeout: patience * 1000,
    clientId,
    keepalive: keepAlive,
    clean: !persistent,
    protocolVersion: 4,
    reconnectPeriod: 0, // each connection has a will of its own
    resubscribe: false,
    queueQoSZero: false,
    ...(will !== undefined && {
      will: { topic: will.topic, payload: will.payload, qos: 1, retain: true },
    }),
  });
  // Messages are handled one after the other, and each is acknowledged afterwards.
  client.handleMessage = ({ topic, payload, retain }, taken) => {
    let taking: void | Promise<void> = undefined;
    try {
      taking = onMessage({ topic, payload: textOf(payload) }, retain);
    } catch (error) {
      consoleWarn(`a message under ${topic} could not be taken: ${String(error)}`, error);
    }
    if (taking === undefined) {
      taken();
      return;
    }
    // A failed message is not acknowledged, and the broker delivers it again at the next connection.
    taking.then(
      () => taken(),
      () => client.end(true),
    );
  };
  const name = new URL(url).host;
  return new Promise((resolve, reject) => {
    let up = false;
    let reason = 'the connection was closed';
    const unsignal = whenAborted(signal, () => client.end(true)); // closes, and so rejects
    const forget = lifetime.add(() => client.end(true));
    client.on('error', (error) => {
      reason = error.message;
      if (up) return;
      const code = (error as { code?: unknown }).code;
      const refusal = typeof code === 'number' ? REFUSALS[code] : undefined;
      client.end(true);
      reject(
        refusal === undefined
          ? new BrokerError('unreachable', `${name} cannot be reached: ${error.message}`, error)
          : new BrokerError('refused', `${name} refuses: ${refusal}`, error),
      );
    });
    client.on('close', () => {
      unsignal();
      forget();
      if (up) onClosed(`${name} was lost: ${reason}`);
      else reject(new BrokerError('unreachable', `${name} cannot be reached: ${reason}`));
      client.end(true);
    });
    client.on('connect', ({ sessionPresent }) => {
      up = true;
      unsignal();
      const silent = () => {
        reason = `it acknowledged nothing for ${3 * patience} s`;
        client.end(true);
      };
      const lost = () => new BrokerError('unreachable', `${name} was lost: ${reason}`);
      resolve(new MqttWire(client, name, sessionPresent, { patience: 3 * patience, silent, lost }));
    });
  });
}

/** State of a wire's connection. */
interface WireWays {
  /** Maximum seconds for an acknowledgement. */
  readonly patience: number;
  /** No acknowledgement within that time: the connection is useless. */
  readonly silent: () => void;
  /** Reason for the end of the connection. */
  readonly lost: () => BrokerError;
}

class MqttWire implements Wire {
  readonly known: boolean;
  readonly #client: MqttClient;
  readonly #name: string;
  readonly #ways: WireWays;
  /**
   * Calls that wait for an acknowledgement, with the time of their start (milliseconds since 1970 UTC): the oldest
   * first.
   */
  readonly #waiting = new Map<(error: Error) => void, number>();
  #look: ReturnType<typeof setTimeout> | undefined;

  constructor(client: MqttClient, name: string, known: boolean, ways: WireWays) {
    this.#client = client;
    this.#name = name;
    this.known = known;
    this.#ways = ways;
    client.once('close', () => {
      clearTimeout(this.#look);
      for (const fail of [...this.#waiting.keys()]) fail(ways.lost());
    });
  }

  publish({ topic, payload }: WireMessage, retain: boolean): Promise<void> {
    return this.#acknowledged((done) => {
      this.#client.publish(topic, payload, { qos: 1, retain }, (error) => done(error));
    });
  }

  subscribe(filters: readonly string[]): Promise<void> {
    return this.#acknowledged((done) => {
      this.#client.subscribe([...filters], { qos: 1 }, (error, _granted, packet) => {
        // 128: MQTT 3.1.1, 3.9.3.
        const refused = packet?.granted.some((qos) => qos === 128) === true;
        done(refused ? new BrokerError('refused', `${this.#name} does not let us hear of the party`) : error);
      });
    });
  }

  async end(): Promise<void> {
    if (this.#client.connected) await this.#client.endAsync();
  }

  depart(messages: readonly WireMessage[]): void {
    const client = this.#client;
    if (!client.connected) return;
    for (const { topic, payload } of messages) client.publish(topic, payload, { qos: 0, retain: true });
    // After pending writes, without waiting for acknowledgements.
    client.stream.write(DISCONNECT);
    client.stream.end();
  }

  drop(): void {
    this.#client.end(true);
  }

  /** One timer for many calls: it checks how long the oldest has waited. */
  #judge(): void {
    this.#look = undefined;
    const [oldest] = this.#waiting.values();
    if (oldest === undefined) return;
    const left = oldest + this.#ways.patience * 1000 - Date.now();
    if (left > 0) this.#look = setTimeout(() => this.#judge(), left);
    else this.#ways.silent();
  }

  /** Calls that the client never answers, because the connection is gone, fail. */
  #acknowledged(ask: (done: (error?: Error | null) => void) => void): Promise<void> {
    return new Promise((resolve, reject) => {
      const fail = (error: Error) => {
        this.#waiting.delete(fail);
        reject(error);
      };
      if (!this.#client.connected) {
        fail(this.#ways.lost());
        return;
      }
      this.#waiting.set(fail, Date.now());
      this.#look ??= setTimeout(() => this.#judge(), this.#ways.patience * 1000);
      ask((error) => {
        if (error instanceof Error) {
          // The client has its own errors for calls that it can no longer serve.
          fail(error instanceof BrokerError ? error : this.#ways.lost());
          return;
        }
        this.#waiting.delete(fail);
        resolve();
      });
    });
  }
}

/** A payload as text; a payload that is too long is cut just above the limit. */
function textOf(payload: string | Uint8Array): string {
  return (payload.length > LONGEST ? payload.slice(0, LONGEST) : payload).toString();
}
