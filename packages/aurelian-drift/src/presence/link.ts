import { Lifetime } from '../live/lifetime.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn } from '../live/warn.js';
import type { Clock } from '../receiver/clock.js';
import { BrokerError, type Broker, type Wire, type WireMessage } from './broker.js';

/** How the connection to a broker stands. */
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
  /** The will of the so-manieth connection, counted from 1. */
  readonly will?: (link: number) => WireMessage;
  readonly onMessage: (message: WireMessage, retained: boolean) => void | Promise<void>;
  /** There is a connection; `known` tells whether the broker still knew our subscriptions. */
  readonly onUp: (known: boolean) => Promise<void>;
}

/** Seconds until it is tried again: the first time, and at the most. */
const FIRST_RETRY = 1;
const LAST_RETRY = 30;

/**
 * Seconds of uninterrupted denial after which a broker that never let us in is taken to refuse us, and the number of
 * denials that this takes at least. A cluster that elects a leader (nats-server: 4 to 9 s) denies every subscription
 * until it has one. One that let us in before may need longer: after the loss of a node its denial is an outage, and
 * the link goes on trying.
 */
const DENIED_SECONDS = 15;
const DENIED_TIMES = 3;

/** A connection to a broker that is made again whenever it is lost, until it is closed. */
export class Link {
  readonly #options: LinkOptions;
  readonly #state = liveValue<LinkStatus>({ state: 'off' });
  #wire: Wire | undefined;
  /** Uninterrupted denials: how many, and when the first one came (milliseconds since 1970 UTC). */
  #denied = 0;
  #deniedFrom = 0;
  /** The broker has let us hear of the party before. */
  #admitted = false;
  #count = 0;
  #retry = FIRST_RETRY;
  #cancelRetry = () => {};
  /** From an opening to its end: what is under way ends with it. */
  #lifetime: Lifetime | undefined;
  /** Of the attempt that counts: what an older one brings is let go. */
  #attempt = 0;

  constructor(options: LinkOptions) {
    this.#options = options;
  }

  get $state(): LiveValue<LinkStatus> {
    return this.#state;
  }

  /** Connections so far. */
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

  /** Rejects when there is no connection, or it is lost before the broker has it. */
  publish(message: WireMessage, retain: boolean): Promise<void> {
    return this.#wire?.publish(message, retain) ?? noConnection();
  }

  subscribe(filters: readonly string[]): Promise<void> {
    return this.#wire?.subscribe(filters) ?? noConnection();
  }

  /** Takes leave, and does not come again until it is opened. */
  async close(): Promise<void> {
    const wire = this.#stop();
    await wire?.end();
  }

  /** As `close`, but says this last, and waits for nothing: the app may end with this call. */
  depart(messages: readonly WireMessage[]): void {
    this.#stop()?.depart(messages);
  }

  /** The broker took us and does not let us do what we came for. */
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
      // Only now: what was to be heard is subscribed to. The connection may have been lost meanwhile.
      if (isOurs()) this.#state.set({ state: 'up', since: clock.now() });
    } catch (error) {
      if (isOurs()) this.#lost(error);
    }
  }

  /** A broker denies a subscription also while it cannot serve one. It refuses us only if it goes on denying. */
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
    // Not all at the same moment, when a broker comes back.
    this.#cancelRetry = this.#options.clock.after(
      this.#retry * (0.5 + Math.random() / 2),
      () => void this.#connect(),
    );
    this.#retry = Math.min(LAST_RETRY, 2 * this.#retry);
  }

  /** The network is back: there is no use in waiting. */
  readonly #tryNow = () => {
    if (this.#state.get().state === 'down') void this.#connect();
  };

  /** Returns what ends that. */
  #hearOfNetwork(): () => void {
    const page = globalThis as Partial<Pick<Window, 'addEventListener' | 'removeEventListener'>>;
    page.addEventListener?.('online', this.#tryNow);
    return () => page.removeEventListener?.('online', this.#tryNow);
  }
}

function noConnection(): Promise<never> {
  return Promise.reject(new BrokerError('unreachable', 'there is no connection'));
}
