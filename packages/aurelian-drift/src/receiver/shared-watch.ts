import { InputError } from '../core/check/input-error.js';
import { FixOrder } from '../core/estimate/fix-order.js';
import { fixFrom, marked, type Fix, type RawFix } from '../core/fix/fix.js';
import { noFixError, type NoFixError } from '../core/fix/no-fix-error.js';
import { inTurn } from '../live/turn.js';
import type { AccessReading } from './access.js';
import type { Clock } from './clock.js';
import type { LifeEvent, WhenHidden } from './life.js';
import type { Diagnostics } from './diagnostics.js';
import type { Demand, Source } from './source.js';
import { ROUGH_WILL_DO, UsageMeter } from './usage.js';

/** One who uses the watch. */
export interface WatchUser {
  readonly demand: Demand;
  /** `more`: others of the same bundle follow at once. */
  fix(fix: Fix, more: boolean): void;
  error(error: NoFixError): void;
  gap(): void;
  end(): void;
  /** The app was hidden, and this is what becomes of the watch meanwhile; `undefined`: it is back in front. */
  hidden(outcome: WhenHidden | undefined): void;
}

/** What came from the source so far. */
export interface Deliveries {
  /** Sound fixes. */
  readonly accepted: number;
  /** Of those, how many were delivered after their time. */
  readonly late: number;
  readonly duplicate: number;
  readonly backwards: number;
  readonly outlier: number;
  /** No fixes at all by their numbers; left out. */
  readonly impossible: number;
  /** What a source sent after it was told to stop; left out. */
  readonly afterStop: number;
  /** What a source threw. */
  readonly problems: number;
}

/** Seconds after which a fix counts as late. */
const LATE_AFTER = 2;

/**
 * Seconds after which a wild fix is believed when nothing has come to contradict it, and at least twice the time
 * between fixes: a source that is moved by hand tells a jump once, and then falls silent.
 */
const UNCONTESTED = 3;

/** Seconds after which a source that threw is tried again. */
const AGAIN_AFTER = 5;

/**
 * The one watch on the device, shared by all who follow: open while anyone does, at the strictest demand among those
 * who follow now. Raw fixes become checked ones here, once, and are marked when they cannot follow on their
 * predecessor. A source that misbehaves is counted, and the watch stays whole.
 */
