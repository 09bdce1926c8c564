import { abortSignal, anything, checkOptions, numberFrom } from '../core/check/options.js';
import { ClosedError } from '../core/check/closed-error.js';
import { confidenceFactors } from '../core/fix/confidence.js';
import type { RawFix } from '../core/fix/fix.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import type { AccessReading, AccessLevel } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { LifeEvent, WhenHidden } from '../receiver/life.js';
import { limited } from '../receiver/limited.js';
import { ownClock } from '../receiver/own-clock.js';
import type { Demand, Source, SourceEvent, SourceSink } from '../receiver/source.js';
import type { AbortSignalLike } from '../live/abort-signal.js';
import { closedByUsing } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { consoleWarn, isolatedWarn, type Warn } from '../live/warn.js';
import type { Ability } from './bridge-abilities.js';
import { BRIDGE_VERSION, readShellMessage, type ShellMessage } from './bridge-messages.js';

/** The part of a `MessagePort` that the bridge needs. */
export interface BridgePort {
  postMessage(message: unknown): void;
  addEventListener(kind: 'message', listener: (event: { data: unknown }) => void): void;
  start?(): void;
  /** For closing the source; a port without it keeps a listener without effect. */
  removeEventListener?(kind: 'message', listener: (event: { data: unknown }) => void): void;
}

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
  /**
   * Stops listening to the port, which stays open. Watches end, and pending calls get no answer. Closing twice is
   * harmless.
   */
  close(): void;
  readonly refusals: { readonly count: number; readonly last: string | undefined };
}

type Hello = Extract<ShellMessage, { kind: 'hello' }>;

