import { checkOptions, numberFrom, oneOf } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import { isUnsound } from '../estimate/order.js';
import { PathFilter, type PathFilterState } from '../estimate/path-filter.js';
import type { Fix } from '../fix/fix.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { Silences, isSpared, type SilencesState } from '../trail/silence.js';
import { Calm, FLAT, SURE_BEYOND, flatDistance } from './calm.js';
import type { Crossing } from './crossing.js';
import type { Fence } from './fence.js';
import { FenceList, type FenceFinder } from './finder.js';
import { Post, closedCrossing, type PostMemory, type Seen, type Sureness } from './post.js';
import { LONG, Surrounding, gapTo } from './surrounding.js';

export interface FenceWatchOptions {
  /**
   * Probability, 0.5…1 (1 excluded), from which being inside counts. Default 0.95. Being outside again must be surer,
   * with a twentieth of the doubt left, so that noise at an edge does not chatter: 0.9975. A fence may have its own.
   */
  readonly certainty?: number;
  /** `certain` weighs the accuracy of a fix; `trusting` takes its place at its word. Default `certain`. */
  readonly mode?: 'certain' | 'trusting';
  /** In and out between two fixes: one `pass`, or an `enter` and an `exit`. Default `pass`. */
  readonly passes?: 'pass' | 'pair';
  /** What is told when the first certain fix is inside. Default `initial`, which is no crossing. */
  readonly initial?: 'initial' | 'enter';
  /** Finds the fences near the path: `manyFences()` for thousands of them. Default: all are looked at. */
  readonly finder?: FenceFinder<Post>;
}

/** What a watch remembers, as JSON can hold it. */
export interface FenceWatchState {
  readonly version: 1;
  readonly last?: Seen | undefined;
  /** Whether a gap follows on it. */
  readonly broken: boolean;
  /** How often fixes came, by which a silence is told. */
  readonly heard: SilencesState;
  /** What is known of the path. */
  readonly path: PathFilterState;
  /** Of each fence that is anything but outside for certain. */
  readonly fences: Readonly<Record<string, PostMemory & { readonly name: string }>>;
}

/** Metres around the user, and steps as long as the last one, in which fences are looked for at the least: the next fixes are in it too. */
const AROUND = 100;
const STEPS = 64;
/** Metres that a step is taken for that is too long for a plane, so that all fences are looked at. */
const ALL = 3e7;

/**
 * Follows fixes against fences and tells each crossing once.
 *
 * A fix is a spread, not a point: a side counts when its probability reaches `certainty`, and the crossing is
 * then dated back to where the path last cut the edge. In between the fence is undecided and nothing is
 * told, so noise at an edge does not chatter.
 */
export class FenceWatch {
  readonly #posts = new Map<string, Post>();
  readonly #finder: FenceFinder<Post>;
  /** Those that something is under way with, wherever they are. */
  readonly #awake = new Set<Post>();
  readonly #sureness: Sureness;
  readonly #trusting: boolean;
  readonly #silences = new Silences();
  readonly #filter = new PathFilter();
  /** Those that a timetable switches. */
  readonly #timed = new Set<Post>();
  #last: Seen | undefined;
  /** Whether a gap follows on the last fix. */
  #broken = false;
  readonly #surrounding: Surrounding<Post>;
  /** The fence whose edge is the nearest, while nothing can change at it, and while nothing can at any other. */
  #nearest: Post | undefined;
  readonly #calmOfNearest = new Calm();
  readonly #calm = new Calm();

