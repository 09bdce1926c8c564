import type { Fix } from '../core/fix/fix.js';
import { distanceBetween } from '../core/geodesy/distance.js';
import type { Position } from '../core/geodesy/position.js';
import { rounded } from '../core/geodesy/rounded.js';
import {
  TRAIL_PLACES,
  writePlaceMessage,
  startOf,
  writeStateMessage,
  type SharedPlace,
  type SharedState,
} from '../core/presence/messages.js';
import { readMessage } from '../core/presence/read-message.js';
import { memberTopic } from '../core/presence/topics.js';
import type { LiveVeil } from '../core/trail/live-veil.js';
import type { Clock } from '../receiver/clock.js';
import { phaseAfter, type Phase, type PhaseStep } from './announcement-phase.js';
import type { Broker, WireMessage } from './broker.js';
import { Link } from './link.js';

/** Resolved options of an announcement. */
export interface AnnouncementOptions {
  readonly party: string;
  readonly member: string;
  readonly name: string | undefined;
  readonly broker: Broker;
  readonly clock: Clock;
  readonly session: string;
  readonly keepAlive: number;
  readonly retention: number;
  readonly every: number;
  readonly beyond: number;
  readonly rounding: number | undefined;
  readonly veil: LiveVeil | undefined;
  readonly trail: number;
  readonly until: number | undefined;
  /** Seconds within which the broker must have delivered our own state. */
  readonly patience: number;
  /** The status may have changed. */
  readonly onChange: () => void;
  /** It has ended by itself: another device announces the same member, or the broker refuses us. */
  readonly onOver: (reason: 'superseded' | 'refused', text: string) => void;
}

/** Maximum number of places that wait for the network; the oldest is dropped first. */
const WAITING = 10_000;
/** Number of places on their way to the broker at a time. */
const WINDOW = 16;
/** Signs of life per keep-alive period, so that a slow one is not late. */
const SIGN = 2 / 3;
/** Number of connections within which the broker must have delivered our own state. */
const TRIES = 5;

/**
 * Announcement of one member, from switching on to switching off: it keeps the retained record at the broker correct
 * over lost connections, sends waiting places in order, and removes the record at the end.
 */
export class Announcement {
  readonly #options: AnnouncementOptions;
  readonly #link: Link;
  readonly #topics: { readonly place: string; readonly state: string };
  #number = 0;
  /** Places that the broker does not have yet, oldest first; the first `#sending` are on their way. */
  readonly #queue: SharedPlace[] = [];
  #sending = 0;
  /** Number of the connection; answers of earlier connections are ignored. */
  #round = 0;
  /** The last fix, if `every` or `beyond` held it back. */
  #unsent: Fix | undefined;
  #sent: { readonly fix: Fix; readonly place: SharedPlace } | undefined;
  readonly #trail: (Position & { readonly time: number })[] = [];
  #still: number | undefined;
  #veiled = false;
  #phase: Phase = { phase: 'prepared' };
  /** Whether our own state was ever delivered, and the number of connections without it. */
  #received = false;
  #unheard = 0;
  #cancelSign = () => {};
  #cancelEcho = () => {};
  #lost = 0;