/**
 * A native shell around the page as a source, over a message port that the shell hands to the page. The shell uses the
 * messages of docs/bridge.md, version 1; an invalid one is refused with the reason, and has no other effect.
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
  readonly #port: BridgePort;
  readonly #clock: Clock;
  readonly #patience: number;
  readonly #warn: Warn;
  readonly #hello: Promise<Hello | undefined>;
  readonly #calls = new Map<number, (result: unknown) => void>();
  readonly #sinks = new Map<number, SourceSink>();
  readonly #events: Emitter<SourceEvent>;
  readonly #lifeEvents: Emitter<LifeEvent>;
  readonly #lifetime: Lifetime;
  #greet: (hello: Hello | undefined) => void = () => {};
  #shell: Hello | undefined;
  #count = 0;
  #refused = 0;
  #lastRefusal: string | undefined;
  #hidden = false;

  constructor(port: BridgePort, options: BridgeOptions) {
    const { patience = 5, clock = systemClock, warn = consoleWarn, signal } = options;
    this.#port = port;
    this.#patience = patience;
    this.#warn = isolatedWarn(warn);
    const report = warnOfListener('a bridge', this.#warn);
    this.#events = new Emitter(report);
    this.#lifeEvents = new Emitter(report);
    this.#lifetime = new Lifetime(report);
    this.#clock = ownClock(clock, this.#lifetime);
    this.#hello = new Promise((resolve) => {
      const cancel = this.#clock.after(patience, () => {
        warn(`the shell did not say hello within ${patience} s: there is no positioning without it`);
        resolve(undefined);
      });
      this.#greet = (hello) => {
        cancel();
        this.#shell = hello;
        resolve(hello);
      };
    });
    const receive = ({ data }: { data: unknown }) => this.#receive(data);
    port.addEventListener('message', receive);
    this.#lifetime.add(() => port.removeEventListener?.('message', receive));
    port.start?.();
    this.#send({ kind: 'hello' });
    this.#lifetime.add(() => this.#release());
    this.#lifetime.endWith(signal);
  }

  close(): void {
    this.#lifetime.end(new ClosedError('the bridge'));
  }

  #release(): void {
    this.#greet(undefined);
    for (const [id, settle] of [...this.#calls]) {
      this.#calls.delete(id);
      settle(undefined);
    }
    for (const [watch, sink] of [...this.#sinks]) {
      this.#sinks.delete(watch);
      this.#send({ kind: 'stop', watch });
      sink.end();
    }
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
    if ((await this.#hello) === undefined) return { support: 'no' };
    const access = await this.#callInTime({ kind: 'read-access' });
    return access ?? {};
  }

  onEvent(listener: (event: SourceEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  async prompt(level: AccessLevel): Promise<void> {
    await this.#call({ kind: 'ask', level });
  }

  get turnOnSwitch() {
    if (!this.#can('turn-on-switch')) return undefined;
    return async ({ accuracy }: Demand): Promise<'on' | 'declined' | 'impossible'> => {
      const answer = await this.#call({
        kind: 'turn-on-switch',
        ...(accuracy !== undefined && { accuracy }),
      });
      return answer === 'on' || answer === 'declined' ? answer : 'impossible';
    };
  }

  get openSettings() {
    if (!this.#can('open-settings')) return undefined;
    return async (page: 'app' | 'switch'): Promise<boolean> =>
      (await this.#call({ kind: 'open-settings', page })) === true;
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

  watch(demand: Demand, sink: SourceSink): () => void {
    if (this.#lifetime.aborted) {
      sink.end();
      return () => {};
    }
    const watch = ++this.#count;
    this.#sinks.set(watch, sink);
    this.#send({ kind: 'watch', watch, background: false, ...demand });
    return () => {
      if (this.#sinks.delete(watch)) this.#send({ kind: 'stop', watch });
    };
  }

  #can(ability: Ability): boolean {
    return this.#shell?.abilities.includes(ability) === true;
  }

  #call(message: Record<string, unknown> & { kind: string }): Promise<unknown> {
    if (this.#lifetime.aborted) return Promise.resolve(undefined);
    const id = ++this.#count;
    return new Promise((resolve) => {
      this.#calls.set(id, resolve);
      this.#send({ ...message, id });
    });
  }

  /** As `#call`, for answers that need no user: `undefined` when none comes in time. */
  #callInTime(message: Record<string, unknown> & { kind: string }): Promise<unknown> {
    return limited(this.#clock, this.#patience, this.#call(message), () => {
      this.#warn(`${this.name} did not answer ${message.kind} within ${this.#patience} s`);
      return undefined;
    });
  }

  #send(message: Record<string, unknown>): void {
    this.#port.postMessage({ drift: BRIDGE_VERSION, ...message } satisfies Record<string, unknown>);
  }

  #receive(data: unknown): void {
    if (this.#lifetime.aborted) return;
    const read = readShellMessage(data);
    if (!read.ok) {
      this.#refuse(read.reason);
      // An invalid answer is an answer too: the caller must not wait for another.
      const { id } = (data ?? {}) as { id?: unknown };
      if (typeof id === 'number' && this.#calls.has(id)) this.#answer(id, undefined);
      return;
    }
    const { message } = read;
    switch (message.kind) {
      case 'hello':
        this.#greet(message);
        return;
      case 'access':
        if (message.id === undefined) this.#events.emit({ kind: 'access' });
        else this.#answer(message.id, message.access);
        return;
      case 'done':
        this.#answer(message.id, message.result);
        return;
      case 'life':
        this.#hidden = message.event === 'hidden' || message.event === 'frozen';
        this.life.hidden = this.#hidden;
        this.#lifeEvents.emit({ kind: message.event });
        return;
      case 'refused':
        this.#warn(`${this.name} refused a message: ${message.why}`);
        if (message.id !== undefined) this.#answer(message.id, undefined);
        return;
      default: {
        // A stopped watch may still have messages on their way.
        const sink = this.#sinks.get(message.watch);
        if (sink !== undefined) this.#deliver(message, sink);
      }
    }
  }

  #deliver(message: Extract<ShellMessage, { watch: number }>, sink: SourceSink): void {
    switch (message.kind) {
      case 'fixes': {
        const fixes = message.fixes.map((fix) => this.#raw(fix));
        if (message.late) sink.bundle(fixes);
        else for (const fix of fixes) sink.fix(fix);
        return;
      }
      case 'trouble':
        sink.error(new NoFixError(message.failure, message.note === undefined ? {} : { note: message.note }));
        return;
      case 'gap':
        sink.gap();
        return;
      case 'end':
        this.#sinks.delete(message.watch);
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

  /** A fix of the shell, its radii converted to 95 %; checked like that of any source. */
  #raw(reported: Record<string, unknown>): RawFix {
    const { radius, altitude } = confidenceFactors(this.#shell?.confidence ?? 95);
    const scaled = (name: string, factor: number) => {
      const value = reported[name];
      return typeof value === 'number' ? { [name]: value * factor } : {};
    };
    return {
      ...reported,
      ...scaled('accuracy', radius),
      ...scaled('altitudeAccuracy', altitude),
    } as unknown as RawFix;
  }
}
