import { liveValue, type LiveValue } from '../live/live-value.js';
import { abortSignal, anything, checkOptions, numberFrom, oneOf, someText } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import type { Fix } from '../core/fix/fix.js';
import { randomFrom } from '../core/motion/random.js';
import type { SharedPlace } from '../core/presence/messages.js';
import { reportedWithin } from '../core/presence/signs-of-life.js';
import { checkId } from '../core/presence/topics.js';
import { LiveVeil } from '../core/trail/live-veil.js';
import type { Veil } from '../core/trail/veil.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { Follow } from '../receiver/follow.js';
import type { Life } from '../receiver/life.js';
import type { Receiver } from '../receiver/receiver.js';
import { whenAborted, type AbortSignalLike } from '../live/abort-signal.js';
import { ASYNC_DISPOSE } from '../live/dispose.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import { Announcement } from './announcement.js';
import type { Broker } from './broker.js';
import type { SharedBefore, SharingMemory } from './sharing-memory.js';
import type { SharingTerms } from './terms.js';

/** Options of `Presence`. */
export interface PresenceOptions {
  /** Id of the party: lower-case letters, digits, - and _. */
  readonly party: string;
  /** Id of the member, in the same characters. */
  readonly member: string;
  /** Display name, at most 80 characters. Default: the id. */
  readonly name?: string;
  /** Broker that the places are published to. */
  readonly broker: Broker;
  /** Recipients, in words for the user: the app knows who may read the party at the broker. */
  readonly recipients: readonly string[];
  /**
   * Minimum seconds between places that are sent; both `every` and `beyond` must be reached. Default 0: every fix of
   * the follow.
   */
  readonly every?: number;
  /** Metres, at least, between places that are sent. Default 0. */
  readonly beyond?: number;
  /** Metres that places are rounded to before they leave the device, 1 to 1 000 000. Default: exact. */
  readonly rounding?: number;
  /** Areas whose inside is not shared. */
  readonly veil?: Veil;
  /** Seconds of the trail that are sent with each place. Default 0. */
  readonly trail?: number;
  /** Seconds after which sharing ends by itself. Default: no limit. */
  readonly limit?: number;
  /**
   * Seconds between signs of life, 2 to 3600. Others see within one and a half times that plus 5 s that the member
   * vanished. Default 30.
   */
  readonly keepAlive?: number;
  /** Seconds for which the last place is retained after the member vanished. Default 3600. */
  readonly retention?: number;
  /** Seconds within which the broker must have confirmed the announcement. Default 10. */
  readonly patience?: number;
  /** Life cycle of the app: the `life` of the source, or `processLife()` in Node. */
  readonly life?: Life | undefined;
  /** Stores that sharing was on until the next run of the app: `pageMemory()` in a page. */
  readonly memory?: SharingMemory;
  /** A `viewer` sees others and shares nothing. Default `member`. */
  readonly role?: 'member' | 'viewer';
  /** Clock of the presence. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Switches sharing off, as `leave` does, when it aborts; nothing is shared afterwards. */
  readonly signal?: AbortSignalLike;
  /** Receives messages for the developer. Default: the console. */
  readonly warn?: Warn;
}

/** Status of sharing. */
export type PresenceStatus =
  /** Nobody sees anything. */
  | { readonly state: 'off' }
  /** It was switched on, and the broker has not confirmed it yet. */
  | { readonly state: 'joining' }
  /** The broker has the record. `veiled`: we are in an area that is not shared. */
  | { readonly state: 'sharing'; readonly veiled: boolean }
  /** It is on, and the broker cannot be reached: places wait. */
  | { readonly state: 'unreachable'; readonly reason: string }
  /** The app rests, and said so. */
  | { readonly state: 'asleep' }
  /** It was switched off, and the broker has not confirmed yet that the record is gone. */
  | { readonly state: 'leaving' }
  /** The broker does not let us share, or another device shares as us. */
  | { readonly state: 'refused'; readonly reason: string };

/** Maximum age in seconds of a receiver's last fix that is shared at once. */
const FRESH = 600;

