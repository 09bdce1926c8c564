import type { AccessReading, AccessLevel } from '../receiver/access.js';
import type { Clock } from '../receiver/clock.js';
import type { Demand } from '../receiver/source.js';
import { ROUGH_WILL_DO } from '../receiver/usage.js';

/**
 * Answers of the pretend user to a prompt: the requested level, another level, an approximate position only, a refusal
 * that may be asked again or not, or no answer.
 */
export const ANSWERS = [
  'grant', 'once', 'foreground', 'background', 'approximate', 'refuse', 'bar', 'ignore',
] as const; // prettier-ignore
/** Answer of the pretend user to a prompt. `ignore`: the prompt stays open. */
export type Answer = (typeof ANSWERS)[number];

/** How the pretend device answers requests for permission. */
export interface ConsentOptions {
  /** Permission at the start. Default `not-asked`. */
  readonly permission?: 'not-asked' | 'granted' | 'barred';
  /** Level of a permission that is granted from the start. Default `foreground`. */
  readonly level?: AccessLevel;
  /** Precision that the user allows. Default `precise`. */
  readonly precision?: 'precise' | 'approximate';
  /**
   * Answers to prompts: one for all, or a list that is used in order, the last one for all later prompts. Default
   * `grant`.
   */
  readonly answer?: Answer | readonly Answer[];
  /** Seconds until the pretend user answers. Default 0. */
  readonly thinking?: number;
  /** Location switch of the device. Default `on`. */
  readonly switch?: 'on' | 'weak' | 'off';
  /** Answer to the dialog that asks to turn the switch on. Default `accept`. */
  readonly switchAnswer?: 'accept' | 'decline' | 'impossible';
}

/** Decisions of the pretend user, and the memory of the pretend system. */
export class SimulatedConsent {
  /** Answers to the next prompts. */
  answers: Answer[];
  /** Seconds until an answer. */
  thinking: number;
  switch: 'on' | 'weak' | 'off';
  switchAnswer: 'accept' | 'decline' | 'impossible';
  permission: AccessReading['permission'];
  level: AccessReading['level'];
  precision: AccessReading['precision'];
  /** Number of prompts and switch dialogs so far. */
  prompts = 0;
  dialogs = 0;
  readonly #clock: Clock;

  constructor(options: ConsentOptions, clock: Clock) {
    const {
      permission = 'not-asked',
      answer = 'grant',
      thinking = 0,
      level = 'foreground',
      precision = 'precise',
    } = options;
    this.#clock = clock;
    this.answers = typeof answer === 'string' ? [answer] : [...answer];
    this.thinking = thinking;
    this.switch = options.switch ?? 'on';
    this.switchAnswer = options.switchAnswer ?? 'accept';
    this.permission = permission;
    this.level = permission === 'granted' ? level : 'none';
    this.precision = permission === 'granted' ? precision : 'unknown';
  }

  /** The readable part of the access. */
  get reading(): Partial<AccessReading> {
    const { permission, level, precision } = this;
    const askable = permission === 'barred' ? 'no' : 'yes';
    return { switch: this.switch, permission, askable, level, precision, scope: 'app' };
  }

  /** Resolves when the user has answered, in any way. */
  async prompt(wanted: AccessLevel): Promise<void> {
    this.prompts++;
    const answer = (this.answers.length > 1 ? this.answers.shift() : this.answers[0]) ?? 'grant';
    if (answer === 'ignore') return new Promise<never>(() => {});
    await this.#think();
    if (answer === 'refuse' || answer === 'bar') {
      // The earlier grant stays: only the higher level was refused.
      if (this.permission !== 'granted') this.permission = answer === 'bar' ? 'barred' : 'refused';
      return;
    }
    this.permission = 'granted';
    this.precision = answer === 'approximate' ? 'approximate' : 'precise';
    this.level = answer === 'grant' || answer === 'approximate' ? wanted : answer;
  }

  async turnOnSwitch({ accuracy }: Demand): Promise<'on' | 'declined' | 'impossible'> {
    const enough =
      this.switch === 'on' || (this.switch === 'weak' && (accuracy ?? Infinity) >= ROUGH_WILL_DO);
    if (enough) return 'on';
    if (this.switchAnswer === 'impossible') return 'impossible';
    this.dialogs++;
    await this.#think();
    if (this.switchAnswer === 'decline') return 'declined';
    this.switch = 'on';
    return 'on';
  }

  /** Forgets the decision, as a fresh installation does. */
  forget(): void {
    this.permission = 'not-asked';
    this.level = 'none';
    this.precision = 'unknown';
  }

  withdraw(): void {
    this.permission = 'barred';
    this.level = 'none';
    this.precision = 'unknown';
  }

  #think(): Promise<void> {
    return this.thinking === 0
      ? Promise.resolve()
      : new Promise((resolve) => this.#clock.after(this.thinking, resolve));
  }
}
