import { checkOptions, numberFrom, oneOf, someText, type Rule } from '../check/options.js';
import { CROSSING_KINDS, type Crossing, type CrossingKind } from './crossing.js';
import type { TimeInside } from './time-inside.js';

/** Conditions for crossings of a log; an absent condition accepts all. */
export interface CrossingChoice {
  /** Ids or names of fences. */
  readonly fences?: readonly string[] | undefined;
  readonly kinds?: readonly CrossingKind[] | undefined;
  /** Milliseconds since 1970 UTC; `to` is excluded. */
  readonly from?: number | undefined;
  readonly to?: number | undefined;
}

/**
 * Crossings of a log that meet the conditions, in the order of the log.
 *
 * @throws {InputError} for a misspelt condition, or an unknown kind.
 */
export function selectCrossings(crossings: Iterable<Crossing>, choice: CrossingChoice): Crossing[] {
  checkOptions('a choice of crossings', choice, {
    fences: list(someText),
    kinds: list(oneOf(...CROSSING_KINDS)),
    from: time,
    to: time,
  });
  const { fences, kinds, from = -Infinity, to = Infinity } = choice;
  return Array.from(crossings).filter(
    ({ kind, fence, name, time }) =>
      (fences === undefined || fences.includes(fence) || fences.includes(name)) &&
      (kinds === undefined || kinds.includes(kind)) &&
      time >= from &&
      time < to,
  );
}

const time = numberFrom(-Infinity, Infinity, 'milliseconds since 1970 UTC');

function list(rule: Rule): Rule {
  return (value) =>
    Array.isArray(value) ? value.map(rule).find((problem) => problem !== undefined) : 'must be a list';
}

/**
 * Time in each fence, computed from a log alone, in the order of the fences in the log. A visit whose exit is unknown
 * because of a gap ends when the user was last seen inside.
 *
 * @param to end of visits without an exit, milliseconds since 1970 UTC. Default: the last crossing.
 */
export function timeInsideFrom(crossings: Iterable<Crossing>, to?: number): TimeInside[] {
  const times = new Map<
    string,
    { name: string; duration: number; visits: number; since?: number | undefined }
  >();
  let last = -Infinity;
  for (const { kind, fence, name, time, notBefore, duration = 0 } of crossings) {
    last = Math.max(last, time);
    let known = times.get(fence);
    if (known === undefined) times.set(fence, (known = { name, duration: 0, visits: 0 }));
    if (kind === 'linger') continue;
    if (kind === 'exit' || kind === 'closed') {
      if (known.since !== undefined) known.duration += ((notBefore ?? time) - known.since) / 1000;
      known.since = undefined;
      continue;
    }
    known.visits++;
    if (kind === 'pass') known.duration += duration;
    else known.since = time;
  }
  return [...times].map(([fence, { name, duration, visits, since }]) => {
    const open = since === undefined ? 0 : Math.max(0, (to ?? last) - since) / 1000;
    return { fence, name, duration: duration + open, visits };
  });
}
