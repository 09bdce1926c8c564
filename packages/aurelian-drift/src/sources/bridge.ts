import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { confidenceFactors } from '../core/fix/confidence.js';
import { ORIGINS, type RawFix } from '../core/fix/fix.js';
import { salvage } from '../core/fix/salvage.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import { NO_FIX_KINDS } from '../core/fix/no-fix-kinds.js';
import type { AccessReading, AccessLevel } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { LifeEvent, WhenHidden } from '../receiver/life.js';
import { limited } from '../receiver/limited.js';
import { ownClock } from '../receiver/own-clock.js';
import type { Demand, Source, SourceEvent, SourceSink, WatchRelease } from '../receiver/source.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { closedByUsing } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import { ABILITIES, type Ability } from './bridge-abilities.js';
import { unpack } from './bridge-messages.js';
import { accessIn, readShellMessage, type ShellMessage } from './bridge-shell-messages.js';
import { BRIDGE_VERSION } from './bridge-version.js';
import type { BridgePort } from './bridge-ports.js';

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

type Hello = Extract<ShellMessage, { kind: 'hello' }>;
type Message = Record<string, unknown> & { readonly kind: string };

/** Seconds for an answer of the user: to a prompt, a dialog, or in the settings. */
const USER_PATIENCE = 900;

