import type { NoFixKind, RemedyId } from './no-fix-kinds.js';
import { failureText, type FailureTables } from '../texts/failure-text.js';
import { NO_FIX_FACTS } from './no-fix-facts.js';

/** What helps against a failure. */
export interface Remedy {
  readonly id: RemedyId;
  /** Instruction for the user, one or two sentences. */
  readonly text: string;
  /**
   * Carries out the remedy, where the platform allows it: asks, opens the settings, or asks to turn on the switch. For
   * a button.
   */
  readonly act?: () => Promise<unknown>;
}

/** Details of a failure beside its kind. */
export interface NoFixDetail {
  readonly cause?: unknown;
  /** For the developer, in brackets after the message. */
  readonly note?: string;
  /** Carries out the remedy. */
  readonly act?: (() => Promise<unknown>) | undefined;
  /** Metres, for `approximate-only`: 95 % radius of the approximate position. */
  readonly radius?: number;
  /** Texts of another language than English. A kind without a text is shown in English. */
  readonly texts?: FailureTables | undefined;
  /** Whether the page runs inside an app, whose settings are not those of a page. Default false. */
  readonly inApp?: boolean | undefined;
}

/**
 * Failure to get a fix.
 *
 * `userText` and `remedy.text` are for the user, `message` is for the developer, and `cause` is the error of the
 * platform, if there was one.
 */
export class NoFixError extends Error {
  override readonly name = 'NoFixError';
  readonly kind: NoFixKind;
  readonly userText: string;
  readonly remedy: Remedy;
  /** Metres, for `approximate-only`: 95 % radius of the approximate position. */
  readonly radius: number | undefined;
  /** Whether the page runs inside an app. */
  readonly inApp: boolean;

  readonly #detail: NoFixDetail;

  constructor(kind: NoFixKind, detail: NoFixDetail = {}) {
    const [remedy, developer] = NO_FIX_FACTS[kind];
    const { happened, help } = failureText(kind, detail.inApp === true, detail.texts);
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
    this.inApp = detail.inApp === true;
    this.#detail = detail;
  }

  /** The same failure with more details. */
  with(more: NoFixDetail): NoFixError {
    return new NoFixError(this.kind, { ...this.#detail, ...more });
  }

  /** Whether the user chose this: show it in a neutral tone, not as an error. */
  get neutral(): boolean {
    return this.kind === 'declined';
  }
}

/** Converts any error to a `NoFixError`: an unknown one becomes kind `unknown`, with the original as its cause. */
export function noFixError(cause: unknown): NoFixError {
  return cause instanceof NoFixError ? cause : new NoFixError('unknown', { cause });
}
