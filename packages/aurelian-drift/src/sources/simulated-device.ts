import { anything, checkOptions, numberFrom, oneOf } from '../core/check/options.js';
import { InputError } from '../core/check/input-error.js';
import { numberProblem } from '../core/check/number.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import type { RawFix } from '../core/fix/fix.js';
import { positionOf, type Position } from '../core/geodesy/position.js';
import { JOURNEY_RULES, type Moment } from '../core/motion/journey.js';
import type { Gait } from '../core/motion/gait.js';
import type { Reception } from '../core/motion/receptions.js';
import type { RouteGiven } from '../core/formats/route-from.js';
import type { LinePoint } from '../core/trail/line.js';
import { DISPOSE } from '../live/dispose.js';
import { Emitter } from '../live/emitter.js';
import { warnOfListener } from '../live/listener.js';
import { inTurn } from '../live/turn.js';
import { consoleWarn } from '../live/warn.js';
import { ACCESS_LEVELS, type AccessReading, type AccessLevel } from '../receiver/access.js';
import { systemClock, type Clock } from '../receiver/clock.js';
import type { WhenHidden } from '../receiver/life.js';
import type { Demand, Source, SourceEvent, SourceSink } from '../receiver/source.js';
import { ANSWERS, SimulatedConsent, type Answer, type ConsentOptions } from './simulated-consent.js';
import { SimulatedLife } from './simulated-life.js';
import { SimulatedMotion, type MotionOptions } from './simulated-motion.js';

/** Options of `SimulatedDevice`. */
export interface SimulatedDeviceOptions extends MotionOptions, ConsentOptions {
  /** Clock of the device. Default: the clock of the platform. */
  readonly clock?: Clock;
  /** Seconds from the start of a watch to its first fix. Default 1. */
  readonly warmUp?: number;
  /**
   * Seconds for which fixes are collected and delivered together, as some platforms do to save the battery. Default:
   * each at once.
   */
  readonly bundle?: number;
  /**
   * A fix that the platform has stored and gives first, as a watch starts: its age in seconds, negative for one that is
   * dated in the future, and its place. Default: none.
   */
  readonly storedFix?: { readonly age: number; readonly at: Position };
  /** Radius in metres of an approximate position. Default 3000. */
  readonly roughness?: number;
  /**
   * Behaviour of the platform while the app is hidden. `none`: it pauses, as in a web page. `by-level`: it continues at
   * the background level. `with-sign`: it continues at the foreground level too, with a notification, if it began while
   * visible. Default `none`.
   */
  readonly background?: 'none' | 'by-level' | 'with-sign';
  /** Access values that replace its own: an insecure page, a frame without permission, missing declarations. */
  readonly access?: Partial<AccessReading>;
  /** Action of the user in a settings page that the app opens. */
  readonly inSettings?: (device: SimulatedDevice, page: 'app' | 'switch') => void;
}

/**
 * A complete pretend device, as a source: its user walks a route, answers prompts, loses the signal, turns the switch
 * off, puts it in a pocket. Everything runs on its clock; the same seed gives the same fixes.
 */
export class SimulatedDevice implements Source {
  readonly name = 'the simulated device';
  readonly supported: boolean;
  readonly minInterval: number;
  readonly life = new SimulatedLife();
  /** Whether there is a current user action on the page; `undefined` when it is unknown. */
  acting: boolean | undefined;
  readonly #options: SimulatedDeviceOptions;
  readonly #clock: Clock;
  readonly #consent: SimulatedConsent;
  readonly #motion: SimulatedMotion;
  readonly #events = new Emitter<SourceEvent>(warnOfListener('a simulated device', consoleWarn));
  readonly #sinks = new Map<SourceSink, Demand>();
  /** Watches whose first fix has come, and the function that cancels the alarm for their next one. */
  readonly #warm = new Set<SourceSink>();
  #cancelNext: (() => void) | undefined;
  /** Collected fixes of a watch, and the function that cancels their delivery. */
  readonly #held = new Map<SourceSink, { readonly fixes: RawFix[]; readonly cancel: () => void }>();
  readonly #opened: ('app' | 'switch')[] = [];
  #signal = true;
  #asleep = false;
  #screenHolds = 0;
  #lastFix: RawFix | undefined;
  /** Milliseconds by which the clock of the receiver is ahead of that of the device. */
  #ahead = 0;

