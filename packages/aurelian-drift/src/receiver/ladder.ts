import type { NoFixError } from '../core/fix/no-fix-error.js';
import type { NoFixKind } from '../core/fix/no-fix-kinds.js';
import {
  accessOf,
  failureFor,
  obstacleIn,
  readingOf,
  type Access,
  type AccessReading,
  type Acts,
  type AccessLevel,
} from './access.js';
import type { Clock } from './clock.js';
import type { Explanation } from './explain.js';
import { limited } from './limited.js';
import type { Texts } from '../core/texts/texts.js';
import type { Diagnostics } from './diagnostics.js';
import type { Patience } from './patience.js';
import type { Demand, Source } from './source.js';
import { ROUGH_WILL_DO } from './usage.js';

/** Seconds within which a source must say what stands in the way; after that it is unknown. */
export const READING_LIMIT = 30;
/**
 * Seconds that the user has to answer a question: the system's prompt, its dialog for the switch, the app's own
 * explanation.
 */
const ANSWER_LIMIT = 900;
/**
 * Seconds that an answer to the prompt is waited for where the platform does not tell the permission: it may have
 * granted it without a prompt, and then no answer comes. A later answer still counts as long as the call has patience
 * left.
 */
const UNLIMITED_ANSWER_TIME = 60;

/** What asking helps against. */
const ASKING: readonly string[] = ['not-asked', 'refused', 'declined'];
/** Which settings help against what. */
const SETTINGS: Readonly<Record<string, 'app' | 'switch' | undefined>> = {
  'switched-off': 'switch',
  barred: 'app',
  withdrawn: 'app',
  'approximate-only': 'app',
};

export interface LadderParts {
  readonly source: Source;
  readonly clock: Clock;
  readonly diagnostics: Pick<Diagnostics, 'report'>;
  /** Texts for the user; English where absent. */
  readonly texts: Texts | undefined;
  /** Comes before the system's prompt: the app's own card, and the look at whether the user has acted. */
  readonly introduce: () => Promise<Explanation>;
  readonly onAccess: (access: Access) => void;
  /** The user is being asked, or no longer. */
  readonly onAsking: (asking: boolean) => void;
}

/**
 * The way up to a granted permission: support, secure page, policy, declarations, switch, permission, in that order.
 * Each dialog is shown once, however many wait for its answer.
 */
export class Ladder {
  readonly #parts: LadderParts;
  #prompt: Promise<Explanation> | undefined;
  #dialog: Promise<'on' | 'declined' | 'impossible'> | undefined;
  /** Whether the source has said that it can show no dialog for the switch. */
  #noDialog = false;

  constructor(parts: LadderParts) {
    this.#parts = parts;
  }

  /** What a remedy can do, as far as is known now: a shell tells what it can do only when it has answered. */
  readonly #acts: Acts = (kind) => {
    if (ASKING.includes(kind)) return () => this.ask('foreground');
    if (kind === 'switched-off' && this.#parts.source.turnOnSwitch !== undefined && !this.#noDialog)
      return () => this.#switchOn();
    const page = SETTINGS[kind];
    return page && this.#settings(page);
  };

