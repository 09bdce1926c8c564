import { checkOptions, numberFrom, oneOf } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import { isUnsound } from '../estimate/order.js';
import type { Fix } from '../fix/fix.js';
import type { Position } from '../geodesy/position.js';
import { probabilityInside } from './certainty.js';
import type { Crossing, CrossingKind } from './crossing.js';
import type { Fence, FenceShape } from './fence.js';
import { shapeOf } from './shape.js';
import { alongStraight } from '../geodesy/straight.js';

export interface FenceWatchOptions {
  /**
   * Probability, 0.5…1 (1 excluded), from which being inside counts. Default 0.9. Being outside again must be surer,
   * with a twentieth of the doubt left, so that noise at an edge does not chatter: 0.995.
   */
  readonly certainty?: number;
  /** In and out between two fixes: one `pass`, or an `enter` and an `exit`. Default `pass`. */
  readonly passes?: 'pass' | 'pair';
}

/** Where the path cut an edge. */
interface Cut extends Position {
  readonly time: number;
  readonly fraction: number;
  readonly inward: boolean;
}

/** What is known of the user and one fence. */
interface Post {
  readonly fence: Fence;
  readonly shape: FenceShape;
  side: 'inside' | 'outside' | undefined;
  /** When the user was last found to have entered; absent after `initial`. */
  entered: number | undefined;
  /** The latest cut either way since the side was last certain. */
  lastIn: Cut | undefined;
  lastOut: Cut | undefined;
}

/**
 * Follows fixes against fences and tells each crossing once.
 *
 * A fix is a spread, not a point: a side counts when its probability reaches `certainty`, and the crossing is
 * then dated back to where the path last cut the edge. In between the fence is undecided and nothing is
 * told, so noise at an edge does not chatter.
 */
export class FenceWatch {
  readonly #posts: readonly Post[];
  readonly #certainty: number;
  readonly #leaving: number;
  readonly #passes: 'pass' | 'pair';
  #last: Fix | undefined;

