import { isUnsound } from '../core/estimate/fix-order.js';
import { marked, type Fix } from '../core/fix/fix.js';
import { NoFixError, noFixError } from '../core/fix/no-fix-error.js';
import { whenAborted } from '../live/abort-signal.js';
import { Lifetime } from '../live/lifetime.js';
import { inTurn } from '../live/turn.js';
import type { Access, AccessLevel } from './access.js';
import type { Clock } from './clock.js';
import { makeFollow, type Follow, type FollowControls } from './follow.js';
import type { FollowEvent } from './follow-events.js';
import type { Ladder } from './ladder.js';
import type { WhenHidden } from './life.js';
import { SILENT_AFTER } from './liveliness.js';
import { isWithin } from './one-shot.js';
import type { Diagnostics } from './diagnostics.js';
import type { FollowOptions } from './options.js';
import { samplingGate } from './sampling.js';
import type { SharedWatch, WatchUser } from './shared-watch.js';
import type { Demand, Source } from './source.js';
import type { Planner, DutyCyclePlan } from './duty-cycling.js';

/** What a follow needs from its receiver. */
export interface FollowRunParts {
  readonly source: Source;
  readonly clock: Clock;
  readonly diagnostics: Diagnostics;
  readonly ladder: Ladder;
  readonly watch: SharedWatch;
  readonly seenElsewhere: () => boolean;
  readonly failureSeen: () => boolean;
  readonly onJoined: () => void;
  readonly onFix: (fix: Fix, more: boolean) => void;
  readonly onFailed: (error: NoFixError) => void;
  readonly onOver: () => void;
}

/** One follow from start to end: permission, the shared watch, events, and release. */
export class FollowRun implements WatchUser {
  readonly follow: Follow;
  readonly name: string | undefined;
  readonly demand: Demand;
  readonly #parts: FollowRunParts;
  readonly #options: FollowOptions;
  readonly #controls: FollowControls;
  readonly #passes: (fix: Fix) => boolean;
  readonly #dutyCycle: DutyCyclePlan | undefined;
  /** Seconds for which the receiver was off before the next fix. */
  #spared = 0;
  /** Releases at the end of the follow. */
  readonly #lifetime: Lifetime;
  /** The pending or granted request to keep the screen on. */
  #screen: Promise<boolean> | undefined;
  /** Whether the owner has been in its document: it may not have been inserted yet. */
  #owned = false;
  #unowned = 0;
  /** Whether approximate positions are shared, which is not reported yet: from the start, or since then. */
  #approximate: 'no' | 'at-start' | 'lowered' = 'no';
  /** The access of the last reading. */
  #access: Access | undefined;
  #worked = false;

  constructor(options: FollowOptions, parts: FollowRunParts) {
    const { every, accuracy, background, sign, silentAfter, name, dutyCycling } = options;
    this.#options = options;
    this.#parts = parts;
    this.name = name;
    this.#lifetime = new Lifetime(parts.diagnostics.faultsOf('a follow'));
    this.#passes = samplingGate(options);
    this.demand = {
      maxAge: 0,
      ...(accuracy !== undefined && { accuracy }),
      ...(every !== undefined && every > 0 && { every }),
      ...(background === true && { background }),
      ...(sign !== undefined && { sign }),
    };
    const { follow, controls } = makeFollow({
      clock: parts.clock,
      diagnostics: parts.diagnostics,
      silentAfter: silentAfter ?? Math.max(SILENT_AFTER, 3 * (every ?? 0)),
      seenElsewhere: parts.seenElsewhere,
      failureSeen: parts.failureSeen,
      release: () => void this.#lifetime.end(undefined),
      over: parts.onOver,
      unhandled: (error) => this.#unhandled(error),
    });
    this.follow = follow;
    this.#controls = controls;
    this.#dutyCycle = (dutyCycling as Planner | undefined)?.planFor(options, controls.filter);
  }

