import type { NoFixKind, RemedyId } from './no-fix-kinds.js';
import { failures } from '../texts/english.js';
import type { FailureTexts } from '../texts/texts.js';
import { NO_FIX_FACTS } from './no-fix-facts.js';

/** What helps against a failure. */
export interface Remedy {
  readonly id: RemedyId;
  /** What to tell the user to do, one or two sentences. */
  readonly text: string;
  /** Does it, where the platform lets the app: asks, opens the settings, asks to turn the switch on. For a button. */
  readonly act?: () => Promise<unknown>;
}

/** What is known of a failure beside its kind. */
export interface NoFixDetail {
  readonly cause?: unknown;
  /** For the developer, in brackets after the message. */
  readonly note?: string;
  /** Carries out the remedy. */
  readonly act?: (() => Promise<unknown>) | undefined;
  /** Metres, for `approximate-only`: 95 % radius of the approximate position. */
  readonly radius?: number;
  /** Texts of another language than English. A kind without a text is told in English. */
  readonly texts?: Partial<FailureTexts> | undefined;
}

/**
 * There is no fix, and why.
 *
 * `userText` and `remedy.text` are for the screen; `message` is for the developer's console; `cause` is
 * what the platform said, when it said something.
 */
export class NoFixError extends Error {
  override readonly name = 'NoFixError';
  readonly kind: NoFixKind;
  readonly userText: string;
  readonly remedy: Remedy;
  /** Metres, for `approximate-only`: how rough the position is that is shared. */
  readonly radius: number | undefined;

  readonly #detail: NoFixDetail;

  constructor(kind: NoFixKind, detail: NoFixDetail = {}) {
    const [remedy, developer] = NO_FIX_FACTS[kind];
    const { happened, help } = detail.texts?.[kind] ?? failures[kind];
    const note = detail.note === undefined ? '' : ` (${detail.note})`;
    super(`${kind}: ${developer}${note}`, detail.cause === undefined ? undefined : { cause: detail.cause });
    this.kind = kind;
    this.userText = happened;
    this.remedy = {
      id: remedy,
      text: help,
      ...(detail.act !== undefined && { act: detail.act }),
    };
    this.radius = detail.radius;
    this.#detail = detail;
  }

  /** The same failure, with more known of it. */
  with(more: NoFixDetail): NoFixError {
    return new NoFixError(this.kind, { ...this.#detail, ...more });
  }

  /** Whether the user simply chose not to: to be told in a neutral tone, not as an error. */
  get neutral(): boolean {
    return this.kind === 'declined';
  }
}

/** Any failure as a `NoFixError`; one that is none becomes `unknown` and keeps the original as its cause. */
export function noFixError(cause: unknown): NoFixError {
  return cause instanceof NoFixError ? cause : new NoFixError('unknown', { cause });
}
