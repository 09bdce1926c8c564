import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { confidenceFactors, type Confidence } from '../core/fix/confidence.js';
import { ORIGINS, type RawFix } from '../core/fix/fix.js';
import { salvage } from '../core/fix/salvage.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import { NO_FIX_KINDS } from '../core/fix/no-fix-kinds.js';
import type { AccessReading, AccessLevel } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { LifeEvent, WhenHidden } from '../receiver/life.js';
import { ownClock } from '../receiver/own-clock.js';
import type { Demand, Source, SourceEvent, SourceSink, WatchRelease } from '../receiver/source.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { closedByUsing } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import type { Ability } from './bridge-abilities.js';
import { BridgeLink, type SessionMessage } from './bridge-link.js';
import type { BridgePort } from './bridge-ports.js';
import { accessIn, type ShellMessage } from './bridge-shell-messages.js';

/** Options of `bridgeSource`. */
export interface BridgeOptions {
  /**
   * Maximum seconds for the hello of the shell, without which there is no support, and for each of its answers that
   * needs no user. A missing or invalid answer gives no information. Default 5.
   */
  readonly patience?: number;
  /** Clock of the time-outs. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Receives messages for the developer, such as refused messages with the reason. Default: the console. */
  readonly warn?: Warn;
  /** Closes it when it aborts. */
  readonly signal?: AbortSignalLike;
}

/** A source behind a bridge, with the number of refused messages and the last reason. */
export interface BridgeSource extends Source {
  /** Goes on over another port, of a shell that was restarted: watches are opened again, after a gap. */
  use(port: BridgePort): void;
  /**
   * Stops listening to the port, which stays open. Watches end, and pending calls get no answer. Closing twice is
   * harmless.
   */
  close(): void;
  readonly refusals: { readonly count: number; readonly last: string | undefined };
}

/** Seconds for an answer of the user: to a prompt, a dialog, or in the settings. */
const USER_PATIENCE = 900;

/** A watch that was asked for; it is opened at each session of the shell. */
interface Watch {
  demand: Demand;
  readonly sink: SourceSink;
  /** Until when it rests, if it does. */
  rest: { readonly until: number; readonly beyond: number | undefined } | undefined;
}

/**
 * A native shell around the page as a source, over a port that the shell hands to the page (`onShellPort`), or that is
 * made of what its web view has (`textPort`, `functionPort`). The shell uses the messages of docs/bridge.md, version 2.
 * An invalid one is refused with the reason, and has no other effect; what is not known here is left alone, with one
 * notice. Every call ends, whatever the shell does: after `patience`, or after 15 minutes where the user is asked.
 */
export function bridgeSource(port: BridgePort, options: BridgeOptions = {}): BridgeSource {
  checkOptions('bridgeSource', options, {
    patience: numberFrom(0.1, 600, 'seconds'),
    clock: anything,
    warn: anything,
    signal: abortSignal,
  });
  return closedByUsing(new Bridge(port, options));
}

class Bridge implements BridgeSource {
  readonly supported = true;
  readonly inApp = true;
  readonly #link: BridgeLink;
  readonly #watches = new Map<number, Watch>();
  readonly #events: Emitter<SourceEvent>;
  readonly #lifeEvents: Emitter<LifeEvent>;
  readonly #lifetime: Lifetime;

