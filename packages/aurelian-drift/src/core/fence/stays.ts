import { anything, callable, checkOptions, numberFrom } from '../check/options.js';
import { positionText } from '../fix/words.js';
import { positionOf, type Position } from '../geodesy/position.js';
import type { Trail } from '../trail/trail.js';
import type { Crossing } from './crossing.js';
import { crossingsOf } from './crossings-of.js';
import type { Fence } from './fence.js';

/** A time at one place: inside a fence, or at rest outside all of them. Times are milliseconds since 1970 UTC. */
export interface Stay {
  /** Name of the fence, or of the place of rest. */
  readonly name: string;
  /** Id of the fence; absent for a rest outside. */
  readonly fence?: string;
  /** Place of a rest outside. */
  readonly at?: Position;
  /** Absent when the user was there from the start, or arrived in a gap. */
  readonly arrival?: number;
  /** Absent when the user was there to the end, or left in a gap. */
  readonly departure?: number;
  /** First and last time at which the user was known to be there. */
  readonly from: number;
  readonly to: number;
  /** Seconds between the two. */
  readonly duration: number;
}

/** Options of `staysOf`. */
export interface StayOptions {
  /** Named areas: a time inside one is a stay. Default: none. */
  readonly fences?: Iterable<Fence>;
  /**
   * Name of a place of rest outside all fences, such as the first answer of a gazetteer. Default: its coordinates.
   * Without a name, the coordinates too.
   */
  readonly nameOf?: (at: Position) => string | undefined;
  /** Seconds below which a stay is left out, 0 to a day. Default 60. Rests outside fences last 60 s at least. */
  readonly least?: number;
}

/**
 * A trail told as stays, in the order of time: each visit to a fence, and each rest outside all of them, with its name,
 * arrival and departure.
 *
 * @throws {InputError} for a misspelt option or an invalid fence.
 */
export function staysOf(trail: Trail, options: StayOptions = {}): Stay[] {
  checkOptions('staysOf', options, {
    fences: anything,
    nameOf: callable,
    least: numberFrom(0, 86_400, 'seconds'),
  });
  const { fences = [], nameOf, least = 60 } = options;
  const summary = trail.summary();
  const visits = visitsOf(crossingsOf(trail, fences), summary.end ?? NaN);
  const isInside = insideAt(visits);
  const rests = summary.stops.flatMap((stop): Stay[] => {
    if (isInside((stop.start + stop.end) / 2)) return [];
    const at = positionOf(stop);
    const { start, end, duration } = stop;
    const stays = { from: start, to: end, duration, arrival: start, departure: end };
    return [{ name: nameOf?.(at) ?? positionText(at), at, ...stays }];
  });
  return [...visits, ...rests]
    .filter(({ duration }) => duration >= least)
    .sort((a, b) => a.from - b.from || a.to - b.to);
}

/** Whether a time is within any visit; it is asked for later and later times. */
function insideAt(visits: readonly Stay[]): (time: number) => boolean {
  const inOrder = [...visits].sort((a, b) => a.from - b.from);
  let next = 0;
  let until = -Infinity;
  return (time) => {
    for (; next < inOrder.length && (inOrder[next]?.from ?? Infinity) <= time; next++)
      until = Math.max(until, inOrder[next]?.to ?? until);
    return time <= until;
  };
}

/** Visits to fences, from the crossings of a trail and its end. */
function visitsOf(crossings: readonly Crossing[], end: number): Stay[] {
  const stays: Stay[] = [];
  /** Visits that go on, by the id of the fence. */
  const open = new Map<string, Pick<Stay, 'name' | 'from' | 'arrival'>>();
  const close = (fence: string, to: number, departure?: number) => {
    const visit = open.get(fence);
    if (visit === undefined) return;
    open.delete(fence);
    const duration = (to - visit.from) / 1000;
    stays.push({ ...visit, fence, to, duration, ...(departure !== undefined && { departure }) });
  };
  for (const { kind, fence, name, time, notBefore, duration = 0 } of crossings) {
    if (kind === 'linger') continue;
    if (kind === 'exit' || kind === 'closed') {
      close(fence, notBefore ?? time, notBefore === undefined && kind === 'exit' ? time : undefined);
      continue;
    }
    const known = kind !== 'initial' && notBefore === undefined;
    open.set(fence, { name, from: time, ...(known && { arrival: time }) });
    if (kind === 'pass') close(fence, time + duration * 1000, time + duration * 1000);
  }
  for (const fence of [...open.keys()]) close(fence, Math.max(end, open.get(fence)?.from ?? end));
  return stays;
}
