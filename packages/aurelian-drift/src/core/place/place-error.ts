import type { PlaceErrorKind } from './place-error-kinds.js';
import { placeFailures } from '../texts/english.js';
import type { PlaceFailureTexts } from '../texts/texts.js';

/** Texts for the developer. The user's texts are in `core/texts`. */
const DEVELOPER_TEXTS: Readonly<Record<PlaceErrorKind, string>> = {
  'timed-out': 'the service did not answer within the patience; a slow drip counts as no answer',
  unreachable: 'no connection to the service, or its answer may not be read from this origin (CORS)',
  busy: 'the service answered 429; ask less often, or set every',
  failing: 'the service answered with a status of 500 or above',
  refused:
    'the service answered with a status of 400 or above: look at the address, the key and the parameters',
  unfit: 'the answer is not what was asked for',
  unsupported: 'the provider has no such method',
  unknown: 'a failure of no known kind; the original is its cause',
};

/** Failures that may pass by themselves, so that another try makes sense. */
const PASSING: ReadonlySet<PlaceErrorKind> = new Set(['timed-out', 'unreachable', 'busy', 'failing']);

/** Details of a failed look-up beside its kind. */
export interface PlaceErrorDetail {
  /** The error that the service or the platform gave. */
  readonly cause?: unknown;
  /** For the developer, in brackets after the message. */
  readonly note?: string;
  /** Seconds that the service asks to wait before the next request. */
  readonly retryAfter?: number;
  /** Texts of another language than English. */
  readonly texts?: Partial<PlaceFailureTexts> | undefined;
}

/** Failure of a look-up. The position that was looked up is still valid. */
export class PlaceError extends Error {
  override readonly name = 'PlaceError';
  readonly kind: PlaceErrorKind;
  readonly userText: string;
  /** Seconds that the service asks to wait before the next request. */
  readonly retryAfter: number | undefined;
  readonly #detail: PlaceErrorDetail;

  constructor(kind: PlaceErrorKind, detail: PlaceErrorDetail = {}) {
    const note = detail.note === undefined ? '' : ` (${detail.note})`;
    super(
      `${kind}: ${DEVELOPER_TEXTS[kind]}${note}`,
      detail.cause === undefined ? undefined : { cause: detail.cause },
    );
    this.kind = kind;
    this.userText = detail.texts?.[kind] ?? placeFailures[kind];
    this.retryAfter = detail.retryAfter;
    this.#detail = detail;
  }

  /** The same failure, with texts of another language. */
  with(texts: Partial<PlaceFailureTexts>): PlaceError {
    return new PlaceError(this.kind, { ...this.#detail, texts });
  }

  /** Whether another try may succeed later. */
  get passing(): boolean {
    return PASSING.has(this.kind);
  }
}

/** Converts any error to a `PlaceError`: an unknown one becomes kind `unknown`, with the original as its cause. */
export function placeError(cause: unknown): PlaceError {
  return cause instanceof PlaceError ? cause : new PlaceError('unknown', { cause });
}
