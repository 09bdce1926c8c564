/** Why a look-up gave no answer: a closed set. */
export const PLACE_ERROR_KINDS = [
  'timed-out', 'unreachable', 'busy', 'failing', 'refused', 'unfit', 'unsupported', 'unknown',
] as const; // prettier-ignore
export type PlaceErrorKind = (typeof PLACE_ERROR_KINDS)[number];

/** For the screen, and for the developer's console. */
const TEXTS: Readonly<Record<PlaceErrorKind, { readonly user: string; readonly developer: string }>> = {
  'timed-out': {
    user: 'The place names did not come in time.',
    developer: 'the service did not answer within the patience; a slow drip counts as no answer',
  },
  unreachable: {
    user: 'The place names cannot be reached; is there a network?',
    developer: 'no connection to the service, or its answer may not be read from this origin (CORS)',
  },
  busy: {
    user: 'The place names are asked for too often just now.',
    developer: 'the service answered 429; ask less often, or set every',
  },
  failing: {
    user: 'The service of place names has a fault.',
    developer: 'the service answered with a status of 500 or above',
  },
  refused: {
    user: 'The service of place names did not take the question.',
    developer:
      'the service answered with a status of 400 or above: look at the address, the key and the parameters',
  },
  unfit: {
    user: 'The service of place names gave an answer that makes no sense.',
    developer: 'the answer is not what was asked for',
  },
  unsupported: {
    user: 'This cannot be looked up here.',
    developer: 'the provider has no such method',
  },
  unknown: {
    user: 'Something went wrong while looking up the place.',
    developer: 'a failure of no known kind; the original is its cause',
  },
};

/** What passes by itself, so that trying again makes sense. */
const PASSING: ReadonlySet<PlaceErrorKind> = new Set(['timed-out', 'unreachable', 'busy', 'failing']);

/** A look-up gave no answer, and why. The position that was looked up is as good as before. */
export class PlaceError extends Error {
  override readonly name = 'PlaceError';
  readonly kind: PlaceErrorKind;
  readonly userText: string;
  /** Seconds that the service asks to be left alone. */
  readonly retryAfter: number | undefined;

  constructor(
    kind: PlaceErrorKind,
    detail: { readonly cause?: unknown; readonly note?: string; readonly retryAfter?: number } = {},
  ) {
    const { user, developer } = TEXTS[kind];
    const note = detail.note === undefined ? '' : ` (${detail.note})`;
    super(`${kind}: ${developer}${note}`, detail.cause === undefined ? undefined : { cause: detail.cause });
    this.kind = kind;
    this.userText = user;
    this.retryAfter = detail.retryAfter;
  }

  /** Whether trying again later may help. */
  get passing(): boolean {
    return PASSING.has(this.kind);
  }
}

/** Any failure as a `PlaceError`; one that is none becomes `unknown` and keeps the original as its cause. */
export function placeError(cause: unknown): PlaceError {
  return cause instanceof PlaceError ? cause : new PlaceError('unknown', { cause });
}
