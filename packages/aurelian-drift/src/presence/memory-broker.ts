import { PERIODS } from '../core/presence/signs-of-life.js';
import { closedByUsing } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn } from '../live/warn.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { BrokerError, type Broker, type Wire, type WireMessage, type WireOptions } from './broker.js';

/** Options of `memoryBroker`. */
export interface MemoryBrokerOptions {
  /** Clock of the broker. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Whether a client may publish to a topic; otherwise the message is accepted and dropped. Default: all may. */
  readonly allows?: (client: string, topic: string) => boolean;
}

/** How a connection ends: at once, or silently, so that the broker waits for signs of life. */
export type Loss = 'closed' | 'silent';

/** A message was published. */
export interface PublishedEvent extends WireMessage {
  readonly kind: 'message';
}

/** A broker in memory, with its possible failures. */
export interface MemoryBroker extends Broker {
  /** Retained messages by topic. */
  readonly retained: ReadonlyMap<string, string>;
  /** Connected clients. */
  readonly clients: readonly string[];
  /** Whether it can be reached. When it is set to false, all connections are lost silently. */
  reachable: boolean;
  /** The connection of a client is lost; the client may connect again. */
  lose(client: string, how?: Loss): void;
  /** The network of a client is cut until the returned function is called. */
  cut(client: string, how?: Loss): () => void;
  /** The process of a client dies: its connection is lost, and the client sends nothing more. */
  kill(client: string, how?: Loss): void;
  /**
   * Ends it: all connections are lost, no last will is published, and it can no longer be reached. Closing twice is
   * harmless.
   */
  close(): void;
  /** Restarts it without any stored data. */
  restart(): void;
  /** Publishes a message, as an authorised client. */
  publish(topic: string, payload: string, retain?: boolean): void;
  /** Calls the listener with all published messages. Returns the function that unsubscribes. */
  onEvent(listener: (event: PublishedEvent) => void): () => void;
}

interface Client {
  readonly options: WireOptions;
  readonly filters: string[];
}

/**
 * A broker in memory, with a clock that a test controls: it retains messages and publishes last wills as in MQTT 3.1.1,
 * and keeps nothing for clients that are away. For tests and demonstrations; nothing leaves the process.
 */
export function memoryBroker({
  clock = systemClock,
  allows = () => true,
}: MemoryBrokerOptions = {}): MemoryBroker {
  const retained = new Map<string, string>();
  const clients = new Map<string, Client>();
  const dead = new Set<string>();
  const cutOff = new Set<string>();
  /** Cancels the pending last wills. */
  const wills = new Set<() => void>();
  const events = new Emitter<PublishedEvent>(warnOfListener('a broker in memory', consoleWarn));
  let reachable = true;

  function publish(message: WireMessage, retain: boolean): void {
    const { topic, payload } = message;
    if (retain && payload === '') retained.delete(topic);
    else if (retain) retained.set(topic, payload);
    events.emit({ kind: 'message', ...message });
    for (const { options, filters } of [...clients.values()])
      if (filters.some((filter) => covers(filter, topic))) void options.onMessage(message, false);
  }

  function lose(name: string, how: Loss = 'closed'): void {
    const client = clients.get(name);
    if (client === undefined) return;
    const { will, keepAlive, onClosed } = client.options;
    clients.delete(name);
    if (!dead.has(name)) onClosed('the connection was lost');
    const publishWill = () => will !== undefined && publish(will, true);
    if (how === 'closed') {
      publishWill();
      return;
    }
    const cancel = clock.after(PERIODS * keepAlive, () => {
      wills.delete(cancel);
      publishWill();
    });
    wills.add(cancel);
  }

  function wireOf(client: Client): Wire {
    const { client: name, onMessage } = client.options;
    const isUp = () => clients.get(name) === client;
    const reach = async () => {
      await Promise.resolve();
      if (!isUp()) throw new BrokerError('unreachable', 'the connection to the broker in memory was lost');
    };
    return {
      known: false,
      async publish(message, retain) {
        await reach();
        if (allows(name, message.topic)) publish(message, retain);
      },
      async subscribe(filters) {
        await reach();
        client.filters.push(...filters);
        for (const [topic, payload] of retained)
          if (filters.some((filter) => covers(filter, topic))) void onMessage({ topic, payload }, true);
      },
      async end() {
        await Promise.resolve();
        if (isUp()) clients.delete(name);
      },
      depart(messages) {
        if (!isUp()) return;
        for (const message of messages) if (allows(name, message.topic)) publish(message, true);
        clients.delete(name);
      },
      drop: () => isUp() && lose(name),
    };
  }

  return closedByUsing<MemoryBroker>({
    name: 'a broker in memory',
    retained,
    get clients() {
      return [...clients.keys()];
    },
    get reachable() {
      return reachable;
    },
    set reachable(value) {
      reachable = value;
      if (!value) for (const name of [...clients.keys()]) lose(name, 'silent');
    },
    lose,
    cut(name, how = 'silent') {
      cutOff.add(name);
      lose(name, how);
      return () => void cutOff.delete(name);
    },
    kill(name, how) {
      dead.add(name);
      lose(name, how);
    },
    restart() {
      retained.clear();
      for (const [name, { options }] of [...clients]) {
        clients.delete(name);
        options.onClosed('the broker was restarted');
      }
    },
    publish: (topic, payload, retain = false) => publish({ topic, payload }, retain),
    onEvent: (listener) => events.onEvent(listener),
    async open(options) {
      await Promise.resolve();
      if (!reachable || dead.has(options.client) || cutOff.has(options.client))
        throw new BrokerError('unreachable', 'the broker in memory cannot be reached');
      lose(options.client); // a second connection of a client replaces the first
      const client: Client = { options, filters: [] };
      clients.set(options.client, client);
      return wireOf(client);
    },
    close() {
      this.reachable = false;
      for (const cancel of wills) cancel();
      wills.clear();
      retained.clear();
      events.clear();
    },
  });
}

/** Whether a filter with + and # covers a topic: MQTT 3.1.1, 4.7. */
function covers(filter: string, topic: string): boolean {
  const wanted = filter.split('/');
  const parts = topic.split('/');
  if (wanted.at(-1) === '#') wanted.pop();
  else if (wanted.length !== parts.length) return false;
  return wanted.every((want, i) => want === '+' || want === parts[i]);
}