export class SharedWatch {
  readonly #source: Source;
  readonly #clock: Clock;
  readonly #diagnostics: Diagnostics;
  readonly #levelOf: () => AccessReading['level'];
  readonly #meter: UsageMeter;
  readonly #order = new FixOrder();
  readonly #users = new Set<WatchUser>();
  readonly #paused = new Set<WatchUser>();
  /** Who needs no fix for a while, and what calls their waking off. */
  readonly #spared = new Map<WatchUser, () => void>();
  readonly #counts = {
    accepted: 0,
    late: 0,
    duplicate: 0,
    backwards: 0,
    outlier: 0,
    impossible: 0,
    afterStop: 0,
    problems: 0,
  };
  #hidden = false;
  /** When the latest fix arrived, and the seconds between it and the one before. */
  #arrival = { time: NaN, interval: 0 };
  #doubt = () => {};
  #open: { readonly demand: Demand; live: boolean; release: (() => void) | undefined } | undefined;

  constructor(source: Source, clock: Clock, diagnostics: Diagnostics, levelOf: () => AccessReading['level']) {
    this.#source = source;
    this.#clock = clock;
    this.#diagnostics = diagnostics;
    this.#levelOf = levelOf;
    this.#meter = new UsageMeter(() => clock.now());
    this.#hidden = source.life?.hidden ?? false;
  }

  /** Whether the device's receiver is on. */
  get open(): boolean {
    return this.#open !== undefined;
  }

  get usage() {
    return this.#meter.usage;
  }

  get deliveries(): Deliveries {
    return { ...this.#counts };
  }

  /** Joins; the returned function leaves, harmlessly so a second time. The last one out releases the device. */
  join(user: WatchUser): () => void {
    this.#users.add(user);
    if (this.#hidden) this.#hide(user);
    this.#adjust();
    return () => {
      this.#paused.delete(user);
      this.#wake(user);
      if (this.#users.delete(user)) this.#adjust();
    };
  }

  /** A user needs no fix for so many seconds, then calls `then`: unless others do, the device is released meanwhile. */
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

  /** What the platform did with the app. */
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

  /** Whoever follows is told of a failure that the source may not know of. */
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
    if (this.#paused.delete(user)) user.gap();
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
    /** What a source sends once it was told to stop is counted, and goes no further. */
    const live = (action: () => void) => {
      if (watch.live) action();
      else this.#counts.afterStop++;
    };
    try {
      const release = this.#source.watch(demand, {
        fix: (raw) => live(() => this.#take([raw])),
        bundle: (raws) => live(() => this.#take(inOrder(raws))),
        error: (error) => live(() => this.#report((user) => user.error(noFixError(error)))),
        gap: () =>
          live(() => {
            this.#order.forget();
            this.#report((user) => user.gap());
          }),
        end: () =>
          live(() => {
            this.#close();
            this.#report((user) => user.end());
          }),
      });
      if (watch.live) watch.release = release;
      else this.#guard(release); // it ended, or was left, while it started
    } catch (error) {
      this.#problem('watch', error);
      const { live: wanted } = watch;
      this.#close();
      if (!wanted) return;
      this.#report((user) => user.error(noFixError(error)));
      // Whoever stays on in spite of that gets another try.
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
    // A watch opened later may well begin with the very fix this one ended with: to whoever opened it, it is new.
    this.#order.forget();
    this.#doubt();
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

  #take(raws: readonly RawFix[]): void {
    raws.forEach((raw, i) => {
      const fix = this.#checked(raw, raws.length > 1);
      if (fix !== undefined) this.#report((user) => user.fix(fix, i < raws.length - 1));
    });
  }

  /** The fix with its marks; `undefined` when it is none. */
  #checked(raw: RawFix, bundled: boolean): Fix | undefined {
    let fix: Fix;
    try {
      fix = fixFrom(raw);
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      this.#counts.impossible++;
      const text = `${this.#source.name} gave an impossible fix, which is left out: ${error.reason}`;
      this.#diagnostics.report('impossible-fix', text);
      return undefined;
    }
    const now = this.#clock.now();
    this.#arrival = { time: now, interval: (now - this.#arrival.time) / 1000 || 0 };
    this.#doubt();
    const { mark, jump } = this.#order.judge(fix, now);
    if (jump) this.#report((user) => user.gap());
    if (mark === 'outlier') this.#waitForContradiction(fix);
    if (mark !== undefined) this.#counts[mark]++;
    else this.#counts.accepted++;
    const late = bundled && now - fix.time > LATE_AFTER * 1000;
    if (late && mark === undefined) this.#counts.late++;
    const remarked = late ? marked(fix, 'late') : fix;
    return mark === undefined ? remarked : marked(remarked, mark);
  }

  #waitForContradiction(fix: Fix): void {
    const wait = Math.max(UNCONTESTED, 2 * this.#arrival.interval);
    this.#doubt = this.#clock.after(wait, () => {
      this.#order.accept(fix);
      this.#counts.accepted++;
      this.#report((user) => user.gap());
      this.#report((user) => user.fix(fix, false));
    });
  }

  /** Over a copy: a user may leave while being told. Listeners hear of it once all users have. */
  #report(action: (user: WatchUser) => void): void {
    inTurn(() => {
      for (const user of [...this.#users]) if (this.#users.has(user) && !this.#paused.has(user)) action(user);
    });
  }
}

/** A bundle in the order of its times; what has none keeps its place, and is found impossible later. */
function inOrder(raws: readonly RawFix[]): RawFix[] {
  return raws.toSorted((a, b) => a.time - b.time || 0);
}

function strictest(demands: readonly Demand[]): Demand {
  const accuracies = demands.flatMap(({ accuracy }) => accuracy ?? []);
  const accuracy = Math.min(...accuracies);
  // Whoever names no figure wants what the device gives of itself, which is better than any rough one.
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