  /** @throws {InputError} for two fences of one id, and for a misspelt option or a value out of range. */
  constructor(fences: Iterable<Fence>, options: FenceWatchOptions = {}) {
    checkOptions('FenceWatch', options, {
      certainty: numberFrom(0.5, 0.999999, ''),
      mode: oneOf('certain', 'trusting'),
      passes: oneOf('pass', 'pair'),
      initial: oneOf('initial', 'enter'),
      finder: (value) => (value instanceof Object ? undefined : 'must be manyFences()'),
    });
    const { certainty = 0.95, passes = 'pass', initial = 'initial', mode, finder } = options;
    this.#sureness = { certainty, passes, initial };
    this.#trusting = mode === 'trusting';
    this.#finder = finder ?? new FenceList();
    this.#surrounding = new Surrounding(this.#finder);
    for (const fence of fences) {
      if (this.#posts.has(fence.id))
        throw new InputError('bad-value', `two fences have the id "${fence.id}"`);
      this.add(fence);
    }
  }

  /** Ids of the fences the user is certainly inside of now. */
  get inside(): ReadonlySet<string> {
    const inside = [...this.#awake].filter((post) => post.memory.side === 'inside');
    return new Set(inside.map((post) => post.fence.id));
  }

  /** Where the user is as to a fence: `uncertain` as long as the fixes are too coarse for it, or after its edge was cut; `undefined` if it is not watched now. */
  sideOf(id: string): 'inside' | 'outside' | 'uncertain' | undefined {
    const post = this.#posts.get(id);
    if (post === undefined || !post.on) return undefined;
    if (!this.#awake.has(post)) return this.#last === undefined ? 'uncertain' : 'outside';
    const { side, lastIn, lastOut } = post.memory;
    return (side === 'inside' ? lastOut : lastIn) === undefined ? (side ?? 'uncertain') : 'uncertain';
  }

  /** Metres from a position to the nearest edge of any fence, whichever side it is on; `Infinity` without fences. */
  nearestEdge({ lat, lon }: Position): number {
    let least = Infinity;
    for (let metres = AROUND; ; metres *= 8) {
      for (const { shape } of this.#finder.near({ lat, lon }, metres))
        least = Math.min(least, Math.abs(shape.depth(lat, lon)));
      if (least <= metres || metres > ALL) return least;
    }
  }

  /**
   * Watches one more fence; one of the same id takes the place of the other, which is closed if the user was inside. What is told
   * of that is given.
   */
  add(fence: Fence): Crossing[] {
    const post = new Post(fence);
    const told = this.remove(fence.id);
    this.#posts.set(fence.id, post);
    if (fence.when !== undefined) this.#timed.add(post);
    this.#begin(post);
    return told;
  }

  /** Watches a fence no longer; `closed` is given if the user was inside. An id that is not there is no error. */
  remove(id: string): Crossing[] {
    const post = this.#posts.get(id);
    if (post === undefined) return [];
    this.#posts.delete(id);
    this.#timed.delete(post);
    return this.#end(post, this.#last);
  }

  /**
   * Takes the next fix and gives what it brought about, in order of time. A fix marked wild, backwards or
   * duplicate, or older than its predecessor, changes nothing. A silence is a gap.
   */
  advance(fix: Fix): Crossing[] {
    const { time } = fix;
    const last = this.#last;
    if (isUnsound(fix) || time < (last?.time ?? time)) return [];
    if (this.#silences.heard(time, isSpared(fix))) {
      this.#filter.breakSegment();
      this.#break();
    }
    const told = this.#timed.size === 0 ? [] : this.#switch(time);
    const seen = this.#placeOf(fix);
    if (seen === undefined) return told;
    if (!this.#calm.holds(seen)) this.#advance(seen, told, false);
    else if (this.#nearest !== undefined && !this.#calmOfNearest.holds(seen)) this.#advance(seen, told, true);
    this.#last = seen;
    this.#broken = false;
    return told.length > 1 ? told.sort((a, b) => a.time - b.time) : told;
  }

  /** A pause or a gap: what the path did meanwhile is not known, so no edge is cut between the fixes around it. */
  breakSegment(): void {
    this.#silences.breakSegment();
    this.#filter.breakSegment();
    this.#break();
  }

  /** What has to be kept, so that nothing is told twice and nothing lost after a restart. */
  get state(): FenceWatchState {
    this.#know();
    const fences = Object.fromEntries(
      [...this.#awake].map(({ fence: { id, name }, memory }) => [id, { name, ...memory }]),
    );
    return {
      version: 1,
      last: this.#last,
      broken: this.#broken,
      heard: this.#silences.state,
      path: this.#filter.state,
      fences,
    };
  }

  /**
   * Goes on from a state that was kept. Fences that are new since then begin unknown, those that are gone are closed, which is given.
   *
   * @throws {InputError} of kind `bad-value` for what is no such state; then the watch stays as it was.
   */
  restore(state: FenceWatchState): Crossing[] {
    const { version, last, broken, heard, path, fences } = state as Partial<FenceWatchState>;
    if (version !== 1 || typeof fences !== 'object' || !Array.isArray(heard?.counts) || !path)
      throw new InputError('bad-value', 'no state of a FenceWatch');
    this.#silences.state = heard;
    this.#filter.state = path;
    this.#lookAnew();
    this.#last = last;
    this.#broken = broken === true;
    if (last === undefined) return [];
    this.#switch(last.time);
    this.#awake.clear();
    const told: Crossing[] = [];
    for (const [id, { name, ...memory }] of Object.entries(fences)) {
      const post = this.#posts.get(id);
      if (post !== undefined) {
        post.memory = memory;
        this.#awake.add(post);
      } else if (memory.side === 'inside') {
        told.push(closedCrossing({ id, name }, last, memory.entered));
      }
    }
    for (const post of this.#posts.values()) {
      if (this.#awake.has(post) || !post.on) continue;
      // One that the state does not name was outside for certain then; if it could not have been, it is new.
      if (post.isOutside(last, this.#sureness)) post.memory = { side: 'outside' };
      else this.#awake.add(post);
    }
    return told;
  }

  /** Where the user was at a fix, most likely, and how sure that is; `undefined` when it cannot have been there. */
  #placeOf(fix: Fix): Seen | undefined {
    const { time, lat, lon, accuracy } = fix;
    // Without an accuracy there is nothing to weigh: it is taken at its word. All that is seen has one shape, for speed.
    if (this.#trusting || accuracy === undefined) return { time, lat, lon, accuracy: undefined };
    const filter = this.#filter;
    const outcome = filter.advance(fix);
    if (outcome === 'refused') return undefined;
    if (outcome === 'jump') this.#break();
    const { place } = filter;
    return { time, lat: place.lat, lon: place.lon, accuracy: filter.accuracy };
  }

  #begin(post: Post): void {
    post.on = true;
    this.#finder.add(post.shape.bounds, post);
    this.#awake.add(post);
    this.#surrounding.forget();
    this.#lookAnew();
  }

  #end(post: Post, at: Seen | undefined): Crossing[] {
    post.on = false;
    this.#finder.remove(post);
    this.#awake.delete(post);
    this.#surrounding.forget();
    this.#lookAnew();
    return post.close(at);
  }

  /** Switches fences on and off as their timetables say. */
  #switch(time: number): Crossing[] {
    const told: Crossing[] = [];
    for (const post of this.#timed) {
      const { when } = post.fence;
      if (when === undefined || when.isOn(time) === post.on) continue;
      const last = this.#last;
      if (!post.on) this.#begin(post);
      else told.push(...this.#end(post, last && { ...last, time: when.offAfter(last.time, time) }));
    }
    return told;
  }

  /** As long as nothing could change at a fence its side was known, up to the last fix. */
  #know(): void {
    const known = this.#last?.time;
    if (known === undefined) return;
    for (const post of this.#awake)
      if ((post === this.#nearest ? this.#calmOfNearest : this.#calm).any) post.memory.known = known;
  }

  #break(): void {
    this.#lookAnew();
    this.#broken = true;
    for (const post of this.#awake) post.breakSegment();
  }

  /** The next fix is taken to all fences that are near. */
  #lookAnew(): void {
    this.#know();
    this.#calm.end();
    this.#calmOfNearest.end();
    this.#nearest = undefined;
  }

  /** Takes a fix to the fences that something can change at: if all else is calm, to the nearest only. */
  #advance(fix: Seen, told: Crossing[], nearestOnly: boolean): void {
    this.#know();
    const scale = metresPerDegree(fix.lat);
    const last = this.#broken ? undefined : this.#last;
    const flat = last === undefined ? 0 : flatDistance(last, fix, scale);
    const step = flat > LONG ? ALL : flat;
    // Who is so far from an edge has not cut it, and is on this side of it for certain.
    const reach = (step + SURE_BEYOND * (fix.accuracy ?? 0)) / FLAT;
    const way = { last, fix, step, reach };
    if (nearestOnly && this.#nearest !== undefined) {
      this.#calmOfNearest.begin(fix, scale, this.#look(this.#nearest, way, told));
      return;
    }
    let nearest: Post | undefined;
    let first = Math.max(AROUND, STEPS * step, 2 * reach);
    let second = first;
    const look = (post: Post) => {
      const room = this.#look(post, way, told);
      if (room < first) [first, second, nearest] = [room, first, post];
      else if (room < second) second = room;
    };
    const awake = [...this.#awake];
    for (const post of awake) look(post);
    for (const post of this.#surrounding.near(fix, Math.max(second, reach), scale)) {
      if (gapTo(post.shape.bounds, fix, scale) <= Math.max(second, reach) && !awake.includes(post))
        look(post);
    }
    this.#nearest = nearest;
    this.#calmOfNearest.begin(fix, scale, first);
    this.#calm.begin(fix, scale, second);
  }

  /** Takes a fix to one fence. Gives the metres within which nothing can change at it. */
  #look(post: Post, { last, fix, step, reach }: Way, told: Crossing[]): number {
    const depth = post.shape.depth(fix.lat, fix.lon);
    if (!this.#awake.has(post)) {
      if (-depth > reach) return -depth;
      // One that was not looked at before was outside for certain.
      post.memory = { side: 'outside', known: this.#last?.time, broken: last === undefined };
    }
    post.advance(last, fix, depth, step, this.#sureness, told);
    const side = post.certainAt(fix.time);
    if (side === 'outside') this.#awake.delete(post);
    else this.#awake.add(post);
    const lingers = side === 'inside' && post.fence.linger !== undefined && post.memory.lingered !== true;
    return side === undefined || lingers ? 0 : Math.abs(depth);
  }
}

/** The way to a fix. */
interface Way {
  /** `undefined` at the beginning and after a gap. */
  readonly last: Seen | undefined;
  readonly fix: Seen;
  /** Metres. */
  readonly step: number;
  /** Metres from an edge beyond which the side is certain, and was all the way. */
  readonly reach: number;
}