  async start(): Promise<void> {
    const { ladder, watch } = this.#parts;
    const { keepScreenOn, signal } = this.#options;
    this.#lifetime.add(whenAborted(signal, () => void this.follow.stop()));
    try {
      const access = await ladder.climb(this.demand, () => this.#levelNeeded());
      if (!this.follow.running) return;
      this.#access = access;
      if (access.precision === 'approximate') this.#approximate = 'at-start';
      this.#tellReach(access);
      if (keepScreenOn === true) void this.#keepScreenOn();
      if (!this.#goesOn()) return;
      this.#parts.onJoined();
      this.#dutyCycle?.switchedOn(this.#parts.clock.now());
      this.#controls.expect();
      this.#lifetime.add(watch.join(this)); // released at once if the source ended at once
    } catch (cause) {
      this.#fail(noFixError(cause));
    }
  }

  /** Not more than is needed: a platform that goes on with a visible sign needs no background level. */
  #levelNeeded(): AccessLevel {
    const signed = this.#parts.source.whenHidden?.(this.demand, 'foreground') === 'continues-with-sign';
    return this.#options.background === true && !signed ? 'background' : 'foreground';
  }

  report(event: FollowEvent): void {
    this.#controls.report(event);
  }

  fix(fix: Fix, more: boolean): void {
    if (this.#ownerGone()) return;
    const sound = !isUnsound(fix);
    this.#worked = true;
    this.#parts.onFix(fix, more);
    const { accuracy } = this.#options;
    const sufficient = isWithin(fix, accuracy);
    if (sound && this.#approximate !== 'no' && fix.accuracy !== undefined) {
      if (this.#approximate === 'lowered' || !sufficient) {
        this.#approximate = 'no'; // reported once
        this.report({ kind: 'approximate-only', radius: fix.accuracy });
      }
    }
    let reported = sound && this.#spared > 0 ? marked(fix, 'planned-gap') : fix;
    if (sound && !sufficient) reported = marked(reported, 'coarse');
    if (sound) this.#spared = 0;
    const passes = sound && this.#passes(fix);
    this.#controls.push(reported, sound, passes || (sound && this.#dutyCycle?.guardsEdges === true));
    if (sound && !more) this.#spare(fix);
  }

  /** Switches the receiver off while no fix is needed. */
  #spare(fix: Fix): void {
    const { clock, watch } = this.#parts;
    const pause = this.follow.running ? this.#dutyCycle?.after(fix, clock.now()) : undefined;
    if (pause === undefined) return;
    const { seconds, reason, beyond } = pause;
    watch.spare(this, seconds, beyond, () => this.#dutyCycle?.switchedOn(clock.now()));
    if (watch.open) return; // other follows continue, and their fixes cost nothing
    this.#spared = seconds;
    this.#controls.spare(seconds);
    this.report({ kind: 'receiver-off', until: clock.now() + seconds * 1000, reason });
  }

  error(error: NoFixError): void {
    if (error.kind === 'no-signal' || error.kind === 'timed-out') {
      this.report({ kind: 'outage', error: this.#parts.ladder.remedied(error) });
    } else this.#fail(error);
  }

  /** The access was read again. A level or a precision that was lowered is told once. */
  seeAccess(access: Access): void {
    const before = this.#access;
    if (before === undefined || access.permission !== 'granted' || !this.follow.running) return;
    this.#access = access;
    if (before.precision !== 'approximate' && access.precision === 'approximate')
      this.#approximate = 'lowered';
    if (access.precision === 'precise') this.#approximate = 'no';
    if (before.level === 'background' && access.level !== before.level && access.level !== 'unknown')
      this.#tellReach(access);
  }

  gap(): void {
    this.report({ kind: 'gap' });
  }

  end(): void {
    this.#controls.step({ step: 'ends' });
  }

  hidden(outcome: WhenHidden | undefined): void {
    if (this.#ownerGone()) return;
    const { clock } = this.#parts;
    if (outcome === undefined) {
      this.report({ kind: 'resumed' });
      this.#controls.step({ step: 'resumes', at: clock.now() });
    } else if (outcome === 'pauses') {
      this.#controls.step({ step: 'pauses', at: clock.now() });
      this.report({ kind: 'paused' });
    } else {
      this.report({ kind: 'continues', sign: outcome === 'continues-with-sign' });
    }
  }

  #goesOn(): boolean {
    return this.follow.running;
  }

  /** Reports the reach of the follow, and a level below the one that was asked for, at the start. */
  #tellReach(access: Access): void {
    const { source, diagnostics } = this.#parts;
    const outcome = source.whenHidden?.(this.demand, access.level);
    const asked = this.#options.background === true;
    this.#controls.rename(
      outcome === undefined ? 'unknown' : outcome === 'pauses' ? 'visible-only' : 'background',
    );
    const { level } = access;
    if (
      asked &&
      (level === 'once' || level === 'foreground') &&
      source.whenHidden?.(this.demand, 'background') !== 'pauses'
    ) {
      const then =
        outcome === 'pauses' ? 'pauses' : 'continues with a notification, because it began while visible';
      diagnostics.report(
        'less-than-asked',
        `a follow asked for the background and was granted "${level}": while the app is hidden it ${then}`,
      );
      this.report({ kind: 'less-than-asked', granted: level });
    } else if (outcome === 'pauses') {
      if (asked) {
        diagnostics.report(
          'visible-only',
          `${source.name} gives positions only while the app is visible: background: true has no effect ` +
            `here; keepScreenOn: true keeps it visible`,
        );
      }
      const keep = source.keepScreenOn === undefined ? {} : { keepScreenOn: () => this.#keepScreenOn() };
      this.report({ kind: 'visible-only', ...keep });
    }
  }

  /** Resolves with whether the screen stays on. Repeated requests share one. */
  #keepScreenOn(): Promise<boolean> {
    this.#screen ??= this.#holdScreen().then((held) => {
      if (!held) this.#screen = undefined; // a later request may succeed
      return held;
    });
    return this.#screen;
  }

