import { keptText, readKept, type KeptKind } from '../check/kept-text.js';
import {
  PLACE,
  count,
  finite,
  objectOf,
  optional,
  refuseDamaged,
  shape,
  truth,
  within,
} from '../check/shape.js';
import { watchLayout, watchOfLayout, type WatchMemory } from '../fence/watch-state.js';
import { SESSION } from './messages.js';

/** What a guard has to remember of a member. */
export interface MemberMemory {
  /**
   * What a store keeps, and gives back as it is. Its content is nobody else's, and may change with each version. It is
   * made when it is read first.
   */
  readonly text: string;
}

/** What a guard remembers of a member. */
export interface MemberFacts {
  readonly watch: WatchMemory;
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
  readonly retention: number;
  /** Where they were last. */
  readonly last?: { readonly lat: number; readonly lon: number } | undefined;
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
});

/** @param facts stay as they are. */
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
  });
}

/**
 * What was kept of a member, checked as a whole.
 *
 * @throws {InputError} of kind `bad-value` for one that is damaged, or of another version.
 */
export function memberFactsOf(member: string, kept: unknown): MemberFacts {
  const { value } = readKept(KIND, kept);
  refuseDamaged(value, LAYOUT, `what is kept of ${member} is no memory of a guard`);
  const { session, number, link, sent, seen, missed, vanished, stays, last, watch } = value as Omit<
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
  };
}
