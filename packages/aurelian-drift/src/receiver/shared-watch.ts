import { FixOrder } from '../core/estimate/fix-order.js';
import { CLOCK_SLACK, Freshness, UNANSWERED } from '../core/estimate/freshness.js';
import { marked, type Fix, type RawFix } from '../core/fix/fix.js';
import { salvage } from '../core/fix/salvage.js';
import { noFixError, type NoFixError } from '../core/fix/no-fix-error.js';
import { inTurn } from '../live/turn.js';
import type { AccessReading } from './access.js';
import type { Clock } from './clock.js';
import type { LifeEvent, WhenHidden } from './life.js';
import type { Diagnostics } from './diagnostics.js';
import type { Demand, Source } from './source.js';
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

/** The newest fix of a watch that is open, and the time at which it came, milliseconds since 1970 UTC. */
export interface Newest {
  readonly fix: Fix;
  readonly arrived: number;
}

/** Counts of the deliveries of the source. */
export interface Deliveries {
  /** Fixes without a problem. */
  readonly accepted: number;
  /** Accepted fixes that were delivered after their time. */
  readonly late: number;
  readonly duplicate: number;
  readonly backwards: number;
  readonly outlier: number;
  /** Stored by the platform before it was asked for, or dated in the future. */
  readonly stale: number;
  /** Data that is not a fix; left out. */
  readonly impossible: number;
  /** Deliveries after the stop of the watch; left out. */
  readonly afterStop: number;
  /** Errors that the source threw. */
  readonly problems: number;
}

/** Seconds after which a fix is late. */
const LATE_AFTER = 2;

/**
 * Seconds after which an outlier is accepted when no fix contradicts it, and at least twice the time between fixes: a
 * source that is moved by hand reports a jump once, and then nothing.
 */
const UNCONTESTED = 3;

/** Seconds after which a source that threw is started again. */
const AGAIN_AFTER = 5;

/**
 * The one watch on the device, shared by all follows: open while there is one, with the strictest demands among them.
 * Raw fixes are checked here, once, and are marked when they cannot follow the fix before them. A source that
 * misbehaves is counted, and the watch continues.
 */
