import { checkOptions, numberFrom, oneOf, someText, type Rule } from '../check/options.js';
import { CROSSING_KINDS, type Crossing, type CrossingKind } from './crossing.js';
import type { TimeInside } from './time-inside.js';

/** Which crossings of a log are wanted; what is left out is no condition. */
export interface CrossingChoice {
  /** Ids or names of fences. */
  readonly fences?: readonly string[] | undefined;
  readonly kinds?: readonly CrossingKind[] | undefined;
  /** Milliseconds since 1970 UTC; the second is excluded. */
  readonly from?: number | undefined;
  readonly until?: number | undefined;
}

/**
 * The crossings of a log that are wanted, in its order.
 *
 * @throws {InputError} for a misspelt condition, or a kind that is none.
 */
export function selectCrossings(crossings: Iterable<Crossing>, choice: CrossingChoice): Crossing[] {
  checkOptions('a choice of crossings', choice, { fences: list(someText), kinds: list(oneOf(...CROSSING_KINDS)), from: time, until: time }); // prettier-ignore
  const { fences, kinds, from = -Infinity, until = Infinity } = choice;
  return Array.from(crossings).filter(
    ({ kind, fence, name, time }) =>
      (fences === undefined || fences.includes(fence) || fences.includes(name)) &&
      (kinds === undefined || kinds.includes(kind)) &&
      time >= from &&
      time < until,
  );
}

const time = numberFrom(-Infinity, Infinity, 'milliseconds since 1970 UTC');

function list(rule: Rule): Rule {
  return (value) =>
    Array.isArray(value) ? value.map(rule).find((fault) => fault !== undefined) : 'must be a list';
}

/**
 * The time in each fence by a log alone, in the order in which the fences come up in it. Whoever left unseen, in a gap,
 * is counted up to when they were last seen inside.
 *
 * @param until up to when those are counted that nobody has left: milliseconds since 1970 UTC. Default the last
 * crossing.
 */
export function timesInLog(crossings: Iterable<Crossing>, until?: number): TimeInside[] {
  const times = new Map<
    string,
    { name: string; inside: number; visits: number; since?: number | undefined }
  >();
  let last = -Infinity;
  for (const { kind, fence, name, time, notBefore, stay = 0 } of crossings) {
    last = Math.max(last, time);
    let known = times.get(fence);
    if (known === undefined) times.set(fence, (known = { name, inside: 0, visits: 0 }));
    if (kind === 'linger') continue;
    if (kind === 'exit' || kind === 'closed') {
      if (known.since !== undefined) known.inside += ((notBefore ?? time) - known.since) / 1000;
      known.since = undefined;
      continue;
    }
    known.visits++;
    if (kind === 'pass') known.inside += stay;
    else known.since = time;
  }
  return [...times].map(([fence, { name, inside, visits, since }]) => {
    const open = since === undefined ? 0 : Math.max(0, (until ?? last) - since) / 1000;
    return { fence, name, inside: inside + open, visits };
  });
}
