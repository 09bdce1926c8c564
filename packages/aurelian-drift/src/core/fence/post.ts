import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { alongStraight } from '../geodesy/straight.js';
import { DEGREES, wrapBearing, wrapLongitude } from '../geodesy/wgs84.js';
import { probabilityInside, probabilityOutside } from './certainty.js';
import type { Crossing, CrossingKind } from './crossing.js';
import type { Fence, FenceShape } from './fence.js';
import type { Plot } from './field.js';

/** A position with its time and accuracy. */
export interface Seen extends Position {
  readonly time: number;
  /** 95 % radius in metres; absent when the position counts as exact. */
  readonly accuracy?: number | undefined;
}

/** Place and time at which the path cut an edge. */
export interface Cut extends Position {
  readonly time: number;
  readonly fraction: number;
  readonly inward: boolean;
  readonly course: number;
}

/** Limits of certainty, from the options of the watch. */
export interface CertaintyLimits {
  /** Probability from which the user counts as inside, where the fence has no limit of its own. */
  readonly certainty: number;
  readonly passes: 'pass' | 'pair';
  readonly initial: 'initial' | 'enter';
}

export type Side = 'inside' | 'outside';

/** State of one user and one fence: numbers and words only, so that it can be stored. */
export interface PostMemory {
  /** Absent before anything is certain. */
  side?: Side;
  /** Time of the last entry; absent when the entry is unknown. */
  entered?: number | undefined;
  /** Time since which the user is known to be inside without a gap. */
  since?: number | undefined;
  /** Whether `linger` was reported for this visit. */
  lingered?: boolean;
  /** Time of the last certain fix. */
  known?: number | undefined;
  /**
   * Whether a gap followed. Cuts are ignored until a fix is certain again, because the first fixes after a gap are
   * coarse.
   */
  broken?: boolean;
  /** Latest cuts in each direction since the side was last certain. */
  lastIn?: Cut | undefined;
  lastOut?: Cut | undefined;
}

/**
 * Watches one fence for one user. A side is taken when its probability reaches `certainty`; the crossing then gets the
 * time at which the path last cut the edge. Being outside again needs a higher certainty, with a twentieth of the
 * remaining doubt. In between, nothing is reported.
 */
export class Post {
  readonly fence: Fence;
  readonly shape: FenceShape;
  memory: PostMemory;

  constructor({ fence, shape }: Plot, memory: PostMemory = {}) {
    this.fence = fence;
    this.shape = shape;
    this.memory = memory;
  }

  /** Whether a position is certainly outside, judged without any history. */
  isOutside(at: Seen, limits: CertaintyLimits): boolean {
    return (
      probabilityOutside(this.shape.depth(at.lat, at.lon), at.accuracy) >=
      this.#outsideFrom(at, this.fence.certainty ?? limits.certainty)
    );
  }

  /**
   * @param last `undefined` at the beginning and after a gap. @param depth of the fix, metres. @param step metres from
   *   the last fix.
   */
  advance(
    last: Seen | undefined,
    fix: Seen,
    depth: number,
    step: number,
    limits: CertaintyLimits,
    reported: Crossing[],
  ): void {
    const { shape, memory } = this;
    const certainty = this.fence.certainty ?? limits.certainty;
    const leaving = leavingFrom(certainty);
    // Beyond this distance an edge crossing is impossible, so the fence is skipped.
    const cuts = last === undefined || Math.abs(depth) > 1.01 * step ? NONE : cutsOf(shape, last, fix);
    const inside = this.#probability(depth, fix.accuracy);
    const outside = probabilityOutside(depth, fix.accuracy);
    const outsideFrom = memory.side === 'inside' ? leaving : this.#outsideFrom(fix, certainty);
    const side = inside >= certainty ? 'inside' : outside >= outsideFrom ? 'outside' : undefined;
    let first = 0;
    if (memory.side !== undefined && last !== undefined && cuts.length > 1)
      first = this.#excursions(last, fix, cuts, { certainty, leaving, passes: limits.passes }, reported);
    // An excursion that was reported is not reported again: only later cuts wait for certainty.
    if (first > 0) memory.lastIn = memory.lastOut = undefined;
    for (let i = first; i < cuts.length; i++) {
      const cut = cuts[i] as Cut;
      if (cut.inward) memory.lastIn = cut;
      else memory.lastOut = cut;
    }
    if (side !== undefined)
      this.#settle(side, last, fix, side === 'inside' ? inside : outside, limits, reported);
  }