export class SharedWatch {
  readonly #source: Source;
  readonly #clock: Clock;
  readonly #diagnostics: Diagnostics;
  readonly #levelOf: () => AccessReading['level'];
  readonly #meter: UsageMeter;
  readonly #order = new FixOrder();
  readonly #freshness = new Freshness();
  readonly #users = new Set<WatchUser>();
  readonly #paused = new Set<WatchUser>();
  /** Users that need no fix for a while, with the function that cancels their waking. */
  readonly #spared = new Map<WatchUser, () => void>();
  readonly #counts = {
    accepted: 0,
    late: 0,
    duplicate: 0,
    backwards: 0,
    outlier: 0,
    stale: 0,
    impossible: 0,
    afterStop: 0,
    problems: 0,
  };
  #hidden = false;
  /** Time at which the first user joined, milliseconds since 1970 UTC. */
  #since = NaN;
  /** Time of the latest arrival, also by the steady clock, and the seconds between it and the one before. */
  #arrival = { time: NaN, steady: NaN, interval: 0 };
  #newest: Newest | undefined;
  /** Whether the clock was put forward or back since the last accepted fix. */
  #clockSet = false;
  #doubt = () => {};
  /** Cancels the acceptance of a stale fix. */
  #unanswered = () => {};
  #open: { readonly demand: Demand; live: boolean; release: (() => void) | undefined } | undefined;

  constructor(source: Source, clock: Clock, diagnostics: Diagnostics, levelOf: () => AccessReading['level']) {
    this.#source = source;
    this.#clock = clock;
    this.#diagnostics = diagnostics;
    this.#levelOf = levelOf;
    this.#meter = new UsageMeter(() => clock.now());
    this.#hidden = source.life?.hidden ?? false;
  }

  /** Whether the receiver of the device is on. */
  get open(): boolean {
    return this.#open !== undefined;
  }

  /**
   * The newest accepted fix of the running watch; `undefined` when the watch is not open, has given none yet, or has
   * lost its position since.
   */
  get newest(): Newest | undefined {
    return this.open ? this.#newest : undefined;
  }

  get usage() {
    return this.#meter.usage;
  }

  get deliveries(): Deliveries {
    return { ...this.#counts };
  }

  /**
   * Joins the watch. The returned function leaves it; calling it twice is harmless. When the last user leaves, the
   * device is released.
   */
  join(user: WatchUser): () => void {
    if (this.#users.size === 0) this.#since = this.#clock.now();
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
   * A user needs no fix for a number of seconds, and then calls `then`. If no other user needs one, the device is
   * released meanwhile.
   */
  spare(user: WatchUser, seconds: number, then: () => void): void {
    if (!this.#users.has(user)) return;
    this.#wake(user);
    const cancel = this.#clock.after(seconds, () => {
      this.#spared.delete(user);
      then();
      this.#adjust();
    });
    this.#spared.set(user, cancel);
    this.#adjust();
  }

  #wake(user: WatchUser): void {
    this.#spared.get(user)?.();
    this.#spared.delete(user);
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
    if (!this.open) this.#order.forget();
    user.gap();
  }

  #adjust(): void {
    const demands = [...this.#users]
      .filter((user) => !this.#paused.has(user) && !this.#spared.has(user))
      .map((user) => user.demand);
    if (demands.length === 0) {
      this.#close();
      return;
    }
    const demand = strictest(demands);
    if (this.#open !== undefined && sameDemand(demand, this.#open.demand)) return;
    this.#close();
    this.#start(demand);
  }

  #start(demand: Demand): void {
    const watch = { demand, live: true, release: undefined as (() => void) | undefined };
    this.#open = watch;
    this.#meter.start(demand);
    /** Deliveries after the stop are counted, and go no further. */
    const live = (action: () => void) => {
      if (watch.live) action();
      else this.#counts.afterStop++;
    };
    try {
      const release = this.#source.watch(demand, {
        fix: (raw) => live(() => this.#take([raw], false)),
        bundle: (raws) => live(() => this.#take(inOrder(raws), true)),
        error: (error) =>
          live(() => {
            this.#newest = undefined;
            this.#report((user) => user.error(noFixError(error)));
          }),
        gap: () => live(() => this.#breakSegment()),
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
    if (watch.release !== undefined) this.#guard(watch.release);
    if (this.#users.size > 0) return; // it is opened again for the same users, with another demand or after a pause
    // A watch that is opened later may begin with the last fix of this one: it is new to its users.
    this.#newest = undefined;
    this.#order.forget();
    this.#doubt();
    this.#unanswered();
  }

  #guard(release: () => void): void {
    try {
      release();
    } catch (error) {
      this.#problem('release', error);
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

  /** @param bundled the fixes were held back while the app or the device slept. */
  #take(raws: readonly RawFix[], bundled: boolean): void {
    raws.forEach((raw, i) => {
      const fix = this.#checked(raw, bundled);
      if (fix !== undefined) this.#report((user) => user.fix(fix, i < raws.length - 1));
    });
  }

  /** The checked fix with its marks; `undefined` for data that is not a fix. */
  #checked(raw: RawFix, bundled: boolean): Fix | undefined {
    const { fix, problems } = salvage(raw);
    const left = fix === undefined ? 'a fix' : 'a value';
    for (const problem of problems) {
      const text = `${this.#source.name} gave an impossible fix; ${left} is left out: ${problem}`;
      this.#diagnostics.report('impossible-fix', text);
    }
    if (fix === undefined) {
      this.#counts.impossible++;
      return undefined;
    }
    const now = this.#clock.now();
    this.#arrive(now);
    const asMeasured = bundled || this.#source.keepsTimes === true;
    const freshness = asMeasured ? 'fresh' : this.#freshness.judge(fix.time, now, this.#since);
    if (freshness === 'stale') return this.#stale(fix, now);
    if (freshness === 'clocks-differ') this.#breakAtClock();
    this.#doubt();
    this.#unanswered();
    const { mark, jump } = this.#order.judge(fix, now);
    if (jump !== undefined) this.#report((user) => user.gap());
    if (jump === 'clock') this.#clockSet = true;
    if (mark === 'outlier') this.#waitForContradiction(fix);
    if (mark !== undefined) this.#counts[mark]++;
    else this.#counts.accepted++;
    const late = bundled && now - fix.time > LATE_AFTER * 1000;
    if (late && mark === undefined) this.#counts.late++;
    const remarked = late ? marked(fix, 'late') : fix;
    if (mark !== undefined) return marked(remarked, mark);
    const accepted = this.#clockSet ? marked(remarked, 'clock-set') : remarked;
    this.#clockSet = false;
    if (!late) this.#newest = { fix: accepted, arrived: now };
    return accepted;
  }

  /** Notes the time of a delivery. A clock that was put forward or back meanwhile begins a new segment. */
  #arrive(now: number): void {
    const before = this.#arrival;
    const steady = this.#clock.steady?.() ?? NaN;
    this.#arrival = { time: now, steady, interval: (now - before.time) / 1000 || 0 };
    const put = now - before.time - (steady - before.steady);
    if (Math.abs(put) > CLOCK_SLACK) {
      this.#since += put;
      this.#breakAtClock();
    }
  }

  #stale(fix: Fix, now: number): Fix {
    this.#counts.stale++;
    const seconds = Math.round((now - fix.time) / 1000);
    const when = seconds > 0 ? 'from before it was asked for' : 'dated in the future';
    this.#diagnostics.report(
      'stale-fix',
      `${this.#source.name} gave a fix ${when}, which is marked "stale"; a source that plays an old recording ` +
        `sets keepsTimes: true`,
    );
    if (this.#source.honoursMaxAge === true) this.#waitForAnother(fix);
    return marked(fix, 'stale');
  }

  /** Accepts a stale fix that the platform vouches for, if no other one comes. What follows does not continue it. */
  #waitForAnother(fix: Fix): void {
    this.#unanswered();
    this.#unanswered = this.#clock.after(UNANSWERED, () => {
      this.#accept(marked(fix, 'cached'));
      this.#breakAtClock();
    });
  }

  /** Accepts a doubtful fix after all. */
  #accept(fix: Fix): void {
    this.#order.accept(fix);
    this.#counts.accepted++;
    this.#newest = { fix, arrived: this.#clock.now() };
    this.#report((user) => user.gap());
    this.#report((user) => user.fix(fix, false));
  }

  /** The clock was put forward or back. */
  #breakAtClock(): void {
    this.#clockSet = true;
    this.#breakSegment();
  }

  /** The next fix does not continue the path. */
  #breakSegment(): void {
    this.#order.forget();
    this.#report((user) => user.gap());
  }

  #waitForContradiction(fix: Fix): void {
    const wait = Math.max(UNCONTESTED, 2 * this.#arrival.interval);
    this.#doubt = this.#clock.after(wait, () => this.#accept(fix));
  }

  /** Over a copy: a user may leave meanwhile. Listeners are called after all users. */
  #report(action: (user: WatchUser) => void): void {
    inTurn(() => {
      for (const user of [...this.#users]) if (this.#users.has(user) && !this.#paused.has(user)) action(user);
    });
  }
}

/** A bundle in the order of its times; data without a time keeps its place, and is found impossible later. */
function inOrder(raws: readonly RawFix[]): RawFix[] {
  return raws.toSorted((a, b) => a.time - b.time || 0);
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
