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

/** Seconds within which a source must answer `readAccess`; after that the access is unknown. */
export const READING_LIMIT = 30;
/**
 * Maximum seconds to wait for the user: at the prompt of the system, its dialog for the switch, or the explanation of
 * the app.
 */
const ANSWER_LIMIT = 900;
/**
 * Maximum seconds to wait for the prompt on a platform that does not report the permission: it may have granted it
 * without a prompt, and then no answer comes. A later answer still counts while the call has patience left.
 */
const UNLIMITED_ANSWER_TIME = 60;

/** Obstacles that a prompt can remove. */
const ASKING: readonly string[] = ['not-asked', 'refused', 'declined'];
/** Settings that can remove an obstacle. */
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
  /** Runs before the prompt of the system: the explanation of the app, and the check for a user action. */
  readonly introduce: () => Promise<Explanation>;
  readonly onAccess: (access: Access) => void;
  /** Called when the user is being asked, and when that ends. */
  readonly onAsking: (asking: boolean) => void;
}

/**
 * The steps to a granted permission: support, secure page, policy, declarations, switch, permission, in this order.
 * Each dialog is shown once, however many calls wait for its answer.
 */
export class Ladder {
  readonly #parts: LadderParts;
  #prompt: Promise<Explanation> | undefined;
  #dialog: Promise<'on' | 'declined' | 'impossible'> | undefined;
  /** Whether the source has reported that it has no dialog for the switch. */
  #noDialog = false;

  constructor(parts: LadderParts) {
    this.#parts = parts;
  }

  /** Carries out a remedy, as far as is known now: a shell reports its abilities in its answer. */
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

  /** Shows the dialog for the switch, or opens the settings where there is no dialog. */
  async #switchOn(): Promise<Access> {
    const answer = await this.#turnOn({ maxAge: 0 });
    const instead = answer === 'impossible' ? this.#settings('switch') : undefined;
    return instead === undefined ? this.read() : instead();
  }

  /** Whether the user is being asked. */
  get asking(): boolean {
    return this.#prompt !== undefined || this.#dialog !== undefined;
  }

  /**
   * Reads the access without a prompt. A source that throws, or does not answer in time, leaves everything unknown.
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
      source.inApp,
    );
    onAccess(access);
    return access;
  }

  /**
   * Prompts where that can help, and resolves with the resulting access; `declined` when the user put off the app's own
   * explanation. Waits at most `ANSWER_LIMIT` for an answer.
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
   * Resolves with a granted access, or throws the failure for the obstacle.
   *
   * @param levelNeeded called when the access was read: by then a source knows what its platform can do.
   * @param patience for the answers of the platform; the user's own time is not counted.
   */
  async climb(demand: Demand, levelNeeded: () => AccessLevel, patience?: Patience): Promise<Access> {
    let access = await this.read(patience);
    const level = levelNeeded();
    const early = obstacleIn({ ...access, switch: 'on', permission: 'granted' }, level);
    if (early !== undefined) throw this.failure(early, access);
    const weak = access.switch === 'weak' && demand.accuracy !== undefined && demand.accuracy < ROUGH_WILL_DO;
    // Turning on the switch is useless while the permission is barred.
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
    const { texts, source } = this.#parts;
    return failureFor(kind, access, this.#acts, texts, source.inApp);
  }

  /** Adds the remedy that works here, and the texts, to a failure. */
  remedied(error: NoFixError): NoFixError {
    const act = error.remedy.act ?? this.#acts(error.kind);
    const { texts, source } = this.#parts;
    return error.with({ act, texts, inApp: source.inApp });
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

  /** The explanation of the app, then the prompt of the system. */
  async #ask(level: AccessLevel, permission: Access['permission']): Promise<Explanation> {
    const { source, introduce } = this.#parts;
    const introduced = this.#inTime(introduce(), ANSWER_LIMIT, 'explain', 'not-now' as const);
    if ((await introduced) === 'not-now') return 'not-now';
    const limit = permission === 'unknown' ? UNLIMITED_ANSWER_TIME : ANSWER_LIMIT;
    await this.#inTime(source.prompt(level), limit, 'prompt', undefined);
    return 'go-on';
  }

  /** The answer, or a fallback with a diagnostic when it does not come in time. */
  #inTime<T, Late>(answer: Promise<T>, seconds: number, what: string, late: Late): Promise<T | Late> {
    const { clock, diagnostics, source } = this.#parts;
    return limited(clock, seconds, answer, () => {
      diagnostics.report('unanswered', `${source.name} did not answer ${what} within ${seconds} s`);
      return late;
    });
  }
}

/** Whether a granted level is sufficient; an unknown level counts as sufficient. */
function reaches(granted: AccessReading['level'], wanted: AccessLevel): boolean {
  return wanted !== 'background' || granted === 'background' || granted === 'unknown';
}
