import type { ServiceErrorKind } from './service-error-kinds.js';
import { serviceFailures } from '../texts/english.js';
import type { ServiceFailureTexts } from '../texts/texts.js';

/** Texts for the developer. The user's texts are in `core/texts`. */
const DEVELOPER_TEXTS: Readonly<Record<ServiceErrorKind, string>> = {
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
const PASSING: ReadonlySet<ServiceErrorKind> = new Set(['timed-out', 'unreachable', 'busy', 'failing']);

/** Details of a failed look-up beside its kind. */
export interface ServiceErrorDetail {
  /** The error that the service or the platform gave. */
  readonly cause?: unknown;
  /** For the developer, in brackets after the message. */
  readonly note?: string;
  /** Seconds that the service asks to wait before the next request. */
  readonly retryAfter?: number;
  /** Texts of another language than English. */
  readonly texts?: Partial<ServiceFailureTexts> | undefined;
}

/** Failure of a look-up. The position that was looked up is still valid. */
export class ServiceError extends Error {
  override readonly name = 'ServiceError';
  readonly kind: ServiceErrorKind;
  readonly userText: string;
  /** Seconds that the service asks to wait before the next request. */
  readonly retryAfter: number | undefined;
  readonly #detail: ServiceErrorDetail;

  constructor(kind: ServiceErrorKind, detail: ServiceErrorDetail = {}) {
    const note = detail.note === undefined ? '' : ` (${detail.note})`;
    super(
      `${kind}: ${DEVELOPER_TEXTS[kind]}${note}`,
      detail.cause === undefined ? undefined : { cause: detail.cause },
    );
    this.kind = kind;
    this.userText = detail.texts?.[kind] ?? serviceFailures[kind];
    this.retryAfter = detail.retryAfter;
    this.#detail = detail;
  }

  /** The same failure, with texts of another language. */
  with(texts: Partial<ServiceFailureTexts>): ServiceError {
    return new ServiceError(this.kind, { ...this.#detail, texts });
  }

  /** Whether another try may succeed later. */
  get passing(): boolean {
    return PASSING.has(this.kind);
  }
}

/** Converts any error to a `ServiceError`: an unknown one becomes kind `unknown`, with the original as its cause. */
export function serviceError(cause: unknown): ServiceError {
  return cause instanceof ServiceError ? cause : new ServiceError('unknown', { cause });
}