  /** @throws {InputError} for a misspelt option or a value out of range. */
  constructor(options: SimulatedDeviceOptions = {}) {
    const { at, clock = systemClock, every, answer } = options;
    checkOptions('SimulatedDevice', options, {
      ...JOURNEY_RULES,
      at: anything,
      route: anything,
      afterwards: oneOf('rest', 'again', 'end'),
      clock: anything,
      warmUp: numberFrom(0, 3600, 'seconds'),
      permission: oneOf('not-asked', 'granted', 'barred'),
      level: oneOf(...ACCESS_LEVELS),
      precision: oneOf('precise', 'approximate'),
      answer: (value) => (Array.isArray(value) ? undefined : oneOf(...ANSWERS)(value)),
      thinking: numberFrom(0, 86_400, 'seconds'),
      switch: oneOf('on', 'weak', 'off'),
      switchAnswer: oneOf('accept', 'decline', 'impossible'),
      roughness: numberFrom(1, 1e6, 'metres'),
      background: oneOf('none', 'by-level', 'with-sign'),
      access: anything,
      inSettings: anything,
      bundle: numberFrom(1, 3600, 'seconds'),
      storedFix: isStoredFix,
    });
    for (const one of Array.isArray(answer) ? (answer as readonly Answer[]) : []) {
      checkOptions('SimulatedDevice', { answer: one }, { answer: oneOf(...ANSWERS) });
    }
    if (at !== undefined) positionOf(at);
    this.#options = { ...options };
    this.#clock = clock;
    this.#consent = new SimulatedConsent(options, clock);
    this.#motion = new SimulatedMotion(options, clock);
    this.supported = options.access?.support !== 'no';
    this.minInterval = every ?? 1;
  }

  /** Answers to prompts from now on. */
  get answer(): Answer | readonly Answer[] {
    const { answers } = this.#consent;
    return answers.length === 1 ? (answers[0] as Answer) : answers;
  }
  set answer(answer: Answer | readonly Answer[]) {
    this.#consent.answers = typeof answer === 'string' ? [answer] : [...answer];
  }

  /** Seconds until the user answers. */
  get thinking(): number {
    return this.#consent.thinking;
  }
  set thinking(seconds: number) {
    this.#consent.thinking = seconds;
  }

  /** How it moves. A change takes effect at once, from where the device is. */
  get gait(): Gait {
    return this.#motion.options.gait ?? 'walk';
  }
  set gait(gait: Gait) {
    this.#changeMotion({ gait });
  }

  /** Conditions of reception. A change takes effect at once. */
  get reception(): Reception {
    return this.#motion.options.reception ?? 'open';
  }
  set reception(reception: Reception) {
    this.#changeMotion({ reception });
  }

  /** Number of prompts so far. */
  get prompts(): number {
    return this.#consent.prompts;
  }

  /** Number of dialogs that asked to turn the switch on. */
  get dialogs(): number {
    return this.#consent.dialogs;
  }

  /** Settings pages that were opened, in order. */
  get settingsOpened(): readonly ('app' | 'switch')[] {
    return this.#opened;
  }

  /** Number of open watches: the receiver is on while there is one. */
  get watches(): number {
    return this.#sinks.size;
  }

