import { anything, checkOptions, numberFrom, oneOf } from '../core/check/options.js';
import { NoFixError } from '../core/fix/no-fix-error.js';
import type { RawFix } from '../core/fix/fix.js';
import { positionOf } from '../core/geodesy/position.js';
import { GAIT_NAMES } from '../core/motion/gait.js';
import { checkJourney, resting, type Moment } from '../core/motion/journey.js';
import { RECEPTION_NAMES } from '../core/motion/reception.js';
import type { Line, LinePoint } from '../core/trail/line.js';
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
   * Seconds over which fixes are gathered and then delivered together, as some platforms do to spare the battery.
   * Default: each at once.
   */
  readonly bundle?: number;
  /** Metres of the radius that an approximate grant leaves. Default 3000. */
  readonly roughness?: number;
  /**
   * What the platform does while the app is hidden. `none`: it pauses, as in a web page. `by-level`: it goes on under
   * the background level. `with-sign`: under the foreground level too, with a visible sign, because it began in front.
   * Default `none`.
   */
  readonly background?: 'none' | 'by-level' | 'with-sign';
  /** Values of access told instead of its own: an insecure page, a frame without leave, missing declarations. */
  readonly access?: Partial<AccessReading>;
  /** What the user does in a settings page that the app opens. */
  readonly inSettings?: (device: SimulatedDevice, page: 'app' | 'switch') => void;
}

/**
 * A whole pretend device, as a source: somebody walks a route with it, is asked for permission, loses the signal, turns
 * the switch off, puts it in a pocket. Everything goes by the clock it is given; the same seed gives the same fixes.
 */
export class SimulatedDevice implements Source {
  readonly name = 'the simulated device';
  readonly supported: boolean;
  readonly minInterval: number;
  readonly life = new SimulatedLife();
  /** Whether the user is acting on the page, as far as it is known. */
  acting: boolean | undefined;
  readonly #options: SimulatedDeviceOptions;
  readonly #clock: Clock;
  readonly #consent: SimulatedConsent;
  readonly #motion: SimulatedMotion;
  readonly #events = new Emitter<SourceEvent>(warnOfListener('a simulated device', consoleWarn));
  readonly #sinks = new Map<SourceSink, Demand>();
  /** What was held back for a watch, and what calls its delivery off. */
  readonly #held = new Map<SourceSink, { readonly fixes: RawFix[]; readonly cancel: () => void }>();
  readonly #opened: ('app' | 'switch')[] = [];
  #signal = true;
  #asleep = false;
  #screenHolds = 0;
  #lastFix: RawFix | undefined;

  /** @throws {InputError} for a misspelt option or a value out of range. */
  constructor(options: SimulatedDeviceOptions = {}) {
    const { at, clock = systemClock, gait, every, reception, seed, answer } = options;
    checkOptions('SimulatedDevice', options, {
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
      gait: oneOf(...GAIT_NAMES),
      reception: oneOf(...RECEPTION_NAMES),
      every: numberFrom(0.05, 3600, 'seconds'),
      rests: resting,
      bundle: numberFrom(1, 3600, 'seconds'),
      seed: anything,
    });
    for (const one of Array.isArray(answer) ? (answer as readonly Answer[]) : []) {
      checkOptions('SimulatedDevice', { answer: one }, { answer: oneOf(...ANSWERS) });
    }
    checkJourney({ gait, every, reception, seed });
    if (at !== undefined) positionOf(at);
    this.#options = { ...options };
    this.#clock = clock;
    this.#consent = new SimulatedConsent(options, clock);
    this.#motion = new SimulatedMotion(options, clock);
    this.supported = options.access?.support !== 'no';
    this.minInterval = every ?? 1;
  }

  /** How the prompts from now on are answered. */
  get answer(): Answer | readonly Answer[] {
    const { answers } = this.#consent;
    return answers.length === 1 ? (answers[0] as Answer) : answers;
  }
  set answer(answer: Answer | readonly Answer[]) {
    this.#consent.answers = typeof answer === 'string' ? [answer] : [...answer];
  }

  /** Seconds the user thinks before answering. */
  get thinking(): number {
    return this.#consent.thinking;
  }
  set thinking(seconds: number) {
    this.#consent.thinking = seconds;
  }

  /** How many prompts were shown. */
  get prompts(): number {
    return this.#consent.prompts;
  }

  /** How many dialogs asked to turn the switch on. */
  get dialogs(): number {
    return this.#consent.dialogs;
  }

  /** The settings pages that were opened, in turn. */
  get settingsOpened(): readonly ('app' | 'switch')[] {
    return this.#opened;
  }

  /** How many watches are open: the receiver is on while it is above 0. */
  get watches(): number {
    return this.#sinks.size;
  }