  constructor(fences: Iterable<Fence>, options: FenceWatchOptions = {}) {
    checkOptions('FenceWatch', options, {
      certainty: numberFrom(0.5, 0.999999, ''),
      passes: oneOf('pass', 'pair'),
    });
    this.#certainty = options.certainty ?? 0.9;
    this.#leaving = 1 - (1 - this.#certainty) / 20;
    this.#passes = options.passes ?? 'pass';
    const ids = new Set<string>();
    this.#posts = Array.from(fences, (fence) => {
      if (ids.has(fence.id)) throw new InputError('bad-value', `two fences have the id "${fence.id}"`);
      ids.add(fence.id);
      return {
        fence,
        shape: shapeOf(fence),
        side: undefined,
        entered: undefined,
        lastIn: undefined,
        lastOut: undefined,
      };
    });
  }

  /** Ids of the fences the user is certainly inside of now. */
  get inside(): ReadonlySet<string> {
    return new Set(this.#posts.filter((post) => post.side === 'inside').map((post) => post.fence.id));
  }

  /** Metres from a position to the nearest edge of any fence, whichever side it is on; `Infinity` without fences. */
  nearestEdge({ lat, lon }: Position): number {
    return this.#posts.reduce(
      (least, { shape }) => Math.min(least, Math.abs(shape.depth(lat, lon))),
      Infinity,
    );
  }

  /**
   * Takes the next fix and gives what it brought about, in order of time. A fix marked wild, backwards or
   * duplicate, or older than its predecessor, changes nothing.
   */
  advance(fix: Fix): Crossing[] {
    if (isUnsound(fix)) return [];
    if (this.#last !== undefined && fix.time < this.#last.time) return [];
    const told = this.#posts.flatMap((post) => this.#advancePost(post, fix));
    this.#last = fix;
    return told.sort((a, b) => a.time - b.time);
  }

  /** A pause or a gap: what the path did meanwhile is not known, so no edge is cut between the fixes around it. */
  breakSegment(): void {
    this.#last = undefined;
  }

  #advancePost(post: Post, fix: Fix): Crossing[] {
    const told: Crossing[] = [];
    const cuts = this.#last === undefined ? [] : cutsOf(post.shape, this.#last, fix);
    const inside = probabilityInside(post.shape.depth(fix.lat, fix.lon), fix.accuracy, post.shape.size);
    const side =
      inside >= this.#certainty ? 'inside' : 1 - inside >= this.#outsideFrom(post) ? 'outside' : undefined;
    if (post.side !== undefined && this.#last !== undefined)
      told.push(...this.#excursions(post, this.#last, fix, cuts));
    for (const cut of cuts) {
      if (cut.inward) post.lastIn = cut;
      else post.lastOut = cut;
    }
    if (side === undefined) return told;
    const certainty = side === 'inside' ? inside : 1 - inside;
    if (post.side === undefined) {
      if (side === 'inside') told.push(crossingOf(post, 'initial', fix, fix, certainty));
    } else if (side === 'inside' && post.side === 'outside') {
      const cut = post.lastIn ?? fix;
      post.entered = cut.time;
      told.push(crossingOf(post, 'enter', cut, fix, certainty));
    } else if (side === 'outside' && post.side === 'inside') {
      const cut = post.lastOut ?? fix;
      told.push(crossingOf(post, 'exit', cut, fix, certainty, post.entered));
      post.entered = undefined;
    }
    post.side = side;
    post.lastIn = post.lastOut = undefined;
    return told;
  }

  #outsideFrom(post: Post): number {
    return post.side === 'inside' ? this.#leaving : this.#certainty;
  }

  /** A side left and regained between two fixes, when it is certain enough halfway. */
  #excursions(post: Post, from: Fix, to: Fix, cuts: readonly Cut[]): Crossing[] {
    const told: Crossing[] = [];
    for (let i = 0; i + 1 < cuts.length; i++) {
      const [first, second] = [cuts[i] as Cut, cuts[i + 1] as Cut];
      if (first.inward !== (post.side === 'outside')) continue;
      const halfway = alongStraight(from, to, (first.fraction + second.fraction) / 2);
      const accuracy =
        from.accuracy === undefined && to.accuracy === undefined
          ? undefined
          : Math.max(from.accuracy ?? 0, to.accuracy ?? 0);
      const inside = probabilityInside(post.shape.depth(halfway.lat, halfway.lon), accuracy, post.shape.size);
      const certainty = first.inward ? inside : 1 - inside;
      if (certainty < (first.inward ? this.#certainty : this.#leaving)) continue;
      if (!first.inward) {
        told.push(crossingOf(post, 'exit', first, to, certainty, post.entered));
        told.push(crossingOf(post, 'enter', second, to, certainty));
        post.entered = second.time;
      } else if (this.#passes === 'pass') {
        told.push({
          ...crossingOf(post, 'pass', first, to, certainty),
          stay: (second.time - first.time) / 1000,
        });
      } else {
        told.push(crossingOf(post, 'enter', first, to, certainty));
        told.push(crossingOf(post, 'exit', second, to, certainty, first.time));
      }
      i++;
    }
    return told;
  }
}

function cutsOf(shape: FenceShape, from: Fix, to: Fix): Cut[] {
  const fractions = shape.cuts(from, to);
  if (fractions.length === 0) return [];
  let inside = shape.depth(from.lat, from.lon) >= 0;
  return fractions.map((fraction) => {
    inside = !inside;
    const time = Math.round(from.time + (to.time - from.time) * fraction);
    return { ...alongStraight(from, to, fraction), time, fraction, inward: inside };
  });
}

function crossingOf(
  post: Post,
  kind: CrossingKind,
  where: Position & { readonly time: number },
  fix: Fix,
  certainty: number,
  entered?: number,
): Crossing {
  return {
    kind,
    fence: post.fence.id,
    name: post.fence.name,
    time: where.time,
    lat: where.lat,
    lon: where.lon,
    certainty,
    ...(fix.accuracy !== undefined && { accuracy: fix.accuracy }),
    ...(entered !== undefined && { stay: (where.time - entered) / 1000 }),
  };
}