/** Outcome of `join`: `sharing`, after the broker has confirmed it; `refused`; or `left`, switched off before that. */
export type JoinOutcome = 'sharing' | 'refused' | 'left';

type Defaults = Required<
  Pick<PresenceOptions, 'every' | 'beyond' | 'trail' | 'keepAlive' | 'retention' | 'patience'>
>;
const DEFAULTS: Defaults = Object.freeze({
  every: 0,
  beyond: 0,
  trail: 0,
  keepAlive: 30,
  retention: 3600,
  patience: 10,
});

/**
 * Shares the position of one member with its party, from `join` to `leave`. It is off until it is switched on;
 * everything is removed when it is switched off, the app is closed, or the follow ends; and it expires by itself when
 * the app, the phone or the network dies.
 */
export class Presence {
  readonly #options: PresenceOptions & Defaults;
  readonly #clock: Clock;
  readonly #warn: Warn;
  readonly #status;
  #announcement: Announcement | undefined;
  #follow: Follow | undefined;
  #ends: (() => void)[] = [];
  #until: number | undefined;
  #settle: (outcome: JoinOutcome) => void = () => {};
  #leaving: Promise<void> | undefined;
  /** Removes the record of an earlier announcement as soon as possible. */
  #retiring: Announcement | undefined;
  #lastStart = 0;

  /** @throws {InputError} for a misspelt option, an invalid id, or a value out of range. */
  constructor(options: PresenceOptions) {
    checkOptions('Presence', options, {
      party: anything,
      member: anything,
      name: (value) =>
        someText(value) ?? ((value as string).length > 80 ? 'must have at most 80 characters' : undefined),
      broker: (value) => (value instanceof Object ? undefined : 'must be mqttBroker(…)'),
      recipients: (value) =>
        Array.isArray(value) && value.length > 0 && value.every((each) => someText(each) === undefined)
          ? undefined
          : 'must name the recipients, who are shown to the user',
      every: numberFrom(0, 86_400, 'seconds'),
      beyond: numberFrom(0, 1e6, 'metres'),
      rounding: numberFrom(1, 1e6, 'metres'),
      veil: (value) => (value instanceof Object ? undefined : 'must be a Veil'),
      trail: numberFrom(0, 86_400, 'seconds'),
      limit: numberFrom(1, 604_800, 'seconds'),
      keepAlive: numberFrom(2, 3600, 'seconds'),
      retention: numberFrom(0, 86_400, 'seconds'),
      patience: numberFrom(1, 300, 'seconds'),
      life: anything,
      memory: anything,
      role: oneOf('member', 'viewer'),
      clock: anything,
      warn: anything,
      signal: abortSignal,
    });
    checkId('party', options.party);
    checkId('member', options.member);
    const given: Partial<PresenceOptions> = options;
    for (const name of ['broker', 'recipients'] as const)
      if (given[name] === undefined) throw new InputError('bad-value', `Presence: ${name} is missing`);
    this.#options = { ...DEFAULTS, ...options };
    this.#clock = options.clock ?? systemClock;
    this.#warn = isolatedWarn(options.warn ?? consoleWarn);
    this.#status = liveValue<PresenceStatus>({ state: 'off' }, warnOfListener('a Presence', this.#warn));
  }

  /** Status of sharing, live. */
  get $status(): LiveValue<PresenceStatus> {
    return this.#status;
  }

  /** Whether sharing is switched on. */
  get on(): boolean {
    return this.#announcement !== undefined;
  }

  /** The latest shared place, as others see it. */
  get latest(): SharedPlace | undefined {
    return this.#announcement?.latest;
  }