  /** Current demands; those of the last watch when there are several. */
  get demand(): Demand | undefined {
    return [...this.#sinks.values()].at(-1);
  }

  /** Number of requests that keep the screen on. */
  get screenHolds(): number {
    return this.#screenHolds;
  }

  /** Text of the notification that the platform shows while the app is hidden and followed in the background. */
  get sign(): string | undefined {
    return !this.life.hidden
      ? undefined
      : [...this.#sinks.values()].find((demand) => demand.background === true)?.sign;
  }

  /** Whether there are satellite signals. Without them, a watch gets `no-signal` once, and then nothing. */
  get signal(): boolean {
    return this.#signal;
  }
  set signal(received: boolean) {
    if (this.#signal && !received)
      for (const sink of [...this.#sinks.keys()]) sink.error(new NoFixError('no-signal'));
    this.#signal = received;
  }

  /** Location switch of the device. */
  get switchedOn(): boolean {
    return this.#consent.switch !== 'off';
  }
  set switchedOn(on: boolean) {
    this.#consent.switch = on ? 'on' : 'off';
    if (!on) this.#endAll(new NoFixError('switched-off'));
    this.#changed();
  }

  /** Moves the device to a place at once; watches get a fix. */
  moveTo(at: LinePoint): void {
    positionOf(at);
    this.#motion.put(at);
    const { moments } = this.#motion.due();
    for (const sink of [...this.#sinks.keys()]) {
      sink.gap();
      for (const moment of moments.slice(-1)) this.#deliver(sink, moment);
    }
  }

  /** Starts to walk along a line. */
  walk(route: RouteGiven): void {
    this.#motion.walk(route);
  }

  /**
   * Puts the clock of the receiver forward by a number of seconds, or back: later fixes carry other times, as after a
   * clock was put right, or a rollover of the week.
   */
  putClock(seconds: number): void {
    const problem = numberProblem('seconds', seconds);
    if (problem !== undefined) throw new InputError('bad-value', `putClock: ${problem}`);
    this.#ahead += seconds * 1000;
  }

  /** The user grants the permission in the settings, or changes its level or precision there. */
  grant(level: AccessLevel = 'foreground', precision: 'precise' | 'approximate' = 'precise'): void {
    this.#consent.permission = 'granted';
    this.#consent.precision = precision;
    this.#consent.level = level;
    this.#changed();
  }

  /** The user withdraws the permission in the settings. */
  withdraw(): void {
    this.#consent.withdraw();
    this.#endAll(new NoFixError('barred'));
    this.#changed();
  }

  /** Forgets the decision of the user, as a fresh installation does. */
  reset(): void {
    this.#consent.forget();
    this.#endAll(new NoFixError('refused'));
    this.#changed();
  }

  /** Another app comes to the front. */
  hide(): void {
    this.life.report('hidden');
  }

  /** The app comes to the front again. */
  show(): void {
    this.life.report('shown');
  }

  /** The system stops running the app, but keeps it: a page in the back-forward cache, a sleeping app. */
  freeze(): void {
    this.life.report('frozen');
  }

  /** The app runs again, in front. */
  restore(): void {
    this.life.report('restored');
  }

  /** The user closes the app. */
  closeApp(): void {
    this.#endApp('closed');
  }

  /** Ends the pretend device; listeners are not called any more. Closing twice is harmless. */
  close(): void {
    this.#over();
  }

  [DISPOSE](): void {
    this.close();
  }

  /** The system ends the app; its listeners are called once more, and then never again. */
  killApp(): void {
    this.#endApp('killed');
  }

  /** The app starts again, after it was closed or killed: a permission for one session is gone. */
  restartApp(): void {
    this.#over();
    if (this.#consent.level === 'once') this.#consent.forget();
    this.life.begin();
  }

  /** Whether the device sleeps: fixes are held back, and delivered in one bundle when it wakes. */
  get asleep(): boolean {
    return this.#asleep;
  }
  set asleep(asleep: boolean) {
    this.#asleep = asleep;
    if (asleep) return;
    for (const sink of [...this.#held.keys()]) this.#handOver(sink);
  }

  readAccess(): Promise<Partial<AccessReading>> {
    return Promise.resolve({
      support: 'yes',
      secure: 'yes',
      policy: 'allowed',
      declaration: 'complete',
      backgroundDeclaration: 'complete',
      ...this.#consent.reading,
      ...this.#options.access,
    });
  }

  onEvent(listener: (event: SourceEvent) => void): () => void {
    return this.#events.onEvent(listener);
  }

  async prompt(level: AccessLevel): Promise<void> {
    await this.#consent.prompt(level);
    this.#changed();
  }

  async turnOnSwitch(demand: Demand): Promise<'on' | 'declined' | 'impossible'> {
    const answer = await this.#consent.turnOnSwitch(demand);
    if (answer === 'on') this.#changed();
    return answer;
  }

  openSettings(page: 'app' | 'switch'): Promise<boolean> {
    this.#opened.push(page);
    this.#options.inSettings?.(this, page);
    this.#changed();
    return Promise.resolve(true);
  }

  cached(): Promise<RawFix | undefined> {
    return Promise.resolve(this.#lastFix);
  }

  keepScreenOn(): Promise<() => void> {
    this.#screenHolds++;
    let held = true;
    return Promise.resolve(() => {
      if (held) this.#screenHolds--;
      held = false;
    });
  }

  userActing(): boolean | undefined {
    return this.acting;
  }

  whenHidden(demand: Demand, level: AccessReading['level']): WhenHidden {
    const { background = 'none' } = this.#options;
    if (background === 'none' || demand.background !== true) return 'pauses';
    if (level === 'background') return 'continues';
    return background === 'with-sign' ? 'continues-with-sign' : 'pauses';
  }

  watch(demand: Demand, sink: SourceSink): () => void {
    if (this.#consent.permission !== 'granted') {
      sink.error(new NoFixError(this.#consent.permission === 'barred' ? 'barred' : 'refused'));
      return () => {};
    }
    if (!this.switchedOn) {
      sink.error(new NoFixError('switched-off'));
      return () => {};
    }
    this.#sinks.set(sink, demand);
    this.#deliverStored(sink);
    if (!this.#signal) sink.error(new NoFixError('no-signal'));
    const cancel = this.#clock.after(this.#options.warmUp ?? 1, () => this.#warmUp(sink));
    return () => {
      cancel();
      this.#drop(sink);
    };
  }

  /** The first fix of a watch has come. Fixes from before it are for earlier watches: it gets the current one. */
  #changeMotion(options: Pick<MotionOptions, 'gait' | 'reception'>): void {
    const { gait, reception } = JOURNEY_RULES;
    checkOptions('SimulatedDevice', options, { gait, reception });
    this.#motion.change(options);
  }

  #warmUp(sink: SourceSink): void {
    this.#motion.begin();
    const { moments, ended } = this.#motion.due();
    this.#deliverAll(moments);
    for (const moment of moments.slice(-1)) this.#deliver(sink, moment);
    if (this.#sinks.has(sink)) this.#warm.add(sink);
    this.#next(ended);
  }

  /** Sets the alarm for the next fix, which goes to every watch, or ends all watches. */
  #next(ended: boolean): void {
    this.#cancelNext?.();
    this.#cancelNext = undefined;
    if (ended) {
      for (const sink of [...this.#warm]) sink.end();
    } else if (this.#warm.size > 0) {
      this.#cancelNext = this.#clock.after(this.#motion.untilNext, () => {
        const due = this.#motion.due();
        this.#deliverAll(due.moments);
        this.#next(due.ended);
      });
    }
  }

  #deliverAll(moments: readonly Moment[]): void {
    for (const moment of moments) for (const sink of [...this.#warm]) this.#deliver(sink, moment);
  }

  #deliverStored(sink: SourceSink): void {
    const { storedFix } = this.#options;
    if (storedFix === undefined) return;
    const { age, at } = storedFix;
    const time = this.#clock.now() + this.#ahead - age * 1000;
    sink.fix({ lat: at.lat, lon: at.lon, time, accuracy: STORED_ACCURACY, origin: 'simulated' });
  }

  #deliver(sink: SourceSink, { fix }: Moment): void {
    if (fix === undefined || !this.#signal || !this.#sinks.has(sink)) return;
    const { roughness = 3000 } = this.#options;
    const known: RawFix = this.#consent.precision === 'approximate' ? roughly(fix, roughness) : fix;
    const raw = this.#ahead === 0 ? known : { ...known, time: known.time + this.#ahead };
    const { bundle } = this.#options;
    if (this.#asleep || bundle !== undefined) {
      const held = this.#held.get(sink);
      if (held !== undefined) held.fixes.push(raw);
      else {
        const cancel =
          bundle === undefined ? () => {} : this.#clock.after(bundle, () => this.#handOver(sink));
        this.#held.set(sink, { fixes: [raw], cancel });
      }
    } else {
      this.#lastFix = raw;
      sink.fix(raw);
    }
  }

  /** Delivers collected fixes, unless the device sleeps. */
  #handOver(sink: SourceSink): void {
    const held = this.#held.get(sink);
    if (this.#asleep || held === undefined) return;
    this.#forget(sink);
    this.#lastFix = held.fixes.at(-1);
    if (this.#sinks.has(sink)) sink.bundle(held.fixes);
  }

  /** Ends a watch. */
  #drop(sink: SourceSink): void {
    this.#sinks.delete(sink);
    this.#warm.delete(sink);
    this.#forget(sink);
    if (this.#warm.size > 0) return;
    this.#cancelNext?.();
    this.#cancelNext = undefined;
  }

  /** Drops the collected fixes of a watch. */
  #forget(sink: SourceSink): void {
    this.#held.get(sink)?.cancel();
    this.#held.delete(sink);
  }

  /** As one turn: a listener may start the next run. */
  #endApp(how: 'closed' | 'killed'): void {
    inTurn(() => {
      this.life.report(how);
      this.#over();
    });
  }

  /** Listeners of this run are removed, after pending events are delivered. */
  #over(): void {
    for (const sink of [...this.#sinks.keys()]) this.#drop(sink);
    this.life.end();
    this.#events.finish();
  }

  #endAll(error: NoFixError): void {
    for (const sink of [...this.#sinks.keys()]) {
      this.#drop(sink);
      sink.error(error);
    }
  }

  #changed(): void {
    this.#events.emit({ kind: 'access' });
  }
}

/** Metres: accuracy of a stored fix. */
const STORED_ACCURACY = 10;

function isStoredFix(value: unknown): string | undefined {
  const { age, at } = (value ?? {}) as { age?: unknown; at?: unknown };
  const known = typeof age === 'number' && Number.isFinite(age) && typeof at === 'object' && at !== null;
  return known ? undefined : 'must be an age in seconds and a place: { age, at }';
}

/** An approximate fix: a position on a coarse grid, with its radius. */
function roughly(fix: RawFix, radius: number): RawFix {
  const step = radius / 111_000; // degrees; the corner of a cell is within the radius of its middle
  const { time, origin } = fix;
  const cell = (degrees: number) => Math.round(degrees / step) * step;
  return {
    time,
    lat: Math.max(-90, Math.min(90, cell(fix.lat))),
    lon: cell(fix.lon),
    accuracy: radius,
    origin,
  };
}
