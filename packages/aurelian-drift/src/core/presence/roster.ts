import { checkOptions, numberFrom } from '../check/options.js';
import { distanceBetween } from '../geodesy/distance.js';
import type { Position } from '../geodesy/position.js';
import { PRESENT, absenceAfter, type Absence, type AbsenceStep } from './absence.js';
import { startOf, type Alarm, type SharedPlace, type SharedState } from './messages.js';
import { MessageReader, type MessageProblem } from './read-message.js';
import { OLDEST, isAncient, lateAfter, stillAfter, vanishedAfter } from './signs-of-life.js';
import { checkId } from './topics.js';

/**
 * States of a member, as a watcher sees it. `joined`: sharing is on, and no place has come yet. `moved`, `still`: there
 * are signs of life, and the place changes or does not. `asleep`: the member announced that its device rests. `late`: a
 * sign of life is overdue. `vanished`: the broker reports it, or signs of life are overdue for too long. `left`: the
 * member switched sharing off.
 */
export const MEMBER_STATES = ['joined', 'moved', 'still', 'asleep', 'late', 'vanished', 'left'] as const;
/** State of a member, as watchers see it. */
export type MemberState = (typeof MEMBER_STATES)[number];

/** A member of a party, as a watcher sees it. */
export interface Member {
  readonly id: string;
  /** Display name; the id until a name is known. */
  readonly name: string;
  readonly state: MemberState;
  /** Since when the member is in this state, milliseconds since 1970 UTC. */
  readonly since: number;
  /** Time of the last sign of life, milliseconds since 1970 UTC. */
  readonly seen: number;
  /** Last place; absent before the first, and after the member left. */
  readonly place?: SharedPlace | undefined;
  /** Places of the last minutes, oldest first: those received here, or those that the member shares. The list grows. */
  readonly trail: readonly (Position & { readonly time: number })[];
  /** Rounding of the places in metres; absent when they are exact. */
  readonly rounding?: number | undefined;
  /** The member is in an area that is not shared: the place is an older one. */
  readonly veiled: boolean;
  /** When sharing ends by itself, milliseconds since 1970 UTC. */
  readonly until?: number | undefined;
  /** For a vanished member: when its place is removed, milliseconds since 1970 UTC. */
  readonly goneAt?: number | undefined;
}

/** A change of state. */
export interface RosterEvent {
  readonly kind: MemberState;
  /** State before; absent for a new member. */
  readonly before?: MemberState | undefined;
  readonly member: Member;
}

/** Options of `Roster`. */
export interface RosterOptions {
  /** Seconds of each trail that are kept. Default 900; 0 for none. */
  readonly trail?: number;
  /** Seconds for which a member that left stays on the roster. Default 600. */
  readonly leftFor?: number;
  /** Metres that a place must change for the member to have moved. Default 20. */
  readonly beyond?: number;
  /** Maximum age of a message in seconds. Default: a day. */
  readonly oldest?: number;
}

/** Number of dropped messages, by reason. `repeated` is normal: brokers deliver at least once. */
export type Dropped = Readonly<Record<MessageProblem | 'repeated', number>>;

/** Result of a message. */
export interface RosterResult {
  readonly events: readonly RosterEvent[];
  readonly alarm?: Alarm | undefined;
  /** Reason why it was dropped, in words. */
  readonly dropped?: string | undefined;
}

/** Seconds without a retained message after a reconnection, after which the broker has sent all of them. */
const REPORT_AGAIN = 5;
/** Maximum number of remembered alarm ids, which show each alarm once. */
const ALARMS = 10_000;

interface RosterEntry {
  readonly id: string;
  said: SharedState | undefined;
  place: SharedPlace | undefined;
  /** Last place, also after the member left. */
  taken: { readonly session: string; readonly number: number } | undefined;
  /** Time of the last sign of life. */
  seen: number;
  /** Position of the current rest, and its start. */
  anchor: SharedPlace | undefined;
  absence: Absence;
  trail: (Position & { readonly time: number })[];
  /** Time of the first message after a sleep, a delay or a rest, or after the member vanished. */
  awake: number;
  /** Whether the broker has sent the state since the reconnection, and whether it is that of the known connection. */
  reported: 'no' | 'yes' | 'same';
  /** Absent before the first state. */
  state: MemberState | undefined;
  since: number;
  /** Public form; made when it is read, because most members of a large party are never looked at. */
  view: Member | undefined;
}