  async #holdScreen(): Promise<boolean> {
    const { source, diagnostics } = this.#parts;
    try {
      const release = await source.keepScreenOn?.();
      if (release === undefined) return false;
      this.#lifetime.add(release);
      return this.follow.running;
    } catch (error) {
      diagnostics.report('source-error', `${source.name} threw on keepScreenOn: ${String(error)}`, error);
      return false;
    }
  }

  /** Whether the owner has left the document; the follow is then stopped, with a diagnostic. */
  #ownerGone(): boolean {
    const { owner } = this.#options;
    if (owner === undefined) return false;
    if (owner.isConnected) {
      this.#owned = true;
      return false;
    }
    if (!this.#owned && ++this.#unowned < NEVER_SEEN) return false;
    this.#parts.diagnostics.report(
      'owner-gone',
      'a follow was stopped: its owner has left the document; stop it there, or give it none',
    );
    this.follow.stop();
    return true;
  }

  #fail(error: NoFixError): void {
    if (!this.follow.running) return;
    const { ladder } = this.#parts;
    // A permission that worked before was withdrawn, whatever kind the platform reports.
    const withdrawn = this.#worked && (error.kind === 'refused' || error.kind === 'barred');
    const reported = ladder.remedied(withdrawn ? new NoFixError('withdrawn', { cause: error }) : error);
    inTurn(() => {
      this.#controls.step({ step: 'fails', error: reported });
      this.#parts.onFailed(reported);
    });
  }

  #unhandled(error: NoFixError): void {
    const { diagnostics, source } = this.#parts;
    diagnostics.report(
      'unhandled-failure',
      `a follow failed without a handler (see Follow.onEvent): ${error.message}`,
    );
    source.showUnhandled?.(error);
  }
}

/** Number of fixes within which an owner must be inserted into its document. */
const NEVER_SEEN = 3;
