import type { Fix } from '../core/fix/fix.js';
import { noFixError, type NoFixError } from '../core/fix/no-fix-error.js';
import { inTurn } from '../live/turn.js';
import type { AccessReading } from './access.js';
import type { Clock } from './clock.js';
import type { LifeEvent, WhenHidden } from './life.js';
import type { Diagnostics } from './diagnostics.js';
import { FixIntake, type Deliveries, type Newest } from './fix-intake.js';
import type { Demand, Source, WatchRelease } from './source.js';
import { ROUGH_WILL_DO, UsageMeter } from './usage.js';

/** A user of the watch. */
export interface WatchUser {
  readonly demand: Demand;
  /** `more`: other fixes of the same bundle follow at once. */
  fix(fix: Fix, more: boolean): void;
  error(error: NoFixError): void;
  gap(): void;
  end(): void;
  /** The app was hidden, with what happens to the watch meanwhile; `undefined`: it is visible again. */
  hidden(outcome: WhenHidden | undefined): void;
}

/** A user that needs no fix for a while. */
interface Spared {
  /** When it needs one again, milliseconds since 1970 UTC, or that many metres from the newest fix. */
  readonly until: number;
  readonly beyond: number | undefined;
  readonly cancel: () => void;
  readonly then: () => void;
}

/** The open watch. */
interface OpenWatch {
  demand: Demand;
  live: boolean;
  /** The platform lets it rest by itself. */
  resting: boolean;
  release: WatchRelease | undefined;
}

/** Number of fixes that are remembered for the developer. */
const RECENT = 50;
/** Seconds after which a source that threw is started again. */
const AGAIN_AFTER = 5;

/**
 * The one watch on the device, shared by all follows: open while there is one, with the strictest demands among them.
 * Raw fixes are checked once, by its intake. A source that misbehaves is counted, and the watch continues.
 */
export class SharedWatch {
  readonly #source: Source;
  readonly #clock: Clock;
  readonly #diagnostics: Diagnostics;
  readonly #levelOf: () => AccessReading['level'];
  readonly #meter: UsageMeter;
  readonly #intake: FixIntake;
  readonly #users = new Set<WatchUser>();
  readonly #paused = new Set<WatchUser>();
  readonly #spared = new Map<WatchUser, Spared>();
  readonly #recent: Fix[] = [];
  readonly #counts = { afterStop: 0, problems: 0 };
  #hidden = false;
  #open: OpenWatch | undefined;