  /** What is demanded of it now; the last when there are several. */
  get demand(): Demand | undefined {
    return [...this.#sinks.values()].at(-1);
  }

  /** How many hold the screen on. */
  get screenHolds(): number {
    return this.#screenHolds;
  }

  /** The words of the sign that the platform shows: while the app is hidden and followed on in the background. */
  get sign(): string | undefined {
    return !this.life.hidden
      ? undefined
      : [...this.#sinks.values()].find((demand) => demand.background === true)?.sign;
  }

  /** Whether satellites are heard. Without them, a watch is told `no-signal` once, and then nothing. */
  get signal(): boolean {
    return this.#signal;
  }
  set signal(received: boolean) {
    if (this.#signal && !received)
      for (const sink of [...this.#sinks.keys()]) sink.error(new NoFixError('no-signal'));
    this.#signal = received;
  }

  /** The device's own switch. */
  get switchedOn(): boolean {
    return this.#consent.switch !== 'off';
  }
  set switchedOn(on: boolean) {
    this.#consent.switch = on ? 'on' : 'off';
    if (!on) this.#endAll(new NoFixError('switched-off'));
    this.#changed();
  }

  /** Puts the device somewhere, at once; whoever watches is told. */
  moveTo(at: LinePoint): void {
    positionOf(at);
    this.#motion.put(at);
    const { moments } = this.#motion.due();
    for (const sink of [...this.#sinks.keys()]) {
      sink.gap();
      for (const moment of moments.slice(-1)) this.#deliver(sink, moment);
    }
  }

  /** Sets off along a line, now. */
  walk(route: Line): void {
    this.#motion.walk(route);
  }

  /** The user grants the permission in the settings. */
  grant(level: AccessLevel = 'foreground'): void {
    this.#consent.permission = 'granted';
    this.#consent.precision = 'precise';
    this.#consent.level = level;
    this.#changed();
  }

  /** The user takes the permission back in the settings. */
  withdraw(): void {
    this.#consent.withdraw();
    this.#endAll(new NoFixError('barred'));
    this.#changed();
  }

  /** Forgets the user's decision, as a fresh installation would. */
  reset(): void {
    this.#consent.forget();
    this.#endAll(new NoFixError('refused'));
    this.#changed();
  }

  /** Another app comes in front. */
  hide(): void {
    this.life.report('hidden');
  }

  /** The app is in front again. */
  show(): void {
    this.life.report('shown');
  }

  /** The system keeps the app and lets it run no more: a page that is put away, an app asleep. */
  freeze(): void {
    this.life.report('frozen');
  }

  /** It runs again, in front. */
  restore(): void {
    this.life.report('restored');
  }

  /** The user closes the app. */
  closeApp(): void {
    this.#endApp('closed');
  }

  /** Ends the pretend device, without a word to the app: nobody is told anything more. Closing twice is harmless. */
  close(): void {
    this.#over();
  }

  [DISPOSE](): void {
    this.close();
  }

  /** The system ends the app; what listens to it is heard once more, and then never again. */
  killApp(): void {
    this.#endApp('killed');
  }

  /** The app starts anew, after it was closed or killed: a permission for one run is gone. */
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
    if (!this.#signal) sink.error(new NoFixError('no-signal'));
    let cancel = this.#clock.after(this.#options.warmUp ?? 1, () => {
      this.#motion.begin();
      // What passed while nobody watched is not delivered: only where the user is now.
      const { moments, ended } = this.#motion.due();
      next(moments.slice(-1), ended);
    });
    const next = (moments: readonly Moment[], ended: boolean) => {
      for (const moment of moments) this.#deliver(sink, moment);
      if (!this.#sinks.has(sink)) return;
      if (ended) sink.end();
      else cancel = this.#clock.after(this.#motion.untilNext, tick);
    };
    const tick = () => {
      const { moments, ended } = this.#motion.due();
      next(moments, ended);
    };
    return () => {
      this.#sinks.delete(sink);
      this.#drop(sink);
      cancel();
    };
  }

  #deliver(sink: SourceSink, { fix }: Moment): void {
    if (fix === undefined || !this.#signal || !this.#sinks.has(sink)) return;
    const { roughness = 3000 } = this.#options;
    const raw: RawFix = this.#consent.precision === 'approximate' ? roughly(fix, roughness) : fix;
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

  /** Delivers what was held back, unless the device sleeps. */
  #handOver(sink: SourceSink): void {
    const held = this.#held.get(sink);
    if (this.#asleep || held === undefined) return;
    this.#drop(sink);
    this.#lastFix = held.fixes.at(-1);
    if (this.#sinks.has(sink)) sink.bundle(held.fixes);
  }

  #drop(sink: SourceSink): void {
    this.#held.get(sink)?.cancel();
    this.#held.delete(sink);
  }

  /** As one change: whoever hears of it may begin the next run. */
  #endApp(how: 'closed' | 'killed'): void {
    inTurn(() => {
      this.life.report(how);
      this.#over();
    });
  }

  /** Nothing of this run of the app is heard any more, once what is being told is told. */
  #over(): void {
    this.#sinks.clear();
    for (const sink of [...this.#held.keys()]) this.#drop(sink);
    this.life.end();
    this.#events.finish();
  }

  #endAll(error: NoFixError): void {
    for (const sink of [...this.#sinks.keys()]) {
      this.#sinks.delete(sink);
      sink.error(error);
    }
  }

  #changed(): void {
    this.#events.emit({ kind: 'access' });
  }
}

/** What an approximate grant leaves of a fix: a place on a coarse grid, and a radius that says so. */
function roughly(fix: RawFix, radius: number): RawFix {
  const step = radius / 111_000; // degrees; a cell's corner lies within the radius of its middle
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
