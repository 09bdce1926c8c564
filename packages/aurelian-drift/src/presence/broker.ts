import type { AbortSignalLike } from '../live/abort-signal.js';

/** A message to or from a broker. */
export interface WireMessage {
  readonly topic: string;
  /** Empty to remove a retained message. */
  readonly payload: string;
}

/** Options of one connection to a broker. */
export interface WireOptions {
  /** Unique id of the client. */
  readonly client: string;
  /** Seconds between signs of life to the broker. */
  readonly keepAlive: number;
  /** Last will: published and retained by the broker when the client disappears without disconnecting. */
  readonly will?: WireMessage | undefined;
  /** Whether the broker keeps the subscriptions, and the messages for them, while the client is away. */
  readonly persistent: boolean;
  /**
   * Called for each message, in order. The message is acknowledged when the returned promise resolves. `retained`: the
   * broker had stored it before.
   */
  readonly onMessage: (message: WireMessage, retained: boolean) => void | Promise<void>;
  /** Cancels the attempt to connect. An open connection is ended by its own methods only. */
  readonly signal?: AbortSignalLike | undefined;
  /** The connection has ended, for any reason except `end`. */
  readonly onClosed: (reason: string) => void;
}

/** One connection to a broker. */
export interface Wire {
  /** Whether the broker still had the subscriptions of this client. */
  readonly known: boolean;
  /** Resolves when the broker has it. With `retain` the broker stores it for later subscribers. */
  publish(message: WireMessage, retain: boolean): Promise<void>;
  /** @throws {BrokerError} of kind `refused` when the broker denies one of the filters. */
  subscribe(filters: readonly string[]): Promise<void>;
  /** Disconnects properly: the broker does not publish the last will. */
  end(): Promise<void>;
  /** Publishes retained messages and disconnects, without waiting: the app may end with this call. */
  depart(messages: readonly WireMessage[]): void;
  /** Drops the connection without disconnecting. */
  drop(): void;
}

/** Transport for the messages of a party: `mqttBroker` for production, `memoryBroker` for tests and demonstrations. */
export interface Broker {
  /** Name in messages to people. */
  readonly name: string;
  /** @throws {BrokerError} when there is no connection, or the broker was closed. */
  open(options: WireOptions): Promise<Wire>;
  /**
   * Ends all connections that were opened through it, and opens no more. Closing twice is harmless. Left out by a
   * broker that does not keep track of them.
   */
  close?(): void;
}

/**
 * Failure of a connection. `refused`: the broker does not accept this client, and another try does not help.
 * `unreachable`: another try may succeed.
 */
export class BrokerError extends Error {
  override readonly name = 'BrokerError';
  readonly kind: 'refused' | 'unreachable';

  constructor(kind: 'refused' | 'unreachable', message: string, cause?: unknown) {
    super(message, { cause });
    this.kind = kind;
  }
}