  /** Number of places that wait for the network, and of those that were dropped because too many waited. */
  get waiting(): { readonly places: number; readonly lost: number } {
    return { places: this.#announcement?.waiting ?? 0, lost: this.#announcement?.lost ?? 0 };
  }

  /**
   * An earlier run of the app was sharing when it ended. Sharing is off now. Ask the user: `join` continues it, `leave`
   * removes its record.
   */
  get before(): SharedBefore | undefined {
    const before = this.on ? undefined : this.#options.memory?.read();
    const { party, member } = this.#options;
    return before?.party === party && before.member === member ? before : undefined;
  }

  /** Terms of sharing, to be shown before and while sharing: `termsText` writes them in sentences. */
  get terms(): SharingTerms {
    const { recipients, rounding, veil, trail, limit, life, keepAlive, retention } = this.#options;
    return {
      recipients,
      rounding,
      veiled: veil !== undefined,
      trail,
      limit,
      until: this.#until,
      protection: life === undefined ? 'only-expiry' : 'cleaned-up',
      vanishedAfter: reportedWithin(keepAlive),
      retention,
    };
  }

  /**
   * Switches sharing on: the fixes of a follow, or of a receiver that is followed for it, are shared until `leave` or
   * the end of the follow. The last fix of a receiver is shared at once, if it is not older than ten minutes. A second
   * call has no further effect. The returned promise never rejects.
   *
   * @throws {InputError} for a viewer, who must not share.
   */
  join(from: Follow | Receiver): Promise<JoinOutcome> {
    const { role, memory, party, member, limit, life, signal } = this.#options;
    if (role === 'viewer')
      throw new InputError('bad-value', `${member} is a viewer of ${party}, and shares nothing`);
    if (signal?.aborted === true) return Promise.resolve('left');
    if (this.#announcement !== undefined) {
      this.#announcement.abandon();
      this.#end();
    }
    this.#retiring?.abandon(); // the record is written again
    const now = this.#clock.now();
    if (life === undefined) {
      const { vanishedAfter, retention } = this.terms;
      this.#warn(
        `Presence has no life: nobody tells it that the app is closed, so only expiry protects; others ` +
          `learn within ${vanishedAfter} s that ${member} vanished, and the last place is gone ` +
          `${retention} s later`,
      );
    }
    memory?.write({ party, member, since: now });
    this.#until = limit === undefined ? undefined : now + limit * 1000;
    const [follow, last] = followOf(from);
    this.#follow = follow;
    const announcement = this.#announce(now);
    this.#announcement = announcement;
    const outcome = new Promise<JoinOutcome>((resolve) => (this.#settle = resolve));
    this.#listen(follow, announcement);
    this.#ends.push(whenAborted(signal, () => void this.leave()));
    if (last !== undefined) announcement.take(last);
    if (!announcement.asleep) announcement.begin();
    return outcome;
  }

  /**
   * Switches sharing off and stops its follow. Resolves when the record is removed at the broker; without a network,
   * when the network is back; or when the broker refuses, as the status then tells: the record expires. Does nothing
   * when nothing is shared and no record of an earlier run is left.
   */
  leave(): Promise<void> {
    const announcement = this.#announcement;
    if (announcement !== undefined) {
      this.#end();
      this.#leaving = this.#takeBack(announcement);
    } else if (this.#leaving === undefined && this.before !== undefined) {
      this.#leaving = this.#takeBack(this.#announce(this.#clock.now()));
    }
    return this.#leaving ?? Promise.resolve();
  }

  /** As `leave`, for `await using`. */
  [ASYNC_DISPOSE](): Promise<void> {
    return this.leave();
  }

  #announce(now: number): Announcement {
    const {
      party,
      member,
      name,
      broker,
      keepAlive,
      retention,
      every,
      beyond,
      rounding,
      veil,
      trail,
      patience,
    } = this.#options;
    const chance = crypto.getRandomValues(new Uint32Array(2));
    // Later sessions of a device begin later, even when its clock does not move.
    const start = (this.#lastStart = Math.max(Math.floor(now), this.#lastStart + 1));
    const announcement: Announcement = new Announcement({
      party,
      member,
      name,
      broker,
      keepAlive,
      retention,
      every,
      beyond,
      rounding,
      trail,
      patience,
      clock: this.#clock,
      session: `${start.toString(36)}-${(chance[0] as number).toString(36)}`,
      veil: veil === undefined ? undefined : new LiveVeil(veil, randomFrom(chance[1] as number)),
      until: this.#until,
      onChange: () => this.#show(announcement),
      onOver: (reason, text) => {
        if (announcement === this.#retiring) announcement.abandon(text);
        if (announcement !== this.#announcement) return;
        if (reason === 'superseded') announcement.abandon();
        this.#end('refused');
        this.#options.memory?.write(undefined);
        this.#status.set({ state: 'refused', reason: text });
      },
    });
    return announcement;
  }

  #listen(follow: Follow, announcement: Announcement): void {
    const { life, limit } = this.#options;
    const isOurs = () => this.#announcement === announcement;
    const depart = () => {
      if (!isOurs()) return;
      // Without a connection the record stays until it expires, and the next run must know.
      if (announcement.link.state === 'up') this.#options.memory?.write(undefined);
      this.#end();
      announcement.depart();
      this.#status.set({ state: 'off' });
    };
    const wake = () => {
      if (this.#until !== undefined && this.#clock.now() >= this.#until) void this.leave();
      else announcement.wake();
    };
    this.#ends = [
      follow.onFix((fix: Fix) => announcement.take(fix)),
      follow.$status.subscribe((state) =>
        announcement.rest(state.state === 'still' ? state.since : undefined),
      ),
      follow.onEvent(({ kind }) => {
        if (kind === 'paused') announcement.sleep();
        else if (kind === 'resumed') wake();
        else if (kind === 'closed' || kind === 'killed') depart();
      }),
    ];
    if (follow.state === 'paused') announcement.sleep();
    const unsubscribe = life?.onEvent(({ kind, time }) => {
      if (time !== undefined && time < this.#clock.now()) return; // of an earlier run
      if (kind === 'frozen') announcement.sleep();
      else if (kind === 'restored' && follow.state !== 'paused') wake();
      else if (kind === 'closed' || kind === 'killed') depart();
    });
    if (unsubscribe !== undefined) this.#ends.push(unsubscribe);
    if (limit !== undefined) this.#ends.push(this.#clock.after(limit, () => void this.leave()));
    void follow.outcome.then(() => (isOurs() ? this.leave() : undefined));
  }

  /** Sharing is off: nothing is taken any more, and the follow is stopped. */
  #end(outcome: JoinOutcome = 'left'): void {
    for (const end of this.#ends) end();
    this.#ends = [];
    this.#announcement = undefined;
    this.#until = undefined;
    const follow = this.#follow;
    this.#follow = undefined;
    follow?.stop();
    this.#settle(outcome);
  }

  async #takeBack(announcement: Announcement): Promise<void> {
    this.#status.set({ state: 'leaving' });
    this.#retiring = announcement;
    const reason = await announcement.leave();
    this.#leaving = this.#retiring = undefined;
    if (this.#announcement !== undefined) return; // switched on again meanwhile
    // A later run of the app can remove the record, or it expires.
    if (reason === undefined) this.#options.memory?.write(undefined);
    this.#status.set(reason === undefined ? { state: 'off' } : { state: 'refused', reason });
  }

  #show(announcement: Announcement): void {
    if (announcement !== this.#announcement) return;
    const { link, asleep, confirmed, veiled } = announcement;
    if (asleep) this.#report({ state: 'asleep' });
    else if (link.state === 'down') this.#report({ state: 'unreachable', reason: link.reason });
    else if (confirmed) {
      this.#report({ state: 'sharing', veiled });
      this.#settle('sharing');
    } else this.#report({ state: 'joining' });
  }

  /** An unchanged status is reported once. */
  #report(status: PresenceStatus): void {
    const before: Readonly<Record<string, unknown>> = { ...this.#status.get() };
    if (Object.entries(status).some(([name, value]) => before[name] !== value)) this.#status.set(status);
  }
}

/** A follow, and the first fix. */
function followOf(from: Follow | Receiver): [Follow, Fix | undefined] {
  if (!('lastFix' in from)) return [from, from.latest];
  const last = from.lastFix();
  return [from.follow(), last === undefined || last.age > FRESH ? undefined : last.fix];
}