  constructor(source: Source, clock: Clock, diagnostics: Diagnostics, levelOf: () => AccessReading['level']) {
    this.#source = source;
    this.#clock = clock;
    this.#diagnostics = diagnostics;
    this.#levelOf = levelOf;
    this.#intake = new FixIntake(source, clock, diagnostics, {
      fix: (fix, more) => {
        this.#recent.push(fix);
        if (this.#recent.length > RECENT) this.#recent.shift();
        this.#report((user) => user.fix(fix, more));
      },
      gap: () => this.#report((user) => user.gap()),
    });
    this.#meter = new UsageMeter(() => clock.now());
    this.#hidden = source.life?.hidden ?? false;
  }

  /** Whether the receiver of the device is on. */
  get open(): boolean {
    return this.#open !== undefined && !this.#open.resting;
  }

  /**
   * The newest accepted fix of the running watch; `undefined` when the watch is not open, has given none yet, or has
   * lost its position since.
   */
  get newest(): Newest | undefined {
    return this.open ? this.#intake.newest : undefined;
  }

  /** The last fixes of the device, with their marks, oldest first. */
  get recent(): readonly Fix[] {
    return this.#recent;
  }

  get usage() {
    return this.#meter.usage;
  }

  get deliveries(): Deliveries {
    return { ...this.#intake.counts, ...this.#counts };
  }

  /**
   * Joins the watch. The returned function leaves it; calling it twice is harmless. When the last user leaves, the
   * device is released.
   */
  join(user: WatchUser): () => void {
    if (this.#users.size === 0) this.#intake.begin();
    this.#users.add(user);
    if (this.#hidden) this.#hide(user);
    this.#adjust();
    return () => {
      this.#paused.delete(user);
      this.#wake(user);
      if (this.#users.delete(user)) this.#adjust();
    };
  }

  /**
   * A user needs no fix for a number of seconds, or within some metres of the newest one, and then calls `then`. If no
   * other user needs one, the device is released meanwhile, or rests by itself where the platform can.
   */
  spare(user: WatchUser, seconds: number, beyond: number | undefined, then: () => void): void {
    if (!this.#users.has(user)) return;
    this.#wake(user);
    const cancel = this.#clock.after(seconds, () => {
      this.#spared.delete(user);
      then();
      this.#adjust();
    });
    this.#spared.set(user, { until: this.#clock.now() + seconds * 1000, beyond, cancel, then });
    this.#adjust();
  }

  #wake(user: WatchUser): void {
    this.#spared.get(user)?.cancel();
    this.#spared.delete(user);
  }

  /** The platform has ended a rest by itself, before the alarm of this clock: its users need fixes again. */
  #woken(): void {
    if (this.#open?.resting !== true) return;
    for (const [user, { cancel, then }] of [...this.#spared]) {
      this.#spared.delete(user);
      cancel();
      then();
    }
    this.#goOn(this.#open);
  }

  #goOn(watch: OpenWatch): void {
    watch.resting = false;
    this.#meter.start(watch.demand);
  }
  /** A change in the life cycle of the app. */
  life(kind: LifeEvent['kind']): void {
    const hidden = kind === 'hidden' || kind === 'frozen';
    if (kind === 'closed' || kind === 'killed') {
      for (const user of [...this.#users]) user.end();
    } else if (hidden !== this.#hidden && !(kind === 'restored' && this.#source.life?.hidden === true)) {
      this.#hidden = hidden;
      for (const user of [...this.#users]) {
        if (hidden) this.#hide(user);
        else this.#show(user);
      }
      this.#adjust();
    }
  }

  /** Reports a failure that the source may not know of to all users. */
  fail(error: NoFixError): void {
    this.#report((user) => user.error(error));
  }

  #hide(user: WatchUser): void {
    const outcome = this.#source.whenHidden?.(user.demand, this.#levelOf()) ?? 'continues';
    if (outcome === 'pauses') this.#paused.add(user);
    user.hidden(outcome);
  }

  #show(user: WatchUser): void {
    user.hidden(undefined);
    if (!this.#paused.delete(user)) return;
    // The platform may begin with its last fix, which is of use after a pause.
    if (!this.open) this.#intake.forget();
    user.gap();
  }

  #adjust(): void {
    const demands = [...this.#users]
      .filter((user) => !this.#paused.has(user) && !this.#spared.has(user))
      .map((user) => user.demand);
    const watch = this.#open;
    if (demands.length === 0) {
      if (!this.#rest()) this.#close();
      return;
    }
    const demand = strictest(demands);
    if (watch !== undefined && !watch.resting && sameDemand(demand, watch.demand)) return;
    if (watch?.release?.change !== undefined) {
      this.#change(watch, demand);
      return;
    }
    this.#close();
    this.#start(demand);
  }

  /** Changes the demand of the open watch, which goes on. */
  #change(watch: OpenWatch, demand: Demand): void {
    watch.demand = demand;
    this.#goOn(watch);
    this.#guard(() => watch.release?.change?.(demand));
  }

  /** Lets the platform rest by itself; returns whether the watch stays. */
  #rest(): boolean {
    const watch = this.#open;
    const spared = [...this.#spared].filter(([user]) => !this.#paused.has(user)).map(([, each]) => each);
    if (watch?.release?.rest === undefined || spared.length === 0) return false;
    const until = Math.min(...spared.map((each) => each.until));
    const beyond = Math.min(...spared.map((each) => each.beyond ?? Infinity));
    const { release } = watch;
    const rests = this.#guard(() => release.rest?.(until, beyond < Infinity ? beyond : undefined)) === true;
    if (rests && !watch.resting) {
      this.#meter.stop();
      watch.resting = true;
    }
    return true; // a watch that cannot rest goes on: it must not end while somebody follows
  }

  #start(demand: Demand): void {
    const watch: OpenWatch = { demand, live: true, resting: false, release: undefined };
    this.#open = watch;
    this.#meter.start(demand);
    /** Deliveries after the stop are counted, and go no further. */
    const live = (action: () => void) => {
      if (watch.live) action();
      else this.#counts.afterStop++;
    };
    try {
      const release = this.#source.watch(demand, {
        fix: (raw) =>
          live(() => {
            this.#woken();
            this.#intake.take([raw], false);
          }),
        bundle: (raws) =>
          live(() => {
            this.#woken();
            this.#intake.take(raws, true);
          }),
        error: (error) =>
          live(() => {
            this.#intake.lose();
            this.#report((user) => user.error(noFixError(error)));
          }),
        gap: () => live(() => this.#intake.breakSegment()),
        end: () =>
          live(() => {
            this.#close();
            this.#report((user) => user.end());
          }),
      });
      if (watch.live) watch.release = release;
      else this.#guard(release); // it ended, or was left, during its start
    } catch (error) {
      this.#problem('watch', error);
      const { live: wanted } = watch;
      this.#close();
      if (!wanted) return;
      this.#report((user) => user.error(noFixError(error)));
      // Users that stay get another try.
      this.#clock.after(AGAIN_AFTER, () => {
        if (this.#open === undefined) this.#adjust();
      });
    }
  }

  #close(): void {
    const watch = this.#open;
    if (watch === undefined) return;
    this.#open = undefined;
    watch.live = false;
    this.#meter.stop();
    const { release } = watch;
    if (release !== undefined) this.#guard(() => release());
    if (this.#users.size > 0) return; // it is opened again for the same users, with another demand or after a pause
    // A watch that is opened later may begin with the last fix of this one: it is new to its users.
    this.#intake.end();
  }

  #guard<T>(action: () => T): T | undefined {
    try {
      return action();
    } catch (error) {
      this.#problem('release', error);
      return undefined;
    }
  }

  #problem(what: string, error: unknown): void {
    this.#counts.problems++;
    this.#diagnostics.report(
      'source-error',
      `${this.#source.name} threw on ${what}: ${String(error)}`,
      error,
    );
  }

  /** Over a copy: a user may leave meanwhile. Listeners are called after all users. */
  #report(action: (user: WatchUser) => void): void {
    inTurn(() => {
      for (const user of [...this.#users]) if (this.#users.has(user) && !this.#paused.has(user)) action(user);
    });
  }
}

function strictest(demands: readonly Demand[]): Demand {
  const accuracies = demands.flatMap(({ accuracy }) => accuracy ?? []);
  const accuracy = Math.min(...accuracies);
  // A user without an accuracy wants the default of the device, which is better than any coarse one.
  const named = accuracies.length === demands.length || accuracy < ROUGH_WILL_DO;
  const every = Math.min(...demands.map((demand) => demand.every ?? 0));
  const sign = demands.find((demand) => demand.sign !== undefined)?.sign;
  return {
    maxAge: Math.min(...demands.map(({ maxAge }) => maxAge)),
    ...(named && { accuracy }),
    ...(every > 0 && { every }),
    ...(demands.some((demand) => demand.background === true) && { background: true }),
    ...(sign !== undefined && { sign }),
  };
}

function sameDemand(a: Demand, b: Demand): boolean {
  return (
    a.accuracy === b.accuracy &&
    a.maxAge === b.maxAge &&
    a.every === b.every &&
    a.background === b.background &&
    a.sign === b.sign
  );
}
