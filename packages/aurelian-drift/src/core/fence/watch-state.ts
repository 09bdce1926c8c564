import { InputError } from '../check/input-error.js';
import {
  PLACE,
  among,
  count,
  finite,
  listOf,
  nullable,
  objectOf,
  optional,
  recordOf,
  shape,
  text,
  truth,
  within,
} from '../check/shape.js';
import { isBelief, isPrediction } from '../estimate/motion-filter.js';
import type { PathFilterState } from '../estimate/path-filter.js';
import { fixFault, type RawFix } from '../fix/fix.js';
import { POWERS, type SilencesState } from '../trail/silence.js';
import type { PostMemory, Seen } from './post.js';

/** What a watch remembers, as JSON can hold it. */
export interface FenceWatchState {
  readonly version: 1;
  readonly last?: Seen | undefined;
  /** Whether a gap follows on it. */
  readonly broken: boolean;
  /** How often fixes came, by which a silence is told. */
  readonly heard: SilencesState;
  /** What is known of the path. */
  readonly path: PathFilterState;
  /** Of each fence that is anything but outside for certain. */
  readonly fences: Readonly<Record<string, PostMemory & { readonly name: string }>>;
}

const notNegative = within(0, Infinity);
const cut = objectOf({ ...PLACE, time: finite, fraction: within(0, 1), inward: truth, course: finite });
const post = objectOf({
  name: text,
  side: among('inside', 'outside', undefined),
  entered: optional(finite),
  since: optional(finite),
  lingered: optional(truth),
  known: optional(finite),
  broken: optional(truth),
  lastIn: optional(cut),
  lastOut: optional(cut),
});
const error = listOf(nullable(notNegative), 3);

const STATE = objectOf({
  version: among(1),
  last: optional(objectOf({ ...PLACE, time: finite, accuracy: optional(notNegative) })),
  broken: truth,
  heard: objectOf({ counts: listOf(count, POWERS), last: optional(finite) }),
  path: objectOf({
    ...PLACE,
    time: nullable(finite),
    belief: shape(isBelief),
    // Only the first of them may be unknown.
    error: (value) => error(value) ?? objectOf({ 1: finite, 2: finite })(value),
    manoeuvred: nullable(finite),
    manoeuvre: shape(isPrediction),
    doubted: listOf(shape((fix) => fixFault(fix as RawFix) === undefined)),
  }),
  fences: recordOf(post),
});

/**
 * A state of a `FenceWatch` that was kept, checked as a whole.
 *
 * @throws {InputError} of kind `bad-value` with the path of what is damaged.
 */
export function checkWatchState(state: unknown): FenceWatchState {
  const damaged = STATE(state);
  if (damaged === undefined) return state as FenceWatchState;
  throw new InputError('bad-value', `this is no state of a FenceWatch: ${damaged || 'it'} is damaged`);
}