  constructor(options: AnnouncementOptions) {
    const { broker, party, member, session, keepAlive, clock } = options;
    this.#options = options;
    this.#topics = {
      place: memberTopic(party, member, 'place'),
      state: memberTopic(party, member, 'state'),
    };
    this.#link = new Link({
      broker,
      clock,
      keepAlive,
      client: `${party}.${member}.${session}`,
      will: (link) => this.#writeStateMessage('vanished', link),
      onMessage: ({ topic, payload }) => this.#receive(topic, payload),
      onUp: () => this.#up(),
    });
    this.#link.$state.listen((state) => {
      if (state.state !== 'up') this.#down();
      if (state.state === 'refused') options.onOver('refused', state.reason);
      else options.onChange();
    });
  }

  get link() {
    return this.#link.$state.get();
  }

  /** Whether the broker has delivered our own state: others can see it. */
  get confirmed(): boolean {
    return this.#phase.phase === 'here' && this.#phase.confirmed;
  }

  get asleep(): boolean {
    return this.#phase.phase === 'asleep';
  }

  get veiled(): boolean {
    return this.#veiled;
  }

  /** Places that wait for the network. */
  get waiting(): number {
    return this.#queue.length;
  }

  /** Number of places that were dropped because too many waited. */
  get lost(): number {
    return this.#lost;
  }

  /** The latest place, sent or waiting. */
  get latest(): SharedPlace | undefined {
    return this.#sent?.place;
  }

  begin(): void {
    if (this.#step({ step: 'begin' })) this.#link.open();
  }

  take(fix: Fix): void {
    if (!this.#takes) return;
    const { every, beyond, veil } = this.#options;
    const veiled = veil?.hides(fix) === true;
    if (veiled !== this.#veiled) {
      this.#veiled = veiled;
      void this.#sendState();
      this.#options.onChange();
    }
    if (veiled) {
      this.#unsent = undefined;
      return;
    }
    const last = this.#sent?.fix;
    const passes =
      last === undefined ||
      (fix.time - last.time >= every * 1000 &&
        distanceBetween(last.lat, last.lon, fix.lat, fix.lon) >= beyond);
    if (passes) this.#send(fix);
    else this.#unsent = fix;
  }

  /** Start of the current rest; `undefined` in motion. */
  rest(since: number | undefined): void {
    if (since === this.#still) return;
    this.#still = since;
    void this.#sendState();
  }

  /**
   * The device is about to rest: sends the last fix and the state `asleep`, and disconnects properly, so that the
   * member is not taken for vanished.
   */
  sleep(): void {
    if (!this.#takes) return;
    if (this.#unsent !== undefined) this.#send(this.#unsent);
    this.#step({ step: 'sleep' });
    this.#link.depart([
      ...this.#queue.map((place) => this.#writePlaceMessage(place)),
      this.#writeStateMessage('asleep', this.#link.count),
    ]);
    this.#options.onChange();
  }

  wake(): void {
    if (!this.#step({ step: 'wake' })) return;
    this.#link.open();
    this.#options.onChange();
  }

  /**
   * Removes the record. Resolves when the broker has confirmed it, which may be after a network outage; or with the
   * reason, when the announcement is abandoned.
   */
  leave(): Promise<string | undefined> {
    this.#queue.length = 0;
    this.#cancelSign();
    this.#cancelEcho();
    return new Promise((resolve) => {
      const done = (reason?: string) => resolve(reason);
      this.#step({ step: 'leave', done });
      this.#link.open();
      if (this.#link.isUp) void this.#takeBack(done);
    });
  }

  /** As `leave`, but without waiting: the app ends with this call. */
  depart(): void {
    this.#end();
    this.#link.depart(this.#cleared());
  }

  /**
   * Ends without removing anything: the record belongs to another device.
   *
   * @param reason why it could not be removed, if a removal was pending.
   */
  abandon(reason?: string): void {
    this.#end(reason);
    void this.#link.close();
  }

  /** Whether fixes are taken. */
  get #takes(): boolean {
    const { phase } = this.#phase;
    return phase === 'prepared' || phase === 'here';
  }

  /** Returns whether the step changed anything. */
  #step(step: PhaseStep): boolean {
    const before = this.#phase;
    this.#phase = phaseAfter(before, step);
    return this.#phase !== before;
  }

  #end(reason?: string): void {
    this.#cancelSign();
    this.#cancelEcho();
    const now = this.#phase;
    this.#step({ step: 'end' });
    if (now.phase === 'leaving') now.done(reason);
  }

  async #up(): Promise<void> {
    if (this.#phase.phase === 'leaving') {
      await this.#takeBack(this.#phase.done);
      return;
    }
    const { member, clock, broker, patience } = this.#options;
    const refuse = () =>
      this.#link.refuse(
        `${broker.name} tells nobody what we say as ${member}: may this user speak for ${member}?`,
      );
    // If our state was delivered before, the broker is only slow: a cluster that has lost a node, for example.
    if (!this.#received) this.#cancelEcho = clock.after(patience, () => !this.confirmed && refuse());
    // Subscribed before publishing, so that a retained record of ours arrives first. The link handles a denial.
    await this.#link.subscribe([this.#topics.state]);
    // A broker that denies publishing gives no answer, or disconnects each time.
    if (!this.#received && ++this.#unheard > TRIES) {
      refuse();
      return;
    }
    await this.#sendState();
    this.#pump();
    this.#options.onChange();
  }

  #down(): void {
    this.#round++;
    this.#sending = 0;
    this.#step({ step: 'lose' });
    this.#cancelSign();
    this.#cancelEcho();
  }

  #send(fix: Fix): void {
    this.#unsent = undefined;
    const place = this.#placeOf(fix);
    this.#sent = { fix, place };
    if (this.#queue.length >= WAITING) {
      this.#queue.splice(this.#sending, 1);
      this.#lost++;
    }
    this.#queue.push(place);
    this.#pump();
  }

  #placeOf(fix: Fix): SharedPlace {
    const { rounding, session, trail } = this.#options;
    const { time, accuracy, course, speed } = fix;
    const number = ++this.#number;
    const coarse = rounding === undefined ? undefined : rounded(fix, rounding);
    const { lat, lon } = coarse ?? fix;
    const place: SharedPlace =
      coarse === undefined
        ? { lat, lon, time, accuracy, course, speed, session, number }
        : { lat, lon, time, accuracy: coarse.accuracy + (accuracy ?? 0), session, number };
    if (trail === 0) return place;
    // As many as a message holds, evenly spaced in time.
    const shared = this.#trail.filter((at) => at.time >= time - trail * 1000);
    if (shared.length === 0 || time - (this.#trail.at(-1)?.time ?? 0) >= (trail * 1000) / (TRAIL_PLACES - 1))
      this.#trail.push({ lat, lon, time });
    this.#trail.splice(0, this.#trail.length - TRAIL_PLACES);
    return { ...place, trail: shared.filter((at) => at.time < time) };
  }

  /** Sends waiting places in order, some at a time. */
  #pump(): void {
    const round = this.#round;
    while (
      this.#link.isUp &&
      this.#phase.phase === 'here' &&
      this.#sending < Math.min(WINDOW, this.#queue.length)
    ) {
      const place = this.#queue[this.#sending++] as SharedPlace;
      this.#link.publish(this.#writePlaceMessage(place), true).then(
        () => {
          if (round !== this.#round || this.#queue[0] === undefined) return;
          this.#queue.splice(this.#queue.indexOf(place), 1);
          this.#sending--;
          this.#pump();
          if (this.#queue.length === 0) this.#options.onChange();
        },
        () => undefined, // the connection was lost: it is sent again upon the next
      );
    }
  }

  async #sendState(): Promise<void> {
    const { keepAlive, clock } = this.#options;
    if (!this.#link.isUp || this.#phase.phase !== 'here') return;
    this.#cancelSign();
    this.#cancelSign = clock.after(keepAlive * SIGN, () => {
      if (this.#unsent !== undefined) this.#send(this.#unsent);
      void this.#sendState();
    });
    // Lost on the way: the next connection begins with it.
    await this.#link.publish(this.#writeStateMessage('here', this.#link.count), true).catch(() => undefined);
  }

  async #takeBack(done: () => void): Promise<void> {
    try {
      for (const message of this.#cleared()) await this.#link.publish(message, true);
    } catch {
      return; // the connection was lost: it is done at the next one
    }
    await this.#link.close();
    this.#step({ step: 'end' });
    done();
  }

  /** Another device has removed our record. */
  #sayAgain(): void {
    void this.#sendState();
    const last = this.#sent?.place;
    if (last === undefined || this.#queue.includes(last)) return;
    this.#queue.push({ ...last, number: ++this.#number });
    this.#pump();
  }

  /** Handles our own record from the broker. */
  #receive(topic: string, payload: string): void {
    const { party, session } = this.#options;
    const reading = readMessage(party, topic, payload);
    if (this.#phase.phase !== 'here') return;
    if (reading.kind === 'cleared' && this.confirmed) this.#sayAgain();
    if (reading.kind !== 'state') return;
    const { state } = reading;
    if (state.session !== session) {
      if (startOf(state.session) > startOf(session))
        this.#options.onOver('superseded', 'another device announces the same member now');
      return;
    }
    // The last will of a connection that was given up after the next had begun.
    if (state.state === 'vanished') void this.#sendState();
    else if (state.link === this.#link.count && this.#step({ step: 'confirm' })) {
      this.#received = true;
      this.#cancelEcho();
      this.#options.onChange();
    }
  }

  #writePlaceMessage(place: SharedPlace): WireMessage {
    const { member } = this.#options;
    return { topic: this.#topics.place, payload: writePlaceMessage(member, place) };
  }

  #writeStateMessage(state: SharedState['state'], link: number): WireMessage {
    const { member, session, keepAlive, retention, name, until, rounding, clock } = this.#options;
    const payload = writeStateMessage(member, {
      state,
      session,
      link: Math.max(1, link),
      sent: state === 'vanished' ? undefined : clock.now(),
      keepAlive,
      retention,
      name,
      until,
      rounding,
      still: state === 'vanished' ? undefined : this.#still,
      ...(this.#veiled && state !== 'vanished' && { veiled: true as const }),
    });
    return { topic: this.#topics.state, payload };
  }

  #cleared(): WireMessage[] {
    // The place first: if the connection is lost in between, the record is removed.
    return [this.#topics.place, this.#topics.state].map((topic) => ({ topic, payload: '' }));
  }
}
