import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import type { Fence } from '../core/fence/fence.js';
import { areShared, sharedFences, type SharedFences } from '../core/fence/shared-fences.js';
import { FenceWatch } from '../core/fence/watch.js';
import { MemberGuard } from '../core/presence/member-guard.js';
import { writeAlarmMessage, type Alarm, type AlarmEvent } from '../core/presence/messages.js';
import { MessageReader, type MessageReading } from '../core/presence/read-message.js';
import type { Dropped } from '../core/presence/roster.js';
import { TICK, isAncient } from '../core/presence/signs-of-life.js';
import {
  checkId,
  isSlot,
  memberTopic,
  partyFilters,
  slotNumberOf,
  type Slot,
} from '../core/presence/topics.js';
import type { LiveValue } from '../live/live-value.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import { ownClock } from '../receiver/own-clock.js';
import { throwIfAborted, type AbortSignalLike } from '../live/abort-signal.js';
import { ASYNC_DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import type { Broker } from './broker.js';
import { memoryGuardStore, type GuardStore } from './guard-store.js';
import { Link, type LinkStatus } from './link.js';

/** Options of `PartyGuard`. */
export interface PartyGuardOptions {
  /** Id of the party. */
  readonly party: string;
  /** Broker that the members publish to. */
  readonly broker: Broker;
  /**
   * What members are watched against: a list, or `sharedFences(list, { finder: fenceIndex() })` for thousands of them.
   */
  readonly fences: readonly Fence[] | SharedFences;
  /** Seconds without a sign of life after which that is told. Default: it is not. */
  readonly checkIn?: number;
  /** The share of the members that this guard takes; others take the others. Default: all. */
  readonly slot?: Slot;
  /** Where it remembers. Default: in memory, which a restart does not survive. */
  readonly store?: GuardStore;
  /** Tells guards of one party apart that watch it for different things, in the letters of an id. Default `guard`. */
  readonly name?: string;
  /** Seconds between signs of life to the broker. Default 30. */
  readonly keepAlive?: number;
  /** Clock of the guard. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Ends it, as `close` does, when it aborts. */
  readonly signal?: AbortSignalLike;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
}

/** What a guard has done so far. */
export interface GuardCounts {
  /** Places that were taken to the fences. */
  readonly places: number;
  /** Members that are in the party. */
  readonly members: number;
  readonly alarms: number;
  readonly dropped: Dropped;
}

/** Seconds that are listened before silence counts: what waited at the broker comes first. */
const LISTENING = 10;

/**
 * Watches a party, or a slot of it, against fences, and that its members give signs of life. Each crossing and each
 * missed check-in is told under the topic of its member and kept in a log, once.
 *
 * A message is acknowledged only when what came of it is stored, and the broker keeps for a guard that is away what it
 * has not acknowledged: a guard that was killed goes on where it stopped.
 */
export class PartyGuard {
  readonly #options: PartyGuardOptions;
  readonly #fences: SharedFences;
  readonly #slot: Slot;
  readonly #clock: Clock;
  readonly #warn: Warn;
  readonly #store: GuardStore;
  readonly #link: Link;
  readonly #reader: MessageReader;
  readonly #guards = new Map<string, MemberGuard>();
  readonly #events: Emitter<AlarmEvent>;
  readonly #dropped: Record<keyof Dropped, number> = {
    forged: 0,
    oversized: 0,
    malformed: 0,
    ancient: 0,
    repeated: 0,
  };
  /** What is being done: one thing after the other. */
  #work: Promise<unknown> = Promise.resolve();
  #places = 0;
  #alarms = 0;
  #telling = false;
  #hearsFrom = Infinity;
  readonly #lifetime: Lifetime;

  /** @throws {InputError} for a misspelt option, a bad fence, or a value out of range. */
  constructor(options: PartyGuardOptions) {
    checkOptions('PartyGuard', options, {
      party: anything,
      broker: (value) => (value instanceof Object ? undefined : 'must be mqttBroker(…)'),
      fences: (value) =>
        Array.isArray(value) || areShared(value) ? undefined : 'must be a list of fences, or sharedFences(…)',
      checkIn: numberFrom(1, 604_800, 'seconds'),
      slot: (value) => (isSlot(value as Slot) ? undefined : 'must be a share like { number: 2, of: 4 }'),
      store: anything,
      name: anything,
      keepAlive: numberFrom(2, 3600, 'seconds'),
      clock: anything,
      warn: anything,
      signal: abortSignal,
    });
    const { party, broker, slot = { number: 1, count: 1 }, name = 'guard', keepAlive = 30 } = options;
    this.#reader = new MessageReader(checkId('party', party));
    checkId('member', name);
    this.#fences = areShared(options.fences) ? options.fences : sharedFences(options.fences);
    this.#options = options;
    this.#slot = slot;
    this.#warn = isolatedWarn(options.warn ?? consoleWarn);
    const report = warnOfListener('a PartyGuard', this.#warn);
    this.#events = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    this.#clock = ownClock(options.clock ?? systemClock, this.#lifetime);
    this.#store = options.store ?? memoryGuardStore();
    const client = `${party}.${name}.${slot.number}-${slot.count}`;
    this.#link = new Link({
      broker,
      keepAlive,
      clock: this.#clock,
      persistent: true,
      client,
      onMessage: ({ topic, payload }, retained) => this.take(topic, payload, retained),
      onUp: async (known) => {
        this.#hearsFrom = this.#clock.now();
        await this.#subscribe(client, partyFilters(party, slot), known);
        void this.#tellAll();
      },
    });
    this.#link.$state.listen(({ state }) => {
      if (state !== 'up') this.#hearsFrom = Infinity;
    });
    this.#lifetime.add(() => this.#close());
    this.#lifetime.endWith(options.signal);
  }

  /** How the connection to the broker stands. */
  get $link(): LiveValue<LinkStatus> {
    return this.#link.$state;
  }

  get counts(): GuardCounts {
    const members = [...this.#guards.values()].filter(({ present }) => present).length;
    return { places: this.#places, members, alarms: this.#alarms, dropped: { ...this.#dropped } };
  }

  /**
   * Takes up what it remembers, and begins.
   *
   * @throws {ClosedError} when it is closed, or the signal's reason.
   */
  async start(): Promise<void> {
    throwIfAborted(this.#lifetime);
    for (const [member, memory] of await this.#store.members()) {
      // Nothing is heard of those whom another slot has now.
      if (slotNumberOf(member, this.#slot.count) !== this.#slot.number) continue;
      const guard = this.#make(member);
      const alarms = this.#restore(guard, memory);
      if (alarms.length > 0) await this.#keep(guard, alarms);
    }
    throwIfAborted(this.#lifetime); // it may have been closed meanwhile
    this.#link.open();
    this.#tick();
  }

  /** Calls back with each alarm once it is kept. Returns what ends that. */
  onEvent(listener: (event: AlarmEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Ends, and closes the store. What comes from now on waits at the broker. */
  close(): Promise<void> {
    this.#lifetime.end(new ClosedError('the guard'));
    return this.#lifetime.released;
  }

  /** As `close`, for `await using`. */
  [ASYNC_DISPOSE](): Promise<void> {
    return this.close();
  }

  async #close(): Promise<void> {
    await this.#link.close();
    await this.#work;
    await this.#store.close();
  }

  /**
   * Takes a message, as the broker brings it; for feeding a guard from elsewhere too. Resolves once what came of it is
   * stored.
   */
  take(topic: string, payload: string, retained: boolean): Promise<void> {
    return this.#inTurn(() => this.#take(this.#reader.read(topic, payload), retained));
  }

  /**
   * The broker may know the client and not what it wants to hear, when the guard was killed between the one and the
   * other; and it may know more than the guard, whose memory was taken away. If it knows all, what waited comes by
   * itself: subscribing again would bring what is retained before that.
   */
  async #subscribe(client: string, filters: readonly string[], known: boolean): Promise<void> {
    if (known && (await this.#store.subscribed(client))) return;
    await this.#store.setSubscribed(client, false);
    await this.#link.subscribe(filters);
    await this.#store.setSubscribed(client, true);
  }

  async #take(reading: MessageReading, retained: boolean): Promise<void> {
    const now = this.#clock.now();
    if (reading.kind === 'alarm') return; // its own, or another guard's
    if (reading.kind === 'problem') {
      this.#dropped[reading.problem]++;
      return;
    }
    const guard = this.#guards.get(reading.topic.member) ?? this.#make(reading.topic.member);
    if (reading.kind === 'cleared') {
      if (!guard.present) return;
      guard.takeLeave();
      await this.#keep(guard, []);
      return;
    }
    const time = reading.kind === 'place' ? reading.place.time : (reading.state.sent ?? now);
    if (isAncient(time, now)) {
      this.#dropped.ancient++;
      return;
    }
    let alarms: readonly Alarm[] | undefined;
    try {
      alarms =
        reading.kind === 'place'
          ? guard.takePlace(reading.place, retained, now)
          : guard.takeState(reading.state, retained, now);
    } catch (error) {
      // Whatever is in one message, the broker must not bring it again for ever.
      this.#dropped.malformed++;
      this.#warn(`a message of ${guard.member} could not be taken: ${String(error)}`, error);
      await this.#recall(guard.member);
      return;
    }
    if (alarms === undefined) {
      this.#dropped.repeated++;
      return;
    }
    if (reading.kind === 'place') this.#places++;
    await this.#keep(guard, alarms);
  }

  #make(member: string): MemberGuard {
    const guard = new MemberGuard(member, new FenceWatch(this.#fences));
    this.#guards.set(member, guard);
    return guard;
  }

  /**
   * Stores what is known of a member now. If that fails it is as if nothing had been taken: the broker brings it again.
   */
  async #keep(guard: MemberGuard, alarms: readonly Alarm[]): Promise<void> {
    try {
      await this.#store.save(guard.member, guard.memory, alarms);
    } catch (error) {
      await this.#recall(guard.member);
      throw error;
    }
    if (alarms.length === 0) return;
    this.#alarms += alarms.length;
    for (const alarm of alarms) this.#events.emit({ kind: 'alarm', alarm });
    void this.#tellAll();
  }

  async #recall(member: string): Promise<void> {
    const guard = this.#make(member);
    const kept = await this.#store.members().catch(() => []);
    const memory = kept.find(([id]) => id === member)?.[1];
    if (memory !== undefined) this.#restore(guard, memory);
  }

  /** Goes on from what was kept; what is damaged is told, and the member begins anew. */
  #restore(guard: MemberGuard, memory: string): readonly Alarm[] {
    try {
      return guard.restore(memory);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      this.#warn(`${error.message}; ${guard.member} begins anew`);
      return [];
    }
  }

  /** Says what was not said yet; what the broker does not acknowledge is said again. */
  async #tellAll(): Promise<void> {
    if (this.#telling || !this.#link.isUp) return;
    this.#telling = true;
    try {
      for (
        let unreported = await this.#store.unreported();
        unreported.length > 0;
        unreported = await this.#store.unreported()
      ) {
        await Promise.all(
          unreported.map((alarm) =>
            this.#link.publish(
              {
                topic: memberTopic(this.#options.party, alarm.member, 'alarm'),
                payload: writeAlarmMessage(alarm),
              },
              false,
            ),
          ),
        );
        await this.#store.markReported(unreported);
      }
    } catch {
      // The connection was lost: upon the next it is said again.
    } finally {
      this.#telling = false;
    }
  }

  #tick(): void {
    const { checkIn } = this.#options;
    const now = this.#clock.now();
    this.#clock.after(TICK, () => this.#tick());
    // Who does not hear cannot tell that nobody speaks.
    if (now < this.#hearsFrom + LISTENING * 1000) return;
    void this.#inTurn(async () => {
      for (const guard of [...this.#guards.values()]) {
        if (checkIn !== undefined) {
          const alarms = guard.checkIn(checkIn, now);
          if (alarms.length > 0) await this.#keep(guard, alarms);
        }
        if (guard.clearAt !== undefined && now >= guard.clearAt) await this.#clear(guard);
      }
    }).catch((error: unknown) =>
      this.#warn(`what a guard found could not be stored: ${String(error)}`, error),
    );
  }

  /** Takes back the record of one who vanished and whose time is over. */
  async #clear(guard: MemberGuard): Promise<void> {
    guard.takeLeave();
    await this.#keep(guard, []);
    for (const leaf of ['place', 'state'] as const) {
      const topic = memberTopic(this.#options.party, guard.member, leaf);
      // Not waited for: the answer comes in the turn of messages. Should it be lost, watchers let it go by their own
      // clock.
      this.#link.publish({ topic, payload: '' }, true).catch(() => undefined);
    }
  }

  #inTurn(action: () => Promise<void>): Promise<void> {
    const turn = this.#work.then(action);
    this.#work = turn.then(ignore, ignore);
    return turn;
  }
}

function ignore(): void {}
