import * as v from 'valibot';
import { InputError } from '../check/input-error.js';
import { checkWatchState } from '../fence/watch-state.js';
import type { FenceWatchState } from '../fence/watch.js';
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

const Finite = v.pipe(v.number(), v.finite());
const Count = v.pipe(v.number(), v.integer(), v.minValue(0));

const Memory = v.object({
  version: v.literal(1),
  watch: v.unknown(),
  session: v.union([v.literal(''), v.pipe(v.string(), v.regex(SESSION))]),
  number: Count,
  link: Count,
  sent: v.optional(Finite),
  seen: v.optional(Finite),
  missed: v.boolean(),
  vanished: v.optional(Finite),
  stays: v.pipe(v.number(), v.minValue(0), v.maxValue(86_400)),
  last: v.optional(
    v.object({
      lat: v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
      lon: v.pipe(v.number(), v.minValue(-180), v.maxValue(180)),
    }),
  ),
});

/**
 * What was kept of a member, checked as a whole.
 *
 * @throws {InputError} of kind `bad-value` for one that is damaged.
 */
export function checkMemberMemory(member: string, memory: unknown): MemberMemory {
  const result = v.safeParse(Memory, memory, { abortEarly: true });
  if (!result.success) {
    const where = v.getDotPath(result.issues[0]) ?? 'it';
    throw new InputError(
      'bad-value',
      `what is kept of ${member} is no memory of a guard: ${where} is damaged`,
    );
  }
  return { ...result.output, watch: checkWatchState(result.output.watch) };
}
