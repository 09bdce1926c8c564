import type { NoFixKind, RemedyId } from './no-fix-kinds.js';
import { NO_FIX_TEXTS } from './no-fix-texts.js';

export interface Remedy {
  readonly id: RemedyId;
  /** What to tell the user to do, one or two sentences. */
  readonly text: string;
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

  constructor(kind: NoFixKind, detail?: { readonly cause?: unknown; readonly note?: string }) {
    const texts = NO_FIX_TEXTS[kind];
    const note = detail?.note === undefined ? '' : ` (${detail.note})`;
    super(
      `${kind}: ${texts.developer}${note}`,
      detail?.cause === undefined ? undefined : { cause: detail.cause },
    );
    this.kind = kind;
    this.userText = texts.user;
    this.remedy = { id: texts.remedy, text: texts.help };
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
