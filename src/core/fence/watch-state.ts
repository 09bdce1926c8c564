import * as v from 'valibot';
import { InputError } from '../check/input-error.js';
import { fixFault, type RawFix } from '../fix/fix.js';
import { isBelief } from '../estimate/motion-filter.js';
import { POWERS } from '../trail/silence.js';
import type { FenceWatchState } from './watch.js';

const Finite = v.pipe(v.number(), v.finite());
const NotNegative = v.pipe(Finite, v.minValue(0));
/** Milliseconds since 1970 UTC; JSON has null for one that is not known. */
const TimeOrNull = v.nullable(Finite);
const place = {
  lat: v.pipe(v.number(), v.minValue(-90), v.maxValue(90)),
  lon: v.pipe(v.number(), v.minValue(-180), v.maxValue(180)),
};
const Seen = v.object({ ...place, time: Finite, accuracy: v.optional(NotNegative) });
const Cut = v.object({
  ...place,
  time: Finite,
  fraction: v.pipe(v.number(), v.minValue(0), v.maxValue(1)),
  inward: v.boolean(),
  course: Finite,
});
const Post = v.object({
  name: v.string(),
  side: v.optional(v.picklist(['inside', 'outside'])),
  entered: v.optional(Finite),
  since: v.optional(Finite),
  lingered: v.optional(v.boolean()),
  known: v.optional(Finite),
  broken: v.optional(v.boolean()),
  lastIn: v.optional(Cut),
  lastOut: v.optional(Cut),
});
const Belief = v.pipe(
  v.array(Finite),
  v.check((numbers) => isBelief(numbers), 'a belief of the motion filter'),
);
const Doubted = v.custom<RawFix>((fix) => fixFault(fix as RawFix) === undefined, 'a fix');

const State = v.object({
  version: v.literal(1),
  last: v.optional(Seen),
  broken: v.boolean(),
  heard: v.object({
    counts: v.pipe(v.array(v.pipe(NotNegative, v.integer())), v.length(POWERS)),
    last: v.optional(Finite),
  }),
  path: v.object({
    ...place,
    time: TimeOrNull,
    belief: Belief,
    error: v.tuple([v.nullable(NotNegative), NotNegative, NotNegative]),
    manoeuvred: TimeOrNull,
    manoeuvre: Belief,
    doubted: v.array(Doubted),
  }),
  fences: v.record(v.string(), Post),
});

/**
 * A state of a `FenceWatch` that was kept, checked as a whole.
 *
 * @throws {InputError} of kind `bad-value` with the path of what is damaged.
 */
export function checkWatchState(state: unknown): FenceWatchState {
  const result = v.safeParse(State, state, { abortEarly: true });
  if (result.success) return result.output as FenceWatchState;
  const [issue] = result.issues;
  const path = issue.path?.map(({ key }) => key as string | number) ?? [];
  const what = `expected ${issue.expected ?? issue.message}, got ${issue.received.slice(0, 40)}`;
  throw new InputError('bad-value', `this is no state of a FenceWatch: ${what}`, { path });
}
