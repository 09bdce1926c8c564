import { InputError } from '../check/input-error.js';
import { PLACE, among, count, finite, objectOf, optional, shape, truth, within } from '../check/shape.js';
import { checkWatchState } from '../fence/watch-state.js';
import type { FenceWatchState } from '../fence/watch-state.js';
import { SESSION } from './messages.js';

/** What a guard remembers of a member, as JSON can hold it. */
export interface MemberMemory {
  readonly version: 1;
  readonly watch: FenceWatchState;
  /** Session and number of the last place that was taken to the fences; an empty session before the first. */
  readonly session: string;
  readonly number: number;
  /** The connection, and the time, of the last state that was taken. */
  readonly link: number;
  readonly sent?: number | undefined;
  /** The last sign of life, milliseconds since 1970 UTC; absent once they left. */
  readonly seen?: number | undefined;
  /** Whether it was told that they give none. */
  readonly missed: boolean;
  /** When they vanished, milliseconds since 1970 UTC, and for how many seconds their place stays. */
  readonly vanished?: number | undefined;
  readonly stays: number;
  /** Where they were last. */
  readonly last?: { readonly lat: number; readonly lon: number } | undefined;
}

const MEMORY = objectOf({
  version: among(1),
  session: shape((value) => value === '' || (typeof value === 'string' && SESSION.test(value))),
  number: count,
  link: count,
  sent: optional(finite),
  seen: optional(finite),
  missed: truth,
  vanished: optional(finite),
  stays: within(0, 86_400),
  last: optional(objectOf(PLACE)),
});

/**
 * What was kept of a member, checked as a whole.
 *
 * @throws {InputError} of kind `bad-value` for one that is damaged.
 */
export function checkMemberMemory(member: string, memory: unknown): MemberMemory {
  const damaged = MEMORY(memory);
  if (damaged !== undefined) {
    const where = damaged === '' ? 'it' : damaged;
    throw new InputError(
      'bad-value',
      `what is kept of ${member} is no memory of a guard: ${where} is damaged`,
    );
  }
  checkWatchState((memory as MemberMemory).watch);
  return memory as MemberMemory;
}
