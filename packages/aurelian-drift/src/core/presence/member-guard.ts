import type { Crossing } from '../fence/crossing.js';
import { memoryOfWatch, restoreWatch, type FenceWatch } from '../fence/watch.js';
import type { Fix } from '../fix/fix.js';
import { InputError } from '../check/input-error.js';
import type { PlanGuard, PlanGuardMemory, PlanReport } from './plan-guard.js';
import { memberFactsOf, memberMemoryOf, type MemberMemory } from './member-memory.js';
import { startOf, type Alarm, type SharedPlace, type SharedState } from './messages.js';

/**
 * Compares the places of one member with fences, and checks for signs of life. Repeated and outdated places change
 * nothing, so a broker may deliver a message more than once.
 */
export class MemberGuard {
  readonly member: string;
  readonly #watch: FenceWatch;
  readonly #plan: PlanGuard | undefined;
  #session = '';
  #number = 0;
  #link = 0;
  #sent: number | undefined;
  #seen: number | undefined;
  #missed = false;
  #vanished: number | undefined;
  #retention = 3600;
  #last: { readonly lat: number; readonly lon: number } | undefined;

  /** @param plan guard of the plan of the member, if it has one. */
  constructor(member: string, watch: FenceWatch, plan?: PlanGuard) {
    this.member = member;
    this.#watch = watch;
    this.#plan = plan;
  }

  /** Whether the member is in the party: it has not left. */
  get present(): boolean {
    return this.#seen !== undefined;
  }

  /** When the record of a vanished member is due to be removed; milliseconds since 1970 UTC. */
  get clearAt(): number | undefined {
    return this.#vanished === undefined ? undefined : this.#vanished + this.#retention * 1000;
  }

  /** The state to store, so that nothing is reported twice and nothing is lost after a restart. */
  get memory(): MemberMemory {
    return memberMemoryOf({
      watch: memoryOfWatch(this.#watch),
      session: this.#session,
      number: this.#number,
      link: this.#link,
      sent: this.#sent,
      seen: this.#seen,
      missed: this.#missed,
      vanished: this.#vanished,
      retention: this.#retention,
      last: this.#last,
      plan: this.#plan?.memory,
    });
  }

  /**
   * Restores a stored state. Returns alarms for fences that no longer exist.
   *
   * @throws {InputError} for a text that is not a state, or is damaged; nothing has changed then.
   */
  restore(kept: string): Alarm[] {
    const facts = memberFactsOf(this.member, kept);
    const reported = restoreWatch(this.#watch, facts.watch);
    ({
      session: this.#session,
      number: this.#number,
      missed: this.#missed,
      retention: this.#retention,
    } = facts);
    [this.#link, this.#sent] = [facts.link, facts.sent];
    [this.#seen, this.#vanished, this.#last] = [facts.seen, facts.vanished, facts.last];
    if (facts.plan !== undefined) this.#restorePlan(facts.plan);
    return this.#alarms(reported);
  }

  /** A state of another plan is dropped: the member has a new plan, and begins it anew. */
  #restorePlan(memory: PlanGuardMemory): void {
    try {
      this.#plan?.restore(memory);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
    }
  }

  /**
   * Takes a place. Returns `undefined` for a repeated or outdated one. @param retained whether the broker stored the
   * message, so that it is not current.
   */
  takePlace(place: SharedPlace, retained: boolean, now: number): Alarm[] | undefined {
    const { session, number, time, lat, lon, accuracy, speed, course } = place;
    if (session === this.#session ? number <= this.#number : startOf(session) < startOf(this.#session))
      return undefined;
    if (session !== this.#session) this.#begin(session);
    [this.#number, this.#last] = [number, { lat, lon }];
    const received = this.#receive(retained ? Math.min(time, now) : now);
    // The message was checked when it was read.
    const fix: Fix = { time, lat, lon, origin: 'network', ...(accuracy !== undefined && { accuracy }) };
    const crossings = this.#alarms(this.#watch.take(fix));
    const moved = { ...fix, ...(speed !== undefined && { speed }), ...(course !== undefined && { course }) };
    return [...received, ...crossings, ...this.#planAlarms(this.#plan?.take(moved) ?? [])];
  }

  /** Takes a state. A repeated or outdated one changes nothing: brokers may deliver it again much later. */
  takeState({ state, session, link, sent, retention }: SharedState, retained: boolean, now: number): Alarm[] {
    if (this.#session !== '' && startOf(session) < startOf(this.#session)) return [];
    const same = session === this.#session;
    if (same && (link < this.#link || (sent !== undefined && sent <= (this.#sent ?? -Infinity)))) return [];
    this.#retention = retention;
    if (state === 'vanished') {
      // The last will of a member that has left already: nobody waits for it, and its record is removed at once.
      if (same && !this.present) this.#vanished = now - retention * 1000;
      else {
        this.#vanished ??= now;
        this.#seen ??= now;
      }
      return [];
    }
    if (!same) this.#begin(session);
    [this.#link, this.#sent] = [link, sent];
    return this.#receive(retained ? Math.min(sent ?? now, now) : now);
  }

  /** The member left, or its record was removed: no signs of life are expected. */
  takeLeave(): void {
    this.#watch.breakSegment();
    this.#plan?.breakSegment();
    this.#seen = this.#vanished = undefined;
    this.#missed = false;
  }

  /** Reports once that there was no sign of life for a number of seconds. */
  checkIn(within: number, now: number): Alarm[] {
    const seen = this.#seen;
    if (seen === undefined || this.#missed || now < seen + within * 1000) return [];
    this.#missed = true;
    return [this.#alarm('missed', seen)];
  }

  /** Reports named points of the plan that are overdue, each once; also of a member that never came. */
  checkPlan(now: number): Alarm[] {
    return this.#planAlarms(this.#plan?.checkTimes(now) ?? []);
  }

  /** A new announcement starts with an empty state. */
  #begin(session: string): void {
    if (this.#session !== '') {
      this.#watch.breakSegment();
      this.#plan?.breakSegment();
    }
    [this.#session, this.#number, this.#link, this.#sent] = [session, 0, 0, undefined];
  }

  #receive(time: number): Alarm[] {
    const missed = this.#missed;
    this.#vanished = undefined;
    if (time <= (this.#seen ?? -Infinity)) return [];
    this.#seen = time;
    this.#missed = false;
    return missed ? [this.#alarm('back', time)] : [];
  }

  #alarm(kind: 'missed' | 'back', time: number): Alarm {
    const { member } = this;
    return { id: alarmId(member, 'check-in', kind, time), member, kind, time, ...this.#last };
  }

  #planAlarms(reports: readonly PlanReport[]): Alarm[] {
    const { member } = this;
    return reports.map((report) => {
      const { kind, name, time } = report;
      const what = kind === 'overdue' ? `plan/${name ?? ''}` : 'plan';
      return { id: alarmId(member, what, kind, Math.round(time)), member, ...report };
    });
  }

  #alarms(crossings: readonly Crossing[]): Alarm[] {
    const { member } = this;
    return crossings.map(({ kind, fence, name, time, lat, lon, certainty, duration, notBefore }) => ({
      id: alarmId(member, fence, kind, Math.round(time)),
      member,
      kind,
      time,
      fence,
      name,
      lat,
      lon,
      certainty,
      duration,
      notBefore,
    }));
  }
}

/** Always the same for the same event. */
function alarmId(member: string, fence: string, kind: Alarm['kind'], time: number): string {
  return `${member}:${fence}:${kind}:${time}`;
}