  /** Certainty from which the user counts as outside: a higher one for a fix that is coarser than the fence. */
  #outsideFrom({ accuracy = 0 }: Seen, certainty: number): number {
    return accuracy > this.shape.size ? leavingFrom(certainty) : certainty;
  }

  #probability(depth: number, accuracy: number | undefined): number {
    return probabilityInside(depth, accuracy, this.shape.size);
  }

  /** A gap: the path in between is unknown. */
  breakSegment(): void {
    this.memory.since = undefined;
    this.memory.broken = true;
  }

  /** A side has become certain. */
  #settle(
    side: Side,
    last: Seen | undefined,
    fix: Seen,
    certainty: number,
    { initial }: CertaintyLimits,
    reported: Crossing[],
  ): void {
    const { memory } = this;
    const { side: before, known, broken } = memory;
    if (before === undefined) {
      if (side === 'inside') reported.push(this.#crossing(initial, fix, fix, certainty));
    } else if (side !== before) {
      const inward = side === 'inside';
      const cut = broken === true ? undefined : inward ? memory.lastIn : memory.lastOut;
      const unseen = broken === true ? known : undefined;
      const entered = inward || unseen !== undefined ? undefined : memory.entered;
      reported.push({
        ...this.#crossing(inward ? 'enter' : 'exit', cut ?? fix, fix, certainty, entered),
        ...(cut !== undefined && { course: cut.course }),
        ...(unseen !== undefined && { notBefore: unseen }),
      });
      memory.entered = inward && unseen === undefined ? (cut ?? fix).time : undefined;
      memory.since = memory.entered;
      memory.lingered = false;
    }
    if (side === 'inside') this.#linger(last, fix, certainty, reported);
    memory.side = side;
    memory.known = fix.time;
    memory.broken = false;
    memory.lastIn = memory.lastOut = undefined;
  }

  #linger(last: Seen | undefined, fix: Seen, certainty: number, reported: Crossing[]): void {
    const { memory } = this;
    const { linger } = this.fence;
    memory.since ??= fix.time;
    if (linger === undefined || memory.lingered === true) return;
    const time = memory.since + linger * 1000;
    if (fix.time < time) return;
    memory.lingered = true;
    const share =
      last === undefined || fix.time === last.time ? 1 : (time - last.time) / (fix.time - last.time);
    const at = share > 0 && share < 1 && last !== undefined ? alongStraight(last, fix, share) : fix;
    reported.push({ ...this.#crossing('linger', { ...at, time }, fix, certainty), duration: linger });
  }

  /**
   * An excursion: the other side for a part of one step, when it is certain enough halfway. Returns the number of cuts
   * up to the last one reported.
   */
  #excursions(
    from: Seen,
    to: Seen,
    cuts: readonly Cut[],
    { certainty, leaving, passes }: { certainty: number; leaving: number; passes: 'pass' | 'pair' },
    reported: Crossing[],
  ): number {
    const { memory } = this;
    let done = 0;
    for (let i = 0; i + 1 < cuts.length; i++) {
      const [first, second] = [cuts[i] as Cut, cuts[i + 1] as Cut];
      if (first.inward !== (memory.side === 'outside')) continue;
      const halfway = alongStraight(from, to, (first.fraction + second.fraction) / 2);
      const accuracy = Math.max(from.accuracy ?? 0, to.accuracy ?? 0);
      const depth = this.shape.depth(halfway.lat, halfway.lon);
      const certain = first.inward ? this.#probability(depth, accuracy) : probabilityOutside(depth, accuracy);
      if (certain < (first.inward ? certainty : leaving)) continue;
      const report = (kind: CrossingKind, cut: Cut, entered?: number) =>
        reported.push({ ...this.#crossing(kind, cut, to, certain, entered), course: cut.course });
      if (!first.inward) {
        report('exit', first, memory.entered);
        report('enter', second);
        memory.entered = memory.since = second.time;
        memory.lingered = false;
      } else if (passes === 'pass') {
        reported.push({
          ...this.#crossing('pass', first, to, certain),
          course: first.course,
          duration: (second.time - first.time) / 1000,
        });
      } else {
        report('enter', first);
        report('exit', second, first.time);
      }
      i++;
      done = i + 1;
    }
    return done;
  }

  #crossing(
    kind: CrossingKind,
    where: Position & { readonly time: number },
    fix: Seen,
    certainty: number,
    entered?: number,
  ): Crossing {
    return {
      kind,
      fence: this.fence.id,
      name: this.fence.name,
      time: where.time,
      lat: where.lat,
      lon: where.lon,
      certainty,
      ...(fix.accuracy !== undefined && { accuracy: fix.accuracy }),
      ...(entered !== undefined && { duration: (where.time - entered) / 1000 }),
    };
  }
}

/** Certainty from which the user counts as outside again: a twentieth of the doubt is left. */
function leavingFrom(certainty: number): number {
  return 1 - (1 - certainty) / 20;
}

const NONE: readonly Cut[] = [];

/** Event for a fence that is removed: `closed`, if the user was inside. */
export function closing(
  { id, name }: { readonly id: string; readonly name: string },
  at: Seen | undefined,
  { side, entered }: PostMemory = {},
): Crossing[] {
  if (side !== 'inside' || at === undefined) return [];
  const { time, lat, lon } = at;
  const duration = entered === undefined ? {} : { duration: (time - entered) / 1000 };
  return [{ kind: 'closed', fence: id, name, time, lat, lon, certainty: 1, ...duration }];
}

function cutsOf(shape: FenceShape, from: Seen, to: Seen): readonly Cut[] {
  const fractions = shape.cuts(from, to);
  if (fractions.length === 0) return NONE;
  let inside = shape.depth(from.lat, from.lon) >= 0;
  const { east, north } = metresPerDegree(from.lat);
  const course = wrapBearing(
    Math.atan2(wrapLongitude(to.lon - from.lon) * east, (to.lat - from.lat) * north) * DEGREES,
  );
  return fractions.map((fraction) => {
    inside = !inside;
    const time = Math.round(from.time + (to.time - from.time) * fraction);
    return { ...alongStraight(from, to, fraction), time, fraction, inward: inside, course };
  });
}