  #settings(page: 'app' | 'switch'): (() => Promise<Access>) | undefined {
    const { source } = this.#parts;
    if (source.openSettings === undefined) return undefined;
    return async () => {
      await source.openSettings?.(page);
      return this.read();
    };
  }

  /** Shows the dialog for the switch; where there is none, opens the settings. */
  async #switchOn(): Promise<Access> {
    const answer = await this.#turnOn({ maxAge: 0 });
    const instead = answer === 'impossible' ? this.#settings('switch') : undefined;
    return instead === undefined ? this.read() : instead();
  }

  /** Whether the user is being asked something. */
  get asking(): boolean {
    return this.#prompt !== undefined || this.#dialog !== undefined;
  }

  /**
   * Reads what stands in the way, without ever prompting. A source that throws, or does not answer in time, tells
   * nothing.
   *
   * @throws {NoFixError} of kind `timed-out` when patience ends first.
   */
  read(patience?: Patience): Promise<Access> {
    const reading = this.#read();
    return patience === undefined ? reading : patience.spend(reading, 'reading the access');
  }

  async #read(): Promise<Access> {
    const { source, diagnostics, onAccess } = this.#parts;
    let reported: Partial<AccessReading> = {};
    try {
      reported = await this.#inTime(source.readAccess(), READING_LIMIT, 'readAccess', {});
    } catch (error) {
      diagnostics.report('source-error', `${source.name} threw on readAccess: ${String(error)}`, error);
    }
    const access = accessOf(
      readingOf({ support: source.supported ? 'yes' : 'no', ...reported }),
      this.#acts,
      this.#parts.texts,
    );
    onAccess(access);
    return access;
  }

  /**
   * Prompts where that can help, and resolves with what came of it; `declined` when the app's own card was put off. A
   * prompt that is not answered within `ANSWER_LIMIT` is waited for no longer.
   */
  async ask(level: AccessLevel, patience?: Patience): Promise<Access & { readonly declined?: boolean }> {
    const access = await this.read(patience);
    const obstacle = obstacleIn(access, level);
    if (obstacle !== undefined && obstacle !== 'refused') return access;
    if (access.permission === 'granted' && reaches(access.level, level)) return access;
    if (this.#prompt === undefined) {
      this.#prompt = this.#ask(level, access.permission).finally(() => (this.#prompt = undefined));
      this.#parts.onAsking(true);
    }
    try {
      const answer = await this.#prompt;
      return { ...(await this.read(patience)), ...(answer === 'not-now' && { declined: true }) };
    } finally {
      this.#parts.onAsking(this.asking);
    }
  }

  /**
   * Goes up to a granted permission, or throws what is in the way.
   *
   * @param patience for what the platform has to answer; the user's own time is not counted.
   */
  async climb(demand: Demand, level: AccessLevel, patience?: Patience): Promise<Access> {
    let access = await this.read(patience);
    const early = obstacleIn({ ...access, switch: 'on', permission: 'granted' }, level);
    if (early !== undefined) throw this.failure(early, access);
    const weak = access.switch === 'weak' && demand.accuracy !== undefined && demand.accuracy < ROUGH_WILL_DO;
    // Nobody is asked to turn on what a refusal for good leaves without use.
    const useful = access.permission !== 'barred' && this.#parts.source.turnOnSwitch !== undefined;
    if ((access.switch === 'off' || weak) && useful) {
      const answer = await this.#turnOn(demand);
      if (answer === 'declined') throw this.failure('declined', access);
      access = await this.read(patience);
    }
    const obstacle = obstacleIn(access, level);
    if (obstacle === undefined || obstacle === 'refused') {
      if (access.permission !== 'granted' || !reaches(access.level, level)) {
        const asked = await this.ask(level, patience);
        if (asked.declined === true && asked.permission !== 'granted') throw this.failure('declined', asked);
        access = asked;
      }
    }
    const left = obstacleIn(access, level);
    if (left !== undefined) throw this.failure(left, access);
    return access;
  }

  failure(kind: NoFixKind, access: AccessReading): NoFixError {
    return failureFor(kind, access, this.#acts, this.#parts.texts);
  }

  /** A failure that came from elsewhere, with what its remedy can do here. */
  remedied(error: NoFixError): NoFixError {
    const act = error.remedy.act ?? this.#acts(error.kind);
    return error.with({ act, texts: this.#parts.texts?.failures });
  }

  async #turnOn(demand: Demand): Promise<'on' | 'declined' | 'impossible'> {
    const { source, onAsking } = this.#parts;
    const none = 'impossible' as const;
    this.#dialog ??= this.#inTime(
      source.turnOnSwitch?.(demand) ?? Promise.resolve(none),
      ANSWER_LIMIT,
      'turnOnSwitch',
      none,
    ).finally(() => (this.#dialog = undefined));
    onAsking(true);
    try {
      const answer = await this.#dialog;
      this.#noDialog = answer === 'impossible';
      return answer;
    } finally {
      onAsking(this.asking);
    }
  }

  /** First the app's own card, then the system's prompt. */
  async #ask(level: AccessLevel, permission: Access['permission']): Promise<Explanation> {
    const { source, introduce } = this.#parts;
    const introduced = this.#inTime(introduce(), ANSWER_LIMIT, 'explain', 'not-now' as const);
    if ((await introduced) === 'not-now') return 'not-now';
    const limit = permission === 'unknown' ? UNLIMITED_ANSWER_TIME : ANSWER_LIMIT;
    await this.#inTime(source.prompt(level), limit, 'prompt', undefined);
    return 'go-on';
  }

  /** An answer, or something else when it does not come in time: that is told. */
  #inTime<T, Late>(answer: Promise<T>, seconds: number, what: string, late: Late): Promise<T | Late> {
    const { clock, diagnostics, source } = this.#parts;
    return limited(clock, seconds, answer, () => {
      diagnostics.report('unanswered', `${source.name} did not answer ${what} within ${seconds} s`);
      return late;
    });
  }
}

/** Whether a granted level is as much as is wanted; one that is not known is taken for enough. */
function reaches(granted: AccessReading['level'], wanted: AccessLevel): boolean {
  return wanted !== 'background' || granted === 'background' || granted === 'unknown';
}
