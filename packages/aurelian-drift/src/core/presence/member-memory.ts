import { keptText, readKept, type KeptKind } from '../check/kept-text.js';
import {
  PLACE,
  count,
  finite,
  listOf,
  objectOf,
  optional,
  refuseDamaged,
  shape,
  text,
  truth,
  within,
} from '../check/shape.js';
import { watchLayout, watchOfLayout, type WatchMemory } from '../fence/watch-state.js';
import { SESSION } from './messages.js';
import type { PlanGuardMemory } from './plan-guard.js';

/** State of a guard for one member. */
export interface MemberMemory {
  /** Text to store. Its content is private and may change with each version. It is made when it is read first. */
  readonly text: string;
}

/** State of a guard for one member, as data. */
export interface MemberFacts {
  readonly watch: WatchMemory;
  /** Session and number of the last place that was compared; the session is empty before the first. */
  readonly session: string;
  readonly number: number;
  /** Number of the connection, and time, of the last state. */
  readonly link: number;
  readonly sent?: number | undefined;
  /** Time of the last sign of life, milliseconds since 1970 UTC; absent after the member left. */
  readonly seen?: number | undefined;
  /** Whether missing signs of life were reported. */
  readonly missed: boolean;
  /** When the member vanished, milliseconds since 1970 UTC, and for how many seconds its place is retained. */
  readonly vanished?: number | undefined;
  readonly retention: number;
  /** Last position. */
  readonly last?: { readonly lat: number; readonly lon: number } | undefined;
  /** State of the guard of its plan. */
  readonly plan?: PlanGuardMemory | undefined;
}

const KIND: KeptKind = { kind: 'guarded-member', version: 1, what: 'the memory of a guard' };

const LAYOUT = objectOf({
  session: shape((value) => value === '' || (typeof value === 'string' && SESSION.test(value))),
  number: count,
  link: count,
  sent: optional(finite),
  seen: optional(finite),
  missed: truth,
  vanished: optional(finite),
  stays: within(0, 86_400),
  last: optional(objectOf(PLACE)),
  plan: optional(objectOf({ watch: text, overdue: listOf(count) })),
});

/** @param facts must not change afterwards. */
export function memberMemoryOf(facts: MemberFacts): MemberMemory {
  let text: string | undefined;
  return {
    get text() {
      return (text ??= textOf(facts));
    },
  };
}

function textOf({
  watch,
  session,
  number,
  link,
  sent,
  seen,
  missed,
  vanished,
  retention,
  last,
  plan,
}: MemberFacts): string {
  const place = last && { lat: last.lat, lon: last.lon };
  return keptText(KIND, {
    watch: watchLayout(watch),
    session,
    number,
    link,
    sent,
    seen,
    missed,
    vanished,
    stays: retention,
    last: place,
    plan,
  });
}

/**
 * Reads a stored state and checks all of it.
 *
 * @throws {InputError} of kind `bad-value` for one that is damaged, or of another version.
 */
export function memberFactsOf(member: string, kept: unknown): MemberFacts {
  const { value } = readKept(KIND, kept);
  refuseDamaged(value, LAYOUT, `what is kept of ${member} is not a valid state of a guard`);
  const { session, number, link, sent, seen, missed, vanished, stays, last, plan, watch } = value as Omit<
    MemberFacts,
    'watch' | 'retention'
  > & { readonly watch: unknown; readonly stays: number };
  return {
    watch: watchOfLayout(watch),
    session,
    number,
    link,
    sent,
    seen,
    missed,
    vanished,
    retention: stays,
    last,
    plan,
  };
}
