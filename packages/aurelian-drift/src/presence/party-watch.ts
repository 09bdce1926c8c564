import { liveValue, type LiveValue } from '../live/live-value.js';
import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import type { Alarm, AlarmEvent } from '../core/presence/messages.js';
import {
  Roster,
  type Dropped,
  type Member,
  type RosterEvent,
  type RosterOptions,
} from '../core/presence/roster.js';
import { TICK } from '../core/presence/signs-of-life.js';
import { checkId, partyFilters } from '../core/presence/topics.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { ownClock } from '../receiver/own-clock.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { ASYNC_DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { inTurn } from '../live/turn.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import type { Broker } from './broker.js';
import { Link, type LinkStatus } from './link.js';

/** Options of `PartyWatch`. */
export interface PartyWatchOptions extends RosterOptions {
  /** Id of the party. */
  readonly party: string;
  /** Broker that the members publish to. */
  readonly broker: Broker;
  /** Minimum seconds between two changes of `$members`, so that a large party can be shown. Default 0.2. */
  readonly every?: number;
  /** Seconds between signs of life to the broker. Default 30. */
  readonly keepAlive?: number;
  /** Clock of the watch. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Closes the watch when it aborts. */
  readonly signal?: AbortSignalLike;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
}

/** Event of a party: a change of a member's state, or an alarm. */
export type PartyEvent = RosterEvent | AlarmEvent;

/** Maximum number of kept alarms; the oldest is dropped first. */
const KEPT = 500;

/** Watches the members of a party, live, until it is closed. It publishes nothing. */
export class PartyWatch {
  readonly #roster: Roster;
  readonly #link: Link;
  readonly #clock: Clock;
  readonly #every: number;
  readonly #members;
  readonly #alarms;
  readonly #events: Emitter<PartyEvent>;
  readonly #lifetime: Lifetime;
  #cancelShow: (() => void) | undefined;

  /** @throws {InputError} for a misspelt option, or a value out of range. */
  constructor(options: PartyWatchOptions) {
    const {
      party,
      broker,
      every = 0.2,
      keepAlive = 30,
      clock = systemClock,
      warn = consoleWarn,
      signal,
      ...rest
    } = options;
    checkId('party', party);
    checkOptions(
      'PartyWatch',
      { broker, every, keepAlive, clock, warn, ...(signal !== undefined && { signal }), ...rest },
      {
        broker: (value) => (value instanceof Object ? undefined : 'must be mqttBroker(…)'),
        every: numberFrom(0, 60, 'seconds'),
        keepAlive: numberFrom(2, 3600, 'seconds'),
        clock: anything,
        warn: anything,
        signal: abortSignal,
        trail: anything,
        leftFor: anything,
        beyond: anything,
        oldest: anything,
      },
    );
    this.#roster = new Roster(party, rest);
    const report = warnOfListener('a PartyWatch', isolatedWarn(warn));
    this.#members = liveValue<readonly Member[]>([], report);
    this.#alarms = liveValue<readonly Alarm[]>([], report);
    this.#events = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    this.#clock = ownClock(clock, this.#lifetime);
    this.#every = every;
    const chance = crypto.getRandomValues(new Uint32Array(1))[0] as number;
    this.#link = new Link({
      broker,
      clock: this.#clock,
      keepAlive,
      client: `${party}.watch.${Math.floor(clock.now()).toString(36)}-${chance.toString(36)}`,
      onMessage: ({ topic, payload }, retained) => this.#take(topic, payload, retained),
      onUp: () => {
        this.#roster.beginAgain(this.#clock.now());
        return this.#link.subscribe(partyFilters(party));
      },
    });
    this.#link.open();
    this.#clock.after(TICK, () => this.#tick());
    this.#lifetime.add(() => this.#link.close());
    this.#lifetime.endWith(signal);
  }

  /** Members of the party, in the order of their ids, live. */
  get $members(): LiveValue<readonly Member[]> {
    return this.#members;
  }

  /** Alarms received while watching, oldest first, each once, live. */
  get $alarms(): LiveValue<readonly Alarm[]> {
    return this.#alarms;
  }

  /** Status of the connection to the broker, live: while it is down, members only age. */
  get $link(): LiveValue<LinkStatus> {
    return this.#link.$state;
  }

  /** Number of dropped messages, by reason. */
  get dropped(): Dropped {
    return this.#roster.dropped;
  }

  /**
   * Calls the listener with each change of a member's state, at once, and with each alarm, once. Returns the function
   * that unsubscribes.
   */
  onEvent(listener: (event: PartyEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Ends the connection and all timers; the members stay as they are. Closing twice is harmless. */
  close(): Promise<void> {
    this.#lifetime.end(undefined);
    return this.#lifetime.released;
  }

  /** As `close`, for `await using`. */
  [ASYNC_DISPOSE](): Promise<void> {
    return this.close();
  }

  #take(topic: string, payload: string, retained: boolean): void {
    const { events, alarm } = this.#roster.take(topic, payload, retained, this.#clock.now());
    inTurn(() => {
      this.#report(events);
      if (alarm === undefined) return;
      this.#alarms.set([...this.#alarms.get(), alarm].slice(-KEPT));
      this.#events.emit({ kind: 'alarm', alarm });
    });
    this.#cancelShow ??= this.#clock.after(this.#every, () => this.#show());
  }

  #tick(): void {
    this.#report(this.#roster.tick(this.#clock.now()));
    this.#show();
    this.#clock.after(TICK, () => this.#tick());
  }

  #report(events: readonly RosterEvent[]): void {
    for (const event of events) this.#events.emit(event);
  }

  #show(): void {
    this.#cancelShow?.();
    this.#cancelShow = undefined;
    this.#members.set(this.#roster.members);
  }
}
