import type { AbortSignalLike } from '../live/abort-signal.js';

/** What a broker says, or what is said to it. */
export interface WireMessage {
  readonly topic: string;
  /** Empty to take back what is kept. */
  readonly payload: string;
}

/** Options of one connection to a broker. */
export interface WireOptions {
  /** Tells this client from all others. */
  readonly client: string;
  /** Seconds between signs of life to the broker. */
  readonly keepAlive: number;
  /** What the broker says and keeps in our stead when we are gone without a word. */
  readonly will?: WireMessage | undefined;
  /** Whether the broker keeps the subscriptions, and what arrives for them, while we are away. */
  readonly persistent: boolean;
  /**
   * Called for each message, in order. The broker is told that a message was taken once what is returned has resolved.
   * `retained`: the broker had kept it from before.
   */
  readonly onMessage: (message: WireMessage, retained: boolean) => void | Promise<void>;
  /** Ends the attempt to connect. Once there is a connection, only its own methods end it. */
  readonly signal?: AbortSignalLike | undefined;
  /** The connection is over, for whatever reason but `end`. */
  readonly onClosed: (reason: string) => void;
}

/** One connection to a broker. */
export interface Wire {
  /** Whether the broker still knew this client’s subscriptions. */
  readonly known: boolean;
  /** Resolves once the broker has it. With `retain` it keeps it for who comes later. */
  publish(message: WireMessage, retain: boolean): Promise<void>;
  /** @throws {BrokerError} of kind `refused` when one of the filters may not be heard of. */
  subscribe(filters: readonly string[]): Promise<void>;
  /** Takes leave; the broker says nothing in our stead. */
  end(): Promise<void>;
  /**
   * Says this last (the broker keeps it) and takes leave, all without waiting for anything: the app may end with this
   * very call.
   */
  depart(messages: readonly WireMessage[]): void;
  /** Is gone without a word. */
  drop(): void;
}

/** Carries the messages of a party: `mqttBroker` for real, `memoryBroker` for tests and demonstrations. */
export interface Broker {
  /** How it is called in messages to people. */
  readonly name: string;
  /** @throws {BrokerError} when there is no connection, or the broker was closed. */
  open(options: WireOptions): Promise<Wire>;
  /**
   * Ends every connection that was opened through it, and opens no more. Closing twice is harmless. Left out by one
   * that keeps no account of them.
   */
  close?(): void;
}

/**
 * Why there is no connection, or why it does not do. `refused`: the broker does not want us so, and asking again does
 * not help. `unreachable`: it may be back.
 */
export class BrokerError extends Error {
  override readonly name = 'BrokerError';
  readonly kind: 'refused' | 'unreachable';

  constructor(kind: 'refused' | 'unreachable', message: string, cause?: unknown) {
    super(message, { cause });
    this.kind = kind;
  }
}
