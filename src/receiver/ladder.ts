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
  type Level,
} from './access.js';
import type { Explain, Explanation } from './explain.js';
import type { Notices } from './notices.js';
import type { Demand, Source } from './source.js';
import { ROUGH_WILL_DO } from './usage.js';

export interface LadderParts {
  readonly source: Source;
  readonly notices: Pick<Notices, 'tell'>;
  /** Whether a prompt that comes without a user's act is told of. */
  readonly strict: boolean;
  readonly purpose: string;
  readonly explain: Explain | undefined;
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
  readonly #acts: Acts;
  #prompt: Promise<Explanation> | undefined;
  #dialog: Promise<'on' | 'declined' | 'impossible'> | undefined;

  constructor(parts: LadderParts) {
    this.#parts = parts;
    const { source } = parts;
    const settings = (page: 'app' | 'switch') => async () => {
      await source.openSettings?.(page);
      return this.read();
    };
    const ask = () => this.ask('foreground');
    const turnOn =
      source.turnOnSwitch !== undefined
        ? async () => {
            await this.#turnOn({ maxAge: 0 });
            return this.read();
          }
        : undefined;
    const open = source.openSettings !== undefined;
    const acts: Partial<Record<NoFixKind | 'not-asked', (() => Promise<unknown>) | undefined>> = {
      'not-asked': ask,
      refused: ask,
      declined: ask,
      'switched-off': turnOn ?? (open ? settings('switch') : undefined),
      ...(open && {
        barred: settings('app'),
        withdrawn: settings('app'),
        'approximate-only': settings('app'),
      }),
    };
    this.#acts = (kind) => acts[kind];
  }

  /** Whether the user is being asked something. */
  get asking(): boolean {
    return this.#prompt !== undefined || this.#dialog !== undefined;
  }

  /** Reads what stands in the way, without ever prompting. A source that throws tells nothing. */
  async read(): Promise<Access> {
    const { source, notices, onAccess } = this.#parts;
    let told: Partial<AccessReading> = {};
    try {
      told = await source.readAccess();
    } catch (error) {
      notices.tell('source-fault', `${source.name} threw on readAccess: ${String(error)}`, error);
    }
    const access = accessOf(readingOf({ support: source.supported ? 'yes' : 'no', ...told }), this.#acts);
    onAccess(access);
    return access;
  }

  /** Prompts where that can help, and resolves with what came of it; `declined` when the app's own card was put off. */
  async ask(level: Level): Promise<Access & { readonly declined?: boolean }> {
    const access = await this.read();
    const obstacle = obstacleIn(access, level);
    if (obstacle !== undefined && obstacle !== 'refused') return access;
    if (access.permission === 'granted' && reaches(access.level, level)) return access;
    if (this.#prompt === undefined) {
      this.#prompt = this.#ask(level).finally(() => (this.#prompt = undefined));
      this.#parts.onAsking(true);
    }
    try {
      const answer = await this.#prompt;
      return { ...(await this.read()), ...(answer === 'not-now' && { declined: true }) };
    } finally {
      this.#parts.onAsking(this.asking);
    }
  }

  /** Goes up to a granted permission, or throws what is in the way. */
  async climb(demand: Demand, level: Level): Promise<Access> {
    let access = await this.read();
    const early = obstacleIn({ ...access, switch: 'on', permission: 'granted' }, level);
    if (early !== undefined) throw this.failure(early, access);
    const weak = access.switch === 'weak' && demand.accuracy !== undefined && demand.accuracy < ROUGH_WILL_DO;
    // Nobody is asked to turn on what a refusal for good leaves without use.
    const useful = access.permission !== 'barred' && this.#parts.source.turnOnSwitch !== undefined;
    if ((access.switch === 'off' || weak) && useful) {
      const answer = await this.#turnOn(demand);
      if (answer === 'declined') throw this.failure('declined', access);
      access = await this.read();
    }
    const obstacle = obstacleIn(access, level);
    if (obstacle === undefined || obstacle === 'refused') {
      if (access.permission !== 'granted' || !reaches(access.level, level)) {
        const asked = await this.ask(level);
        if (asked.declined === true && asked.permission !== 'granted') throw this.failure('declined', asked);
        access = asked;
      }
    }
    const left = obstacleIn(access, level);
    if (left !== undefined) throw this.failure(left, access);
    return access;
  }

  failure(kind: NoFixKind, access: AccessReading): NoFixError {
    return failureFor(kind, access, this.#acts);
  }

  /** A failure that came from elsewhere, with what its remedy can do here. */
  remedied(error: NoFixError): NoFixError {
    const act = this.#acts(error.kind);
    return act === undefined || error.remedy.act !== undefined ? error : error.with({ act });
  }

  async #turnOn(demand: Demand): Promise<'on' | 'declined' | 'impossible'> {
    const { source, onAsking } = this.#parts;
    this.#dialog ??= (source.turnOnSwitch?.(demand) ?? Promise.resolve('impossible' as const)).finally(
      () => (this.#dialog = undefined),
    );
    onAsking(true);
    try {
      return await this.#dialog;
    } finally {
      onAsking(this.asking);
    }
  }

  /** First the app's own card, then the system's prompt. */
  async #ask(level: Level): Promise<Explanation> {
    const { source, explain, purpose } = this.#parts;
    this.#checkAct();
    if (explain !== undefined && (await explain(purpose)) === 'not-now') return 'not-now';
    await source.prompt(level);
    return 'go-on';
  }

  #checkAct(): void {
    const { source, notices, strict } = this.#parts;
    if (!strict || source.userActing?.() !== false) return;
    const text = 'the user was asked without having acted: ask upon a press, or say startUp: true';
    notices.tell('prompt-without-act', text);
  }
}

/** Whether a granted level is as much as is wanted; one that is not known is taken for enough. */
function reaches(granted: AccessReading['level'], wanted: Level): boolean {
  return wanted !== 'background' || granted === 'background' || granted === 'unknown';
}
