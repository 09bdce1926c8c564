import { Lifetime } from '../live/lifetime.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn } from '../live/warn.js';
import type { Clock } from '../receiver/clock.js';
import { BrokerError, type Broker, type Wire, type WireMessage } from './broker.js';

/** Status of the connection to a broker. */
export type LinkStatus =
  | { readonly state: 'off' }
  | { readonly state: 'connecting'; readonly since: number }
  /** Connected, and subscribed to what is to be heard. */
  | { readonly state: 'up'; readonly since: number }
  /** Lost, or not found: it is tried again. */
  | { readonly state: 'down'; readonly since: number; readonly reason: string }
  /** The broker does not want us; it is not tried again. */
  | { readonly state: 'refused'; readonly reason: string };

export interface LinkOptions {
  readonly broker: Broker;
  readonly client: string;
  readonly keepAlive: number;
  readonly clock: Clock;
  readonly persistent?: boolean;
  /** Last will of a connection, by its number from 1. */
  readonly will?: (link: number) => WireMessage;
  readonly onMessage: (message: WireMessage, retained: boolean) => void | Promise<void>;
  /** The connection is open; `known` tells whether the broker still had our subscriptions. */
  readonly onUp: (known: boolean) => Promise<void>;
}

/** Seconds until the next try: at first, and at most. */
const FIRST_RETRY = 1;
const LAST_RETRY = 30;

/**
 * Seconds of uninterrupted denials, and their minimum number, after which a broker that never admitted us counts as
 * refusing. A cluster that elects a leader (nats-server: 4 to 9 s) denies every subscription until it has one. A broker
 * that admitted us before may need longer: its denials are an outage, and the link goes on trying.
 */
const DENIED_SECONDS = 15;
const DENIED_TIMES = 3;

/** A connection to a broker that is opened again whenever it is lost, until it is closed. */
export class Link {
  readonly #options: LinkOptions;
  readonly #state = liveValue<LinkStatus>({ state: 'off' });
  #wire: Wire | undefined;
  /** Uninterrupted denials: their number, and the time of the first one in milliseconds since 1970 UTC. */
  #denied = 0;
  #deniedFrom = 0;
  /** The broker has admitted us before. */
  #admitted = false;
  #count = 0;
  #retry = FIRST_RETRY;
  #cancelRetry = () => {};
  /** From opening to closing: pending work ends with it. */
  #lifetime: Lifetime | undefined;
  /** Connection attempt number; results of earlier attempts are ignored. */
  #attempt = 0;

  constructor(options: LinkOptions) {
    this.#options = options;
  }

  get $state(): LiveValue<LinkStatus> {
    return this.#state;
  }

  /** Number of connections so far. */
  get count(): number {
    return this.#count;
  }

  get isUp(): boolean {
    return this.#wire !== undefined;
  }

  open(): void {
    if (this.#lifetime !== undefined) return;
    const lifetime = new Lifetime((error) =>
      consoleWarn(`a link threw as it was closed: ${String(error)}`, error),
    );
    this.#lifetime = lifetime;
    lifetime.add(() => this.#cancelRetry());
    lifetime.add(this.#hearOfNetwork());
    this.#retry = FIRST_RETRY;
    this.#state.set({ state: 'connecting', since: this.#options.clock.now() });
    void this.#connect();
  }

  /** Rejects when there is no connection, or when it is lost before the broker has the message. */
  publish(message: WireMessage, retain: boolean): Promise<void> {
    return this.#wire?.publish(message, retain) ?? noConnection();
  }

  subscribe(filters: readonly string[]): Promise<void> {
    return this.#wire?.subscribe(filters) ?? noConnection();
  }

  /** Disconnects, until it is opened again. */
  async close(): Promise<void> {
    const wire = this.#stop();
    await wire?.end();
  }

  /** As `close`, but publishes messages first and waits for nothing: the app may end with this call. */
  depart(messages: readonly WireMessage[]): void {
    this.#stop()?.depart(messages);
  }

  /** The broker admitted the connection, but refuses the purpose. */
  refuse(reason: string): void {
    const wire = this.#stop();
    this.#state.set({ state: 'refused', reason });
    void wire?.end();
  }

  #stop(): Wire | undefined {
    const wire = this.#wire;
    const lifetime = this.#lifetime;
    this.#lifetime = undefined;
    this.#attempt++;
    this.#wire = undefined;
    lifetime?.end(undefined);
    this.#state.set({ state: 'off' });
    return wire;
  }

  async #connect(): Promise<void> {
    const { broker, client, keepAlive, persistent = false, will, onMessage, onUp, clock } = this.#options;
    const attempt = ++this.#attempt;
    const isOurs = () => attempt === this.#attempt;
    this.#cancelRetry();
    try {
      const wire = await broker.open({
        client,
        keepAlive,
        persistent,
        signal: this.#lifetime,
        will: will?.(this.#count + 1),
        onMessage: (message, retained) => (isOurs() ? onMessage(message, retained) : undefined),
        onClosed: (reason) => isOurs() && this.#lost(new BrokerError('unreachable', reason)),
      });
      if (!isOurs()) {
        void wire.end();
        return;
      }
      this.#wire = wire;
      this.#count++;
      this.#retry = FIRST_RETRY;
      await this.#begin(() => onUp(wire.known));
      // Only now: the subscriptions are complete. The connection may have been lost meanwhile.
      if (isOurs()) this.#state.set({ state: 'up', since: clock.now() });
    } catch (error) {
      if (isOurs()) this.#lost(error);
    }
  }

  /** A broker also denies subscriptions while it cannot serve them. Only continued denials are a refusal. */
  async #begin(onUp: () => Promise<void>): Promise<void> {
    const { clock } = this.#options;
    try {
      await onUp();
      this.#denied = 0;
      this.#admitted = true;
    } catch (error) {
      if (!(error instanceof BrokerError && error.kind === 'refused')) throw error;
      if (++this.#denied === 1) this.#deniedFrom = clock.now();
      const seconds = (clock.now() - this.#deniedFrom) / 1000;
      if (!this.#admitted && this.#denied >= DENIED_TIMES && seconds >= DENIED_SECONDS) throw error;
      throw new BrokerError('unreachable', error.message, error);
    }
  }

  #lost(error: unknown): void {
    const wire = this.#wire;
    this.#wire = undefined;
    this.#attempt++;
    wire?.drop();
    const reason = error instanceof Error ? error.message : String(error);
    if (error instanceof BrokerError && error.kind === 'refused') {
      this.refuse(reason);
      return;
    }
    const now = this.#state.get();
    const since = now.state === 'down' ? now.since : this.#options.clock.now();
    this.#state.set({ state: 'down', since, reason });
    // At random times, so that not all clients return at once.
    this.#cancelRetry = this.#options.clock.after(
      this.#retry * (0.5 + Math.random() / 2),
      () => void this.#connect(),
    );
    this.#retry = Math.min(LAST_RETRY, 2 * this.#retry);
  }

  /** The network is back: try at once. */
  readonly #tryNow = () => {
    if (this.#state.get().state === 'down') void this.#connect();
  };

  /** Returns the function that ends this. */
  #hearOfNetwork(): () => void {
    const page = globalThis as Partial<Pick<Window, 'addEventListener' | 'removeEventListener'>>;
    page.addEventListener?.('online', this.#tryNow);
    return () => page.removeEventListener?.('online', this.#tryNow);
  }
}

function noConnection(): Promise<never> {
  return Promise.reject(new BrokerError('unreachable', 'there is no connection'));
}