/**
 * Keeps the members of a party and their states, from their messages: it takes each message with the time, and returns
 * every change of state. It computes expiry itself, so a vanished member is found even when the broker does not report
 * it.
 */
export class Roster {
  readonly #reader: MessageReader;
  readonly #options: Required<RosterOptions>;
  readonly #entries = new Map<string, RosterEntry>();
  readonly #dropped: Record<MessageProblem | 'repeated', number> = {
    forged: 0,
    oversized: 0,
    malformed: 0,
    ancient: 0,
    repeated: 0,
  };
  readonly #alarms = new Set<string>();
  /** Time of the reconnection, or of the last retained message after it. */
  #again: number | undefined;

  /** @throws {InputError} for an invalid party id, a misspelt option or a value out of range. */
  constructor(party: string, options: RosterOptions = {}) {
    this.#reader = new MessageReader(checkId('party', party));
    checkOptions('Roster', options, {
      trail: numberFrom(0, 86_400, 'seconds'),
      leftFor: numberFrom(0, 86_400, 'seconds'),
      beyond: numberFrom(1, 10_000, 'metres'),
      oldest: numberFrom(1, 1e7, 'seconds'),
    });
    const { trail = 900, leftFor = 600, beyond = 20, oldest = OLDEST } = options;
    this.#options = { trail, leftFor, beyond, oldest };
  }

  /** Members of the party, also those that left lately, by their ids. */
  get members(): Member[] {
    const view = Array.from(this.#entries.values(), viewOf);
    return view.sort((a, b) => (a.id < b.id ? -1 : 1));
  }

  member(id: string): Member | undefined {
    const entry = this.#entries.get(id);
    return entry && viewOf(entry);
  }

  get dropped(): Dropped {
    return { ...this.#dropped };
  }

  /** @param retained whether the broker stored the message, so that it is not a current sign of life. */
  take(topic: string, payload: string, retained: boolean, now: number): RosterResult {
    if (retained && this.#again !== undefined) this.#again = now;
    const reading = this.#reader.read(topic, payload);
    switch (reading.kind) {
      case 'problem':
        return this.#drop(reading.problem, reading.reason);
      case 'alarm': {
        const { alarm } = reading;
        if (this.#alarms.has(alarm.id)) return this.#drop('repeated', `${alarm.id} was told before`);
        if (isAncient(alarm.time, now, this.#options.oldest))
          return this.#drop('ancient', `an alarm of ${alarm.time}`);
        this.#alarms.add(alarm.id);
        if (this.#alarms.size > ALARMS) this.#alarms.delete(this.#alarms.values().next().value as string);
        return { events: [], alarm };
      }
      case 'cleared': {
        return { events: this.#clear(reading.topic.member, { step: 'took-leave', at: now }) };
      }
      case 'place':
        return this.#takePlace(reading.topic.member, reading.place, retained, now);
      case 'state':
        return this.#takeState(reading.topic.member, reading.state, retained, now);
    }
  }

  /**
   * The connection was lost and is back: the broker sends its retained messages next, and members without one may have
   * left meanwhile.
   */
  beginAgain(now: number): void {
    if (this.#entries.size === 0) return;
    this.#again = now;
    for (const entry of this.#entries.values()) entry.reported = 'no';
  }

  /** Changes by time alone: members become late, vanished, still, or are removed. */
  tick(now: number): RosterEvent[] {
    return [...this.#whoLeftUnseen(now), ...this.#whatTimeChanged(now)];
  }

  /**
   * A member missing from the retained messages has left, provided that the broker kept its store, which shows in other
   * retained states that are unchanged. If the broker may have lost its store, the member becomes late and then
   * vanished, so that nobody is reported as left by mistake.
   */
  #whoLeftUnseen(now: number): RosterEvent[] {
    if (this.#again === undefined || now < this.#again + REPORT_AGAIN * 1000) return [];
    this.#again = undefined;
    const entries = [...this.#entries.values()];
    if (!entries.some(({ reported }) => reported === 'same')) return [];
    return entries.flatMap((entry) => {
      return entry.reported === 'no' ? this.#clear(entry.id, { step: 'missing', at: now }) : [];
    });
  }

  #whatTimeChanged(now: number): RosterEvent[] {
    return [...this.#entries.values()].flatMap((entry) => {
      const { absence } = entry;
      const retention = absence.kind === 'left' ? this.#options.leftFor * 1000 : staysOf(entry);
      if (absence.kind !== 'none' && now >= absence.at + retention) {
        this.#entries.delete(entry.id);
        return [];
      }
      return this.#settle(entry, now);
    });
  }

  #takePlace(id: string, place: SharedPlace, retained: boolean, now: number): RosterResult {
    const { time, session, number } = place;
    if (isAncient(time, now, this.#options.oldest))
      return this.#drop('ancient', `a place of ${new Date(time).toISOString()}`);
    const entry = this.#entries.get(id) ?? this.#begin(id, now);
    const last = entry.taken;
    const newest = last?.session ?? entry.said?.session;
    if (newest !== undefined && session !== newest && startOf(session) < startOf(newest))
      return this.#drop('ancient', `a place of an earlier session of ${id}`);
    if (last?.session === session && number <= last.number)
      return this.#drop('repeated', `place ${number} of ${id} after place ${last.number}`);
    entry.place = entry.taken = place;
    if (
      entry.anchor === undefined ||
      entry.anchor.session !== session ||
      this.#isBeyond(entry.anchor, place)
    ) {
      entry.anchor = place;
    }
    this.#keepTrail(entry, place);
    // A current message shows that the member has neither left nor vanished; a retained one shows nothing.
    if (!retained) entry.absence = absenceAfter(entry.absence, { step: 'heard' });
    this.#receive(entry, retained ? time : now, now);
    if (retained && entry.said !== undefined) vanishedBefore(entry, entry.said);
    return { events: this.#settle(entry, now) };
  }

  #takeState(id: string, state: SharedState, retained: boolean, now: number): RosterResult {
    const { session, link, sent } = state;
    if (sent !== undefined && isAncient(sent, now, this.#options.oldest))
      return this.#drop('ancient', `a state of ${new Date(sent).toISOString()}`);
    const entry = this.#entries.get(id) ?? this.#begin(id, now);
    const known = entry.said;
    const newest = known?.session ?? entry.place?.session ?? session;
    const older =
      session === newest ? known !== undefined && link < known.link : startOf(session) < startOf(newest);
    if (older) return this.#drop('ancient', `a state of an earlier connection of ${id}`);
    const { absence } = entry;
    const left = absence.kind === 'left' && !absence.concluded;
    if (state.state === 'vanished' && left && known?.session === session)
      return this.#drop('ancient', `the last will of ${id}, who has left`);
    if (known?.session === session && known.link === link && (sent ?? Infinity) <= (known.sent ?? 0)) {
      // Brokers may deliver it again much later. If it was retained, it shows that the broker kept its store.
      if (retained && sent === known.sent) entry.reported = 'same';
      return this.#drop('repeated', `a state of ${id} that is not newer than the last`);
    }
    entry.reported = retained && known?.session === session && known.link === link ? 'same' : 'yes';
    if (known !== undefined && session !== known.session) this.#forgetPlaces(entry, session);
    entry.said = state;
    if (state.state === 'vanished') {
      entry.absence = absenceAfter(absence, { step: 'vanished', at: now });
      vanishedBefore(entry, state);
    } else {
      entry.absence = absenceAfter(absence, { step: 'heard' });
      this.#receive(entry, retained ? (sent ?? now) : now, now);
      if (known?.still !== undefined && state.still === undefined) entry.awake = entry.seen;
    }
    return { events: this.#settle(entry, now) };
  }

  /** The member removed a retained message; the records of vanished members are removed by others. */
  #clear(id: string, step: AbsenceStep & { readonly at: number }): readonly RosterEvent[] {
    const entry = this.#entries.get(id);
    if (entry === undefined) return NOTHING;
    const before = entry.absence;
    if (before.kind === 'vanished' && step.at >= (viewOf(entry).goneAt ?? 0)) {
      this.#entries.delete(id);
      return NOTHING;
    }
    entry.absence = absenceAfter(before, step);
    if (before.kind === 'left') return NOTHING;
    this.#forgetPlaces(entry);
    return this.#settle(entry, step.at);
  }

  /** Removes places of other sessions. */
  #forgetPlaces(entry: RosterEntry, session?: string): void {
    if (entry.place?.session === session && session !== undefined) return;
    [entry.place, entry.anchor, entry.trail] = [undefined, undefined, []];
  }

  #begin(id: string, now: number): RosterEntry {
    const entry: RosterEntry = {
      id,
      said: undefined,
      place: undefined,
      taken: undefined,
      seen: -Infinity,
      anchor: undefined,
      absence: PRESENT,
      trail: [],
      awake: -Infinity,
      reported: 'yes',
      state: undefined,
      since: now,
      view: undefined,
    };
    this.#entries.set(id, entry);
    return entry;
  }

  #receive(entry: RosterEntry, time: number, now: number): void {
    entry.seen = Math.max(entry.seen, Math.min(time, now));
    const before = entry.state;
    if (before === 'asleep' || before === 'late' || before === 'vanished') entry.awake = entry.seen;
  }

  #keepTrail(entry: RosterEntry, place: SharedPlace): void {
    const { trail } = entry;
    const { lat, lon, time } = place;
    if (this.#options.trail === 0) return;
    if (trail.length === 0) trail.push(...(place.trail ?? []));
    trail.push({ lat, lon, time });
    const from = time - this.#options.trail * 1000;
    while (trail[0] !== undefined && trail[0].time < from) trail.shift();
  }

  #isBeyond(anchor: SharedPlace, { lat, lon }: SharedPlace): boolean {
    return distanceBetween(anchor.lat, anchor.lon, lat, lon) > this.#options.beyond;
  }

  /** The current state, and its start. */
  #stateOf(entry: RosterEntry, now: number): [MemberState, number] {
    const { absence, said, seen, anchor, place, awake } = entry;
    if (absence.kind !== 'none') return [absence.kind, absence.at];
    if (said?.state === 'asleep') {
      // A member that sleeps longer than its place is retained does not wake up.
      const over = seen + staysOf(entry);
      return now >= over ? ['vanished', over] : ['asleep', said.sent ?? seen];
    }
    if (said !== undefined && now >= seen + vanishedAfter(said))
      return ['vanished', seen + vanishedAfter(said)];
    if (said !== undefined && now >= seen + lateAfter(said)) return ['late', seen + lateAfter(said)];
    if (place === undefined || anchor === undefined) return ['joined', seen];
    // The member knows this better than the noisy places show.
    if (said?.still !== undefined) return ['still', said.still];
    const moved = Math.max(anchor.time, awake);
    return now >= moved + stillAfter(said) ? ['still', anchor.time] : ['moved', moved];
  }

  #settle(entry: RosterEntry, now: number): readonly RosterEvent[] {
    const [state, since] = this.#stateOf(entry, now);
    const before = entry.state;
    // Vanished by the clock of the watcher: until the next message, or until its record is removed.
    if (state === 'vanished') entry.absence = absenceAfter(entry.absence, { step: 'vanished', at: since });
    [entry.state, entry.since, entry.view] = [state, since, undefined];
    return before === state ? NOTHING : [{ kind: state, before, member: viewOf(entry) }];
  }

  #drop(kind: MessageProblem | 'repeated', reason: string): RosterResult {
    this.#dropped[kind]++;
    return { events: [], dropped: `${kind}: ${reason}` };
  }
}

const NOTHING: readonly RosterEvent[] = [];

function viewOf(entry: RosterEntry): Member {
  const { id, said, place, trail, state = 'joined', since, seen } = entry;
  entry.view ??= {
    id,
    name: said?.name ?? id,
    state,
    since,
    seen: seen === -Infinity ? (place?.time ?? since) : seen,
    place,
    trail,
    rounding: said?.rounding,
    veiled: said?.veiled === true,
    until: said?.until,
    goneAt: state === 'vanished' ? since + staysOf(entry) : undefined,
  };
  return entry.view;
}

/** The broker does not report when a member vanished: soon after the last sign of life at the latest. */
function vanishedBefore(entry: RosterEntry, said: SharedState): void {
  const { absence, seen } = entry;
  if (absence.kind !== 'vanished' || seen === -Infinity) return;
  const at = Math.min(absence.at, seen + vanishedAfter(said));
  if (at < absence.at) entry.absence = { kind: 'vanished', at };
}

/** Milliseconds for which the place of a vanished member is retained. */
function staysOf({ said }: RosterEntry): number {
  return (said?.retention ?? 3600) * 1000;
}