/** A hello of the page. */
interface Greeting {
  /** The shell answers with it. */
  readonly nonce: string;
  /** Resolves with the answer, or when none came in time. */
  readonly hello: Promise<unknown>;
  pending: boolean;
  end(): void;
}

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
  readonly #clock: Clock;
  readonly #patience: number;
  readonly #warn: Warn;
  readonly #calls = new Map<number, (result: unknown) => void>();
  readonly #watches = new Map<number, Watch>();
  readonly #events: Emitter<SourceEvent>;
  readonly #lifeEvents: Emitter<LifeEvent>;
  readonly #lifetime: Lifetime;
  readonly #noticed = new Set<string>();
  #port: { readonly port: BridgePort; readonly detach: () => void } | undefined;
  #greeting: Greeting | undefined;
  #shell: Hello | undefined;
  #count = 0;
  #refused = 0;
  #lastRefusal: string | undefined;

  constructor(port: BridgePort, options: BridgeOptions) {
    const { patience = 5, clock = systemClock, warn = consoleWarn, signal } = options;
    this.#patience = patience;
    this.#warn = isolatedWarn(warn);
    const report = warnOfListener('a bridge', this.#warn);
    this.#events = new Emitter(report);
    this.#lifeEvents = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    this.#clock = ownClock(clock, this.#lifetime);
    this.use(port);
    this.#lifetime.add(() => this.#release());
    this.#lifetime.endWith(signal);
  }

  use(port: BridgePort): void {
    if (this.#lifetime.aborted) return;
    this.#port?.detach();
    // A port that cannot remove a listener keeps one without effect.
    const receive = ({ data }: { data: unknown }) => {
      if (this.#port?.port === port) this.#receiveAll(data);
    };
    // A simple port may call every listener with its messages.
    const closed = ({ data }: { data: unknown }) => {
      if (data === undefined && this.#port?.port === port) this.#closed();
    };
    port.addEventListener('message', receive);
    port.addEventListener('close', closed);
    this.#port = {
      port,
      detach() {
        port.removeEventListener?.('message', receive);
        port.removeEventListener?.('close', closed);
      },
    };
    port.start?.();
    this.#greet();
  }

  close(): void {
    this.#lifetime.end(new ClosedError('the bridge'));
  }

  #release(): void {
    this.#greeting?.end();
    this.#endCalls();
    for (const [watch, { sink }] of [...this.#watches]) {
      this.#watches.delete(watch);
      this.#send({ kind: 'stop', watch });
      sink.end();
    }
    this.#port?.detach();
    this.#port = undefined;
    this.#events.clear();
    this.#lifeEvents.clear();
  }

  get name(): string {
    return this.#shell === undefined ? 'the shell' : `the shell "${this.#shell.shell}"`;
  }

  get refusals() {
    return { count: this.#refused, last: this.#lastRefusal };
  }

  get minInterval(): number {
    return this.#shell?.quickest ?? 1;
  }

  async readAccess(): Promise<Partial<AccessReading>> {
    await this.#greeting?.hello;
    if (this.#shell === undefined) return { support: 'no' };
    return (await this.#callInTime({ kind: 'read-access' })) ?? {};
  }

  onEvent(listener: (event: SourceEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  async prompt(level: AccessLevel): Promise<void> {
    await this.#callInTime({ kind: 'ask', level }, USER_PATIENCE);
  }

  get turnOnSwitch() {
    if (!this.#can('turn-on-switch')) return undefined;
    return async ({ accuracy }: Demand): Promise<'on' | 'declined' | 'impossible'> => {
      const asked = { kind: 'turn-on-switch', ...(accuracy !== undefined && { accuracy }) };
      const answer = await this.#callInTime(asked, USER_PATIENCE);
      return answer === 'on' || answer === 'declined' ? answer : 'impossible';
    };
  }

  get openSettings() {
    if (!this.#can('open-settings')) return undefined;
    return async (page: 'app' | 'switch'): Promise<boolean> =>
      (await this.#callInTime({ kind: 'open-settings', page }, USER_PATIENCE)) === true;
  }

  async cached(): Promise<RawFix | undefined> {
    if (!this.#can('last-fix')) return undefined;
    const found = await this.#callInTime({ kind: 'last-fix' });
    return typeof found === 'object' && found !== null
      ? this.#raw(found as Record<string, unknown>)
      : undefined;
  }

  async keepScreenOn(): Promise<(() => void) | undefined> {
    if (!this.#can('keep-screen-on')) return undefined;
    const kept = await this.#callInTime({ kind: 'keep-screen-on', on: true });
    if (kept !== true) return undefined;
    return () => void this.#callInTime({ kind: 'keep-screen-on', on: false });
  }

  readonly life = {
    onEvent: (listener: (event: LifeEvent) => void) => this.#lifeEvents.onEvent(listener),
    hidden: false,
  };

  whenHidden(demand: Demand, level: AccessReading['level']): WhenHidden {
    const background = this.#shell?.background ?? 'none';
    if (background === 'none' || demand.background !== true) return 'pauses';
    if (level === 'background') return 'continues';
    return background === 'with-sign' ? 'continues-with-sign' : 'pauses';
  }

  watch(demand: Demand, sink: SourceSink): WatchRelease {
    if (this.#lifetime.aborted) {
      sink.end();
      return () => {};
    }
    const watch = ++this.#count;
    const own: Watch = { demand, sink, rest: undefined };
    this.#watches.set(watch, own);
    this.#demand('watch', watch, demand);
    const release = () => {
      if (this.#watches.delete(watch)) this.#send({ kind: 'stop', watch });
    };
    return Object.assign(release, {
      change: (changed: Demand) => {
        own.demand = changed;
        own.rest = undefined;
        if (this.#watches.has(watch)) this.#demand('change', watch, changed);
      },
      rest: (until: number, beyond: number | undefined): boolean => {
        if (!this.#watches.has(watch) || !this.#can('rest')) {
          this.#notice('the shell cannot rest: its receiver stays on while no fix is needed');
          return false;
        }
        own.rest = { until, beyond };
        this.#rest(watch, own.rest);
        return true;
      },
    });
  }

  #demand(kind: 'watch' | 'change', watch: number, demand: Demand): void {
    this.#send({ kind, watch, background: false, ...demand });
  }

  #rest(watch: number, { until, beyond }: NonNullable<Watch['rest']>): void {
    this.#send({ kind: 'rest', watch, until, ...(beyond !== undefined && { beyond }) });
  }

  #can(ability: Ability): boolean {
    return this.#shell?.abilities.includes(ability) === true;
  }

  /** Says hello; without an answer in time there is no support, until one comes late. */
  #greet(): void {
    const greeting = this.#greeting?.pending === true ? this.#greeting : this.#newGreeting();
    this.#greeting = greeting;
    const origin = (globalThis as { readonly location?: { readonly origin?: string } }).location?.origin;
    this.#post({ kind: 'hello', versions: [BRIDGE_VERSION], nonce: greeting.nonce, origin: origin ?? '' });
  }

  #newGreeting(): Greeting {
    let settle = () => {};
    const hello = new Promise<void>((resolve) => (settle = resolve));
    const greeting: Greeting = {
      nonce: randomToken(),
      hello,
      pending: true,
      end() {
        cancel();
        greeting.pending = false;
        settle();
      },
    };
    const cancel = this.#clock.after(this.#patience, () => {
      this.#warn(
        `the shell did not say hello within ${this.#patience} s: there is no positioning without it`,
      );
      greeting.end();
    });
    return greeting;
  }

  #hello(hello: Hello): void {
    if (hello.nonce !== this.#greeting?.nonce) {
      this.#refuse('hello: the nonce is not that of this page');
      return;
    }
    if (hello.version !== BRIDGE_VERSION) {
      this.#refuse(`hello: version ${hello.version} is not spoken here, only ${BRIDGE_VERSION}`);
      this.#greeting.end();
      return;
    }
    for (const ability of hello.abilities)
      if (!(ABILITIES as readonly string[]).includes(ability))
        this.#notice(`the ability "${ability.slice(0, 40)}" is not known here`);
    const isNew = hello.session !== this.#shell?.session;
    const again = isNew && this.#shell !== undefined;
    this.#shell = hello;
    this.#greeting.end();
    if (!isNew) return;
    if (again) this.#endCalls(); // their answers are lost with the old session
    for (const [watch, { demand, sink, rest }] of [...this.#watches]) {
      if (again) sink.gap();
      this.#demand('watch', watch, demand);
      if (rest !== undefined) this.#rest(watch, rest);
    }
    this.#events.emit({ kind: 'access' });
  }

  /** The far end is gone: what was asked gets no answer, and there are no fixes until another port comes. */
  #closed(): void {
    this.#warn(`${this.name} has closed its port; positions come again when it hands over another one`);
    this.#port?.detach();
    this.#port = undefined;
    this.#greeting?.end();
    this.#endCalls();
    for (const { sink } of [...this.#watches.values()]) {
      sink.gap();
      sink.error(new NoFixError('no-signal', { note: 'the shell has closed its port' }));
    }
  }

  #endCalls(): void {
    for (const [id, settle] of [...this.#calls]) {
      this.#calls.delete(id);
      settle(undefined);
    }
  }

  /** Resolves with the answer; with `undefined` when none comes in time, or none can come. */
  #callInTime(message: Message, seconds = this.#patience): Promise<unknown> {
    if (this.#lifetime.aborted || this.#port === undefined) return Promise.resolve(undefined);
    const id = ++this.#count;
    const answer = new Promise<unknown>((resolve) => {
      this.#calls.set(id, resolve);
      this.#send({ ...message, id });
    });
    return limited(this.#clock, seconds, answer, () => {
      this.#calls.delete(id);
      this.#warn(`${this.name} did not answer ${message.kind} within ${seconds} s`);
      return undefined;
    });
  }

  /** Sends a message of the session; before there is one nothing is sent: hello opens the watches. */
  #send(message: Message): void {
    if (this.#shell !== undefined) this.#post({ ...message, session: this.#shell.session });
  }

  #post(message: Message): void {
    try {
      this.#port?.port.postMessage({ drift: BRIDGE_VERSION, ...message });
    } catch (error) {
      this.#warn(`${this.name} took no message: ${String(error)}`, error);
    }
  }

  #receiveAll(data: unknown): void {
    const messages = unpack(data);
    if (typeof messages === 'string') this.#refuse(messages);
    else for (const message of messages) this.#receive(message);
  }

  #receive(data: unknown): void {
    if (this.#lifetime.aborted) return;
    const read = readShellMessage(data);
    if (read.state === 'wrong') {
      this.#refuse(read.reason);
      // An invalid answer is an answer too: the caller must not wait for another.
      const { id } = (data ?? {}) as { id?: unknown };
      if (typeof id === 'number' && this.#calls.has(id)) this.#answer(id, undefined);
      return;
    }
    for (const unknown of read.unknown) this.#notice(`${unknown} is not known here`);
    if (read.state === 'read') this.#take(read.message);
  }

  #take(message: ShellMessage): void {
    if (message.kind === 'greet') this.#greet();
    else if (message.kind === 'hello') this.#hello(message);
    else if (this.#shell === undefined) this.#refuse(`${message.kind} came before hello`);
    else if ('watch' in message) {
      // A stopped watch may still have messages on their way.
      const watch = this.#watches.get(message.watch);
      if (watch !== undefined) this.#deliver(message, watch);
    } else this.#obey(message);
  }

  #obey(message: Exclude<ShellMessage, { watch: number } | { kind: 'greet' | 'hello' }>): void {
    switch (message.kind) {
      case 'access': {
        if (message.id === undefined) {
          this.#events.emit({ kind: 'access' });
          return;
        }
        const { access, problems, unknown } = accessIn(message.access);
        for (const problem of problems) this.#refuse(problem);
        for (const each of unknown) this.#notice(`${each} is not known here`);
        this.#answer(message.id, access);
        return;
      }
      case 'done':
        this.#answer(message.id, message.result);
        return;
      case 'life':
        this.life.hidden = message.event === 'hidden' || message.event === 'frozen';
        this.#lifeEvents.emit({ kind: message.event });
        return;
      case 'refused':
        this.#warn(`${this.name} refused a message: ${message.why}`);
        if (message.id !== undefined && this.#calls.has(message.id)) this.#answer(message.id, undefined);
    }
  }

  #deliver(message: Extract<ShellMessage, { watch: number }>, watch: Watch): void {
    const { sink } = watch;
    switch (message.kind) {
      case 'fixes': {
        watch.rest = undefined; // the shell has gone on by its own alarm
        const fixes = message.fixes.map((fix) => this.#raw(fix));
        for (const fix of fixes) {
          const { fix: possible, problems } = salvage(fix);
          if (possible === undefined) this.#refuse(`fixes: ${problems.join('; ')}`);
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

  #answer(id: number, result: unknown): void {
    const settle = this.#calls.get(id);
    if (settle === undefined) this.#refuse(`there is no open question ${id}`);
    this.#calls.delete(id);
    settle?.(result);
  }

  #refuse(reason: string): void {
    this.#refused++;
    this.#lastRefusal = reason;
    this.#warn(`${this.name} broke the bridge’s rules: ${reason}`);
    this.#send({ kind: 'refused', why: reason.slice(0, 500) });
  }

  /** What a later version may have brought is told once, and is no fault. */
  #notice(what: string): void {
    if (this.#noticed.has(what) || this.#noticed.size >= MOST_NOTICES) return;
    this.#noticed.add(what);
    this.#warn(`${this.name}: ${what}`);
  }

  /** A fix of the shell, its radii converted to 95 %; checked like that of any source. */
  #raw(reported: Record<string, unknown>): RawFix {
    const { radius, altitude } = confidenceFactors(this.#shell?.confidence ?? 95);
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
}

/** The failure of a shell; one of a kind that is not known here is `unknown`, with its name in the note. */
function failureOf({ failure, note }: Extract<ShellMessage, { kind: 'trouble' }>): NoFixError {
  const kind = NO_FIX_KINDS.find((each) => each === failure);
  const told =
    kind === undefined ? [`"${failure}"`, note].filter((text) => text !== undefined).join(': ') : note;
  return new NoFixError(kind ?? 'unknown', told === undefined ? {} : { note: told });
}

/** Notices about one shell: a broken one must not fill the console. */
const MOST_NOTICES = 50;

/** A text that nobody else knows. */
function randomToken(): string {
  const { crypto } = globalThis as { readonly crypto?: Partial<Crypto> };
  const bytes = crypto?.getRandomValues?.(new Uint8Array(16));
  // An engine without a source of randomness has no frames that could pose as the shell either.
  const parts = bytes ?? Array.from({ length: 16 }, () => Math.floor(Math.random() * 256));
  return Array.from(parts, (part) => part.toString(16).padStart(2, '0')).join('');
}
