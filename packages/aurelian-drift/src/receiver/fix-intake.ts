import { FixOrder } from '../core/estimate/fix-order.js';
import { CLOCK_SLACK, Freshness, UNANSWERED } from '../core/estimate/freshness.js';
import { marked, type Fix, type RawFix } from '../core/fix/fix.js';
import { salvage } from '../core/fix/salvage.js';
import type { Clock } from './clock.js';
import type { Diagnostics } from './diagnostics.js';
import type { Source } from './source.js';

/** The newest fix of a watch that is open, and the time at which it came, milliseconds since 1970 UTC. */
export interface Newest {
  readonly fix: Fix;
  readonly arrived: number;
}

/** Counts of the deliveries of a source. */
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

/** Takes the checked fixes. */
interface IntakeSink {
  /** `more`: other fixes of the same bundle follow at once. */
  fix(fix: Fix, more: boolean): void;
  /** The next fix does not continue the path. */
  gap(): void;
}

/**
 * Checks the raw fixes of a source, and marks those that cannot follow the fix before them, that the platform had
 * stored, or that come late. It remembers what it has seen while the device is opened again for the same users.
 */
export class FixIntake {
  readonly counts = {
    accepted: 0,
    late: 0,
    duplicate: 0,
    backwards: 0,
    outlier: 0,
    stale: 0,
    impossible: 0,
  };
  readonly #source: Source;
  readonly #clock: Clock;
  readonly #diagnostics: Diagnostics;
  readonly #sink: IntakeSink;
  readonly #order = new FixOrder();
  readonly #freshness = new Freshness();
  /** Time at which fixes were asked for, milliseconds since 1970 UTC. */
  #since = NaN;
  /** Time of the latest arrival, also by the steady clock, and the seconds between it and the one before. */
  #arrival = { time: NaN, steady: NaN, interval: 0 };
  #newest: Newest | undefined;
  /** Whether the clock was put forward or back since the last accepted fix. */
  #clockSet = false;
  /** Cancels the acceptance of an outlier, and of a stale fix. */
  #doubt = () => {};
  #unanswered = () => {};

  constructor(source: Source, clock: Clock, diagnostics: Diagnostics, sink: IntakeSink) {
    this.#source = source;
    this.#clock = clock;
    this.#diagnostics = diagnostics;
    this.#sink = sink;
  }

  /** The newest accepted fix that was not late; `undefined` before the first, and after the position was lost. */
  get newest(): Newest | undefined {
    return this.#newest;
  }

  /** Fixes are asked for from now on. */
  begin(): void {
    this.#since = this.#clock.now();
  }

  /** Fixes are not wanted any more. Later ones may begin with the last one, which is new to whom asks then. */
  end(): void {
    this.#newest = undefined;
    this.#order.forget();
    this.#doubt();
    this.#unanswered();
  }

  /** The next fix is not compared with the one before. */
  forget(): void {
    this.#order.forget();
  }

  /** The device has lost its position. */
  lose(): void {
    this.#newest = undefined;
  }

  /**
   * Takes what the source delivers, in the order of its times. @param bundled held back while the app or the device
   * slept.
   */
  take(raws: readonly RawFix[], bundled: boolean): void {
    inOrder(raws).forEach((raw, i) => {
      const fix = this.#checked(raw, bundled);
      if (fix !== undefined) this.#sink.fix(fix, i < raws.length - 1);
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
      this.counts.impossible++;
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
    if (jump !== undefined) this.#sink.gap();
    if (jump === 'clock') this.#clockSet = true;
    if (mark === 'outlier') this.#waitForContradiction(fix);
    if (mark !== undefined) this.counts[mark]++;
    else this.counts.accepted++;
    const late = bundled && now - fix.time > LATE_AFTER * 1000;
    if (late && mark === undefined) this.counts.late++;
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
    this.counts.stale++;
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
    this.counts.accepted++;
    this.#newest = { fix, arrived: this.#clock.now() };
    this.#sink.gap();
    this.#sink.fix(fix, false);
  }

  /** The clock was put forward or back. */
  #breakAtClock(): void {
    this.#clockSet = true;
    this.breakSegment();
  }

  /** The next fix does not continue the path. */
  breakSegment(): void {
    this.#order.forget();
    this.#sink.gap();
  }

  #waitForContradiction(fix: Fix): void {
    const wait = Math.max(UNCONTESTED, 2 * this.#arrival.interval);
    this.#doubt = this.#clock.after(wait, () => this.#accept(fix));
  }
}

/** A bundle in the order of its times; data without a time keeps its place, and is found impossible later. */
function inOrder(raws: readonly RawFix[]): RawFix[] {
  return raws.toSorted((a, b) => a.time - b.time || 0);
}
