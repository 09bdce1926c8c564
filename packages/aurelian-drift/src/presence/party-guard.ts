import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import type { Fence } from '../core/fence/fence.js';
import { areShared, sharedFences, type SharedFences } from '../core/fence/shared-fences.js';
import { FenceWatch } from '../core/fence/watch.js';
import type { Plan } from '../core/plan/plan.js';
import { PlanGuard } from '../core/presence/plan-guard.js';
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
  /** Fences: a list, or `sharedFences(list, { index: fenceIndex() })` for thousands. */
  readonly fences: readonly Fence[] | SharedFences;
  /** Seconds without a sign of life after which that is reported. Default: never. */
  readonly checkIn?: number;
  /**
   * Plans by the id of the member: leaving one, coming back, being overdue and finishing are reported. Default: none.
   */
  readonly plans?: Readonly<Record<string, Plan>>;
  /** Seconds after the planned time at which a named point that was not reached is overdue. Default 600. */
  readonly overdueAfter?: number;
  /** Share of the members for this guard; other guards take the others. Default: all. */
  readonly slot?: Slot;
  /** Store of its state. Default: in memory, which does not survive a restart. */
  readonly store?: GuardStore;
  /** Name that tells guards of a party with different purposes apart, in the characters of an id. Default `guard`. */
  readonly name?: string;
  /** Seconds between signs of life to the broker. Default 30. */
  readonly keepAlive?: number;
  /** Clock of the guard. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Closes the guard when it aborts. */
  readonly signal?: AbortSignalLike;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
}

/** Counts of the work of a guard. */
export interface GuardCounts {
  /** Places that were compared with the fences. */
  readonly places: number;
  /** Members in the party. */
  readonly members: number;
  readonly alarms: number;
  readonly dropped: Dropped;
}

/** Seconds of listening before silence counts: waiting messages of the broker come first. */
const LISTENING = 10;

/**
 * Compares the places of a party, or of a slot of it, with fences, and checks the signs of life of its members. Each
 * crossing and each missed check-in is published under the topic of its member and stored in a log, once.
 *
 * A message is acknowledged only after its result is stored, and the broker keeps unacknowledged messages for a guard
 * that is away: a guard that was killed continues where it stopped.
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
  /** Queue of the work: one task after the other. */
  #work: Promise<unknown> = Promise.resolve();
  #places = 0;
  #alarms = 0;
  #telling = false;
  #hearsFrom = Infinity;
  readonly #lifetime: Lifetime;

  /** @throws {InputError} for a misspelt option, an invalid fence, or a value out of range. */
  constructor(options: PartyGuardOptions) {
    checkOptions('PartyGuard', options, {
      party: anything,
      broker: (value) => (value instanceof Object ? undefined : 'must be mqttBroker(…)'),
      fences: (value) =>
        Array.isArray(value) || areShared(value) ? undefined : 'must be a list of fences, or sharedFences(…)',
      checkIn: numberFrom(1, 604_800, 'seconds'),
      plans: (value) =>
        typeof value === 'object' && !Array.isArray(value)
          ? undefined
          : 'must be plans by the ids of the members',
      overdueAfter: numberFrom(0, 86_400, 'seconds'),
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
    for (const member of Object.keys(options.plans ?? {})) checkId('member', member);
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

  /** Status of the connection to the broker, live. */
  get $link(): LiveValue<LinkStatus> {
    return this.#link.$state;
  }

  get counts(): GuardCounts {
    const members = [...this.#guards.values()].filter(({ present }) => present).length;
    return { places: this.#places, members, alarms: this.#alarms, dropped: { ...this.#dropped } };
  }

  /**
   * Restores its state, and starts.
   *
   * @throws {ClosedError} when it is closed.
   * @throws the reason of the signal.
   */
  async start(): Promise<void> {
    throwIfAborted(this.#lifetime);
    for (const [member, memory] of await this.#store.members()) {
      // Members of other slots are skipped.
      if (slotNumberOf(member, this.#slot.count) !== this.#slot.number) continue;
      const guard = this.#make(member);
      const alarms = this.#restore(guard, memory);
      if (alarms.length > 0) await this.#keep(guard, alarms);
    }
    // A member with a plan is waited for before it comes.
    for (const member of Object.keys(this.#options.plans ?? {}))
      if (slotNumberOf(member, this.#slot.count) === this.#slot.number && !this.#guards.has(member))
        this.#make(member);
    throwIfAborted(this.#lifetime); // it may have been closed meanwhile
    this.#link.open();
    this.#tick();
  }

  /** Calls the listener with each alarm after it is stored. Returns the function that unsubscribes. */
  onEvent(listener: (event: AlarmEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  /** Ends, and closes the store. Later messages wait at the broker. */
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
   * Takes a message as the broker delivers it; also for feeding a guard from another source. Resolves when the result
   * is stored.
   */
  take(topic: string, payload: string, retained: boolean): Promise<void> {
    return this.#inTurn(() => this.#take(this.#reader.read(topic, payload), retained));
  }

  /**
   * The broker may know the client but not its subscriptions, when the guard was killed in between; and it may know
   * more than the guard, whose store was deleted. If it knows everything, waiting messages arrive by themselves:
   * subscribing again would deliver retained messages before them.
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
      // A message must not be delivered again for ever, whatever it contains.
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
    const { plans = {}, overdueAfter = 600 } = this.#options;
    const plan = Object.hasOwn(plans, member) ? plans[member] : undefined;
    const guard = new MemberGuard(
      member,
      new FenceWatch(this.#fences),
      plan && new PlanGuard(plan, overdueAfter),
    );
    this.#guards.set(member, guard);
    return guard;
  }

  /** Stores the state of a member. If that fails, the state is reset: the broker delivers the message again. */
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

  /** Restores a stored state; damage is reported, and the member begins anew. */
  #restore(guard: MemberGuard, memory: string): readonly Alarm[] {
    try {
      return guard.restore(memory);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      this.#warn(`${error.message}; ${guard.member} begins anew`);
      return [];
    }
  }

  /** Publishes unreported alarms; those that the broker does not acknowledge are published again. */
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
    // Without a connection, silence means nothing.
    if (now < this.#hearsFrom + LISTENING * 1000) return;
    void this.#inTurn(async () => {
      for (const guard of [...this.#guards.values()]) {
        const alarms = [
          ...(checkIn === undefined ? [] : guard.checkIn(checkIn, now)),
          ...guard.checkPlan(now),
        ];
        if (alarms.length > 0) await this.#keep(guard, alarms);
        if (guard.clearAt !== undefined && now >= guard.clearAt) await this.#clear(guard);
      }
    }).catch((error: unknown) =>
      this.#warn(`a result of the guard could not be stored: ${String(error)}`, error),
    );
  }

  /** Removes the record of a vanished member after its retention. */
  async #clear(guard: MemberGuard): Promise<void> {
    guard.takeLeave();
    await this.#keep(guard, []);
    for (const leaf of ['place', 'state'] as const) {
      const topic = memberTopic(this.#options.party, guard.member, leaf);
      // Not awaited: the answer comes in the order of messages. If it is lost, watchers remove the member by their own
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