  constructor(port: BridgePort, options: BridgeOptions) {
    const { patience = 5, clock = systemClock, signal } = options;
    const warn = isolatedWarn(options.warn ?? consoleWarn);
    const report = warnOfListener('a bridge', warn);
    this.#events = new Emitter(report);
    this.#lifeEvents = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    this.#link = new BridgeLink(
      { patience, clock: ownClock(clock, this.#lifetime), warn },
      {
        opened: (again) => this.#opened(again),
        take: (message) => this.#take(message),
        closed: () => this.#closed(),
      },
    );
    this.#link.use(port);
    this.#lifetime.add(() => this.#release());
    this.#lifetime.endWith(signal);
  }

  use(port: BridgePort): void {
    if (!this.#lifetime.aborted) this.#link.use(port);
  }

  close(): void {
    this.#lifetime.end(new ClosedError('the bridge'));
  }

  #release(): void {
    for (const [watch, { sink }] of [...this.#watches]) {
      this.#watches.delete(watch);
      this.#link.send({ kind: 'stop', watch });
      sink.end();
    }
    this.#link.end();
    this.#events.clear();
    this.#lifeEvents.clear();
  }

  get name(): string {
    return this.#link.name;
  }

  get refusals() {
    return this.#link.refusals;
  }

  get minInterval(): number {
    return this.#link.shell?.quickest ?? 1;
  }

  async readAccess(): Promise<Partial<AccessReading>> {
    await this.#link.greeted;
    if (this.#link.shell === undefined) return { support: 'no' };
    return (await this.#link.call({ kind: 'read-access' })) ?? {};
  }

  onEvent(listener: (event: SourceEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  async prompt(level: AccessLevel): Promise<void> {
    await this.#link.call({ kind: 'ask', level }, USER_PATIENCE);
  }

  get turnOnSwitch() {
    if (!this.#can('turn-on-switch')) return undefined;
    return async ({ accuracy }: Demand): Promise<'on' | 'declined' | 'impossible'> => {
      const asked = { kind: 'turn-on-switch', ...(accuracy !== undefined && { accuracy }) };
      const answer = await this.#link.call(asked, USER_PATIENCE);
      return answer === 'on' || answer === 'declined' ? answer : 'impossible';
    };
  }

  get openSettings() {
    if (!this.#can('open-settings')) return undefined;
    return async (page: 'app' | 'switch'): Promise<boolean> =>
      (await this.#link.call({ kind: 'open-settings', page }, USER_PATIENCE)) === true;
  }

  async cached(): Promise<RawFix | undefined> {
    if (!this.#can('last-fix')) return undefined;
    const found = await this.#link.call({ kind: 'last-fix' });
    return typeof found === 'object' && found !== null
      ? this.#raw(found as Record<string, unknown>)
      : undefined;
  }

  async keepScreenOn(): Promise<(() => void) | undefined> {
    if (!this.#can('keep-screen-on')) return undefined;
    const kept = await this.#link.call({ kind: 'keep-screen-on', on: true });
    if (kept !== true) return undefined;
    return () => void this.#link.call({ kind: 'keep-screen-on', on: false });
  }

  readonly life = {
    onEvent: (listener: (event: LifeEvent) => void) => this.#lifeEvents.onEvent(listener),
    hidden: false,
  };

  whenHidden(demand: Demand, level: AccessReading['level']): WhenHidden {
    const background = this.#link.shell?.background ?? 'none';
    if (background === 'none' || demand.background !== true) return 'pauses';
    if (level === 'background') return 'continues';
    return background === 'with-sign' ? 'continues-with-sign' : 'pauses';
  }

  watch(demand: Demand, sink: SourceSink): WatchRelease {
    if (this.#lifetime.aborted) {
      sink.end();
      return () => {};
    }
    const watch = this.#link.newId();
    const own: Watch = { demand, sink, rest: undefined };
    this.#watches.set(watch, own);
    this.#demand('watch', watch, demand);
    const release = () => {
      if (this.#watches.delete(watch)) this.#link.send({ kind: 'stop', watch });
    };
    return Object.assign(release, {
      change: (changed: Demand) => {
        own.demand = changed;
        own.rest = undefined;
        if (this.#watches.has(watch)) this.#demand('change', watch, changed);
      },
      rest: (until: number, beyond: number | undefined): boolean => {
        if (!this.#watches.has(watch) || !this.#can('rest')) {
          this.#link.notice('the shell cannot rest: its receiver stays on while no fix is needed');
          return false;
        }
        own.rest = { until, beyond };
        this.#rest(watch, own.rest);
        return true;
      },
    });
  }

  #demand(kind: 'watch' | 'change', watch: number, demand: Demand): void {
    this.#link.send({ kind, watch, background: false, ...demand });
  }

  #rest(watch: number, { until, beyond }: NonNullable<Watch['rest']>): void {
    this.#link.send({ kind: 'rest', watch, until, ...(beyond !== undefined && { beyond }) });
  }

  #can(ability: Ability): boolean {
    return this.#link.shell?.abilities.includes(ability) === true;
  }

  /** A session has begun: it knows of no watch. */
  #opened(again: boolean): void {
    for (const [watch, { demand, sink, rest }] of [...this.#watches]) {
      if (again) sink.gap();
      this.#demand('watch', watch, demand);
      if (rest !== undefined) this.#rest(watch, rest);
    }
    this.#events.emit({ kind: 'access' });
  }

  /** The far end is gone: there are no fixes until another port comes. */
  #closed(): void {
    for (const { sink } of [...this.#watches.values()]) {
      sink.gap();
      sink.error(new NoFixError('no-signal', { note: 'the shell has closed its port' }));
    }
  }

  #take(message: SessionMessage): void {
    switch (message.kind) {
      case 'access':
        this.#takeAccess(message.id, message.access);
        return;
      case 'life':
        this.life.hidden = message.event === 'hidden' || message.event === 'frozen';
        this.#lifeEvents.emit({ kind: message.event });
        return;
      default: {
        // A stopped watch may still have messages on their way.
        const watch = this.#watches.get(message.watch);
        if (watch !== undefined) this.#deliver(message, watch);
      }
    }
  }

  #takeAccess(id: number | undefined, given: Readonly<Record<string, unknown>>): void {
    if (id === undefined) {
      this.#events.emit({ kind: 'access' });
      return;
    }
    const { access, problems, unknown } = accessIn(given);
    for (const problem of problems) this.#link.refuse(problem);
    for (const each of unknown) this.#link.notice(`${each} is not known here`);
    this.#link.answer(id, access);
  }

  #deliver(message: Extract<ShellMessage, { watch: number }>, watch: Watch): void {
    const { sink } = watch;
    switch (message.kind) {
      case 'fixes': {
        watch.rest = undefined; // the shell has gone on by its own alarm
        const fixes = message.fixes.map((fix) => this.#raw(fix));
        for (const fix of fixes) {
          const { fix: possible, problems } = salvage(fix);
          if (possible === undefined) this.#link.refuse(`fixes: ${problems.join('; ')}`);
        }
        if (message.late) sink.bundle(fixes);
        else for (const fix of fixes) sink.fix(fix);
        return;
      }
      case 'trouble':
        sink.error(failureOf(message));
        return;
      case 'gap':
        sink.gap();
        return;
      case 'end':
        this.#watches.delete(message.watch);
        sink.end();
    }
  }

  #raw(reported: Record<string, unknown>): RawFix {
    return rawFix(reported, this.#link.shell?.confidence ?? 95);
  }
}

/** A fix of a shell, its radii converted to 95 %; checked like that of any source. */
function rawFix(reported: Record<string, unknown>, confidence: Confidence): RawFix {
  const { radius, altitude } = confidenceFactors(confidence);
  const scaled = (name: string, factor: number) => {
    const value = reported[name];
    // −1 stays: it says that the value is unknown.
    return typeof value === 'number' && value > 0 ? { [name]: value * factor } : {};
  };
  const { origin } = reported;
  return {
    ...reported,
    ...scaled('accuracy', radius),
    ...scaled('altitudeAccuracy', altitude),
    ...(origin !== undefined && !(ORIGINS as readonly unknown[]).includes(origin) && { origin: 'unknown' }),
  } as unknown as RawFix;
}

/** The failure of a shell; one of a kind that is not known here is `unknown`, with its name in the note. */
function failureOf({ failure, note }: Extract<ShellMessage, { kind: 'trouble' }>): NoFixError {
  const kind = NO_FIX_KINDS.find((each) => each === failure);
  const told =
    kind === undefined ? [`"${failure}"`, note].filter((text) => text !== undefined).join(': ') : note;
  return new NoFixError(kind ?? 'unknown', told === undefined ? {} : { note: told });
}
