import type { Crossing } from '../fence/crossing.js';
import { memoryOfWatch, restoreWatch, type FenceWatch } from '../fence/watch.js';
import type { Fix } from '../fix/fix.js';
import { memberFactsOf, memberMemoryOf, type MemberMemory } from './member-memory.js';
import { startOf, type Alarm, type SharedPlace, type SharedState } from './messages.js';

/**
 * Watches one member against fences, and that they give signs of life. Places that come twice, or after a later one,
 * change nothing, so that a broker may deliver as often as it likes.
 */
export class MemberGuard {
  readonly member: string;
  readonly #watch: FenceWatch;
  #session = '';
  #number = 0;
  #link = 0;
  #sent: number | undefined;
  #seen: number | undefined;
  #missed = false;
  #vanished: number | undefined;
  #retention = 3600;
  #last: { readonly lat: number; readonly lon: number } | undefined;

  constructor(member: string, watch: FenceWatch) {
    this.member = member;
    this.#watch = watch;
  }

  /** Whether they are in the party: they have not left. */
  get present(): boolean {
    return this.#seen !== undefined;
  }

  /** When the record of one who vanished is to be cleared away. */
  get clearAt(): number | undefined {
    return this.#vanished === undefined ? undefined : this.#vanished + this.#retention * 1000;
  }

  /** What has to be kept, so that nothing is told twice and nothing lost after a restart. */
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
    });
  }

  /**
   * Goes on from the text of a memory that was kept. What is told is that fences have gone meanwhile.
   *
   * @throws {InputError} for what is no such memory, or is damaged; then nothing has changed.
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
    return this.#alarms(reported);
  }

  /**
   * Takes a place; `undefined` when it was taken before, or a later one was. @param retained whether it says nothing of
   * now.
   */
  takePlace(place: SharedPlace, retained: boolean, now: number): Alarm[] | undefined {
    const { session, number, time, lat, lon, accuracy } = place;
    if (session === this.#session ? number <= this.#number : startOf(session) < startOf(this.#session))
      return undefined;
    if (session !== this.#session) this.#begin(session);
    [this.#number, this.#last] = [number, { lat, lon }];
    const received = this.#receive(retained ? Math.min(time, now) : now);
    // The message was checked as it was read.
    const fix: Fix = { time, lat, lon, origin: 'network', ...(accuracy !== undefined && { accuracy }) };
    return [...received, ...this.#alarms(this.#watch.take(fix))];
  }

  /**
   * Takes a state; one that was taken before, or a later one was, changes nothing: brokers may bring it again long
   * afterwards.
   */
  takeState({ state, session, link, sent, retention }: SharedState, retained: boolean, now: number): Alarm[] {
    if (this.#session !== '' && startOf(session) < startOf(this.#session)) return [];
    const same = session === this.#session;
    if (same && (link < this.#link || (sent !== undefined && sent <= (this.#sent ?? -Infinity)))) return [];
    this.#retention = retention;
    if (state === 'vanished') {
      // The last will of one who has left already: nobody waits for them, and what is left is cleared away at once.
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

  /** They left, or their record was cleared away: nothing is expected of them. */
  takeLeave(): void {
    this.#watch.breakSegment();
    this.#seen = this.#vanished = undefined;
    this.#missed = false;
  }

  /** Tells once that no sign of life came for so many seconds. */
  checkIn(within: number, now: number): Alarm[] {
    const seen = this.#seen;
    if (seen === undefined || this.#missed || now < seen + within * 1000) return [];
    this.#missed = true;
    return [this.#alarm('missed', seen)];
  }

  /** Of an earlier announcement nothing goes on. */
  #begin(session: string): void {
    if (this.#session !== '') this.#watch.breakSegment();
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

/** The same for the same thing, however often it is found. */
function alarmId(member: string, fence: string, kind: Alarm['kind'], time: number): string {
  return `${member}:${fence}:${kind}:${time}`;
}
