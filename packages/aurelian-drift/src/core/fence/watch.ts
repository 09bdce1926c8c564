import { checkOptions, numberFrom, oneOf } from '../check/options.js';
import { isUnsound } from '../estimate/fix-order.js';
import { PathFilter } from '../estimate/path-filter.js';
import type { Fix } from '../fix/fix.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { Silences, isSpared } from '../trail/silence.js';
import { CERTAIN_BEYOND, calmAround, isCalm, type Calm } from './calm.js';
import type { Crossing } from './crossing.js';
import type { Fence } from './fence.js';
import { Field, type FenceField, type Plot } from './field.js';
import { finderOf, type Around, type FenceIndex } from './fence-search.js';
import { FLAT, LONG, flatDistance, gapTo } from './plane.js';
import { Post, closing, type Seen, type CertaintyLimits } from './post.js';
import { shapeOf } from './shape.js';
import type { SharedFences } from './shared-fences.js';
import { watchMemoryOf, watchStateOf, type FenceWatchState, type WatchMemory } from './watch-state.js';

/** Options of `FenceWatch`. */
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
  /**
   * Finds the fences near the path: `fenceIndex()` for thousands of them. Default: all are looked at. Shared fences
   * have their own.
   */
  readonly index?: FenceIndex;
}

/**
 * Metres around the user, and steps as long as the last one, in which fences are looked for at the least: the next
 * fixes are in it too.
 */
const AROUND = 100;
const STEPS = 64;
/** Metres that a step is taken for that is too long for a plane, so that all fences are looked at. */
const ALL = 3e7;

/** What a watch remembers, and going on from that; for what keeps it as a part of its own. */
export let memoryOfWatch: (watch: FenceWatch) => WatchMemory;
export let restoreWatch: (watch: FenceWatch, memory: WatchMemory) => Crossing[];

/**
 * Follows fixes against fences and tells each crossing once.
 *
 * A fix is a spread, not a point: a side counts when its probability reaches `certainty`, and the crossing is
 * then dated back to where the path last cut the edge. In between the fence is undecided and nothing is
 * told, so noise at an edge does not chatter.
 */
export class FenceWatch {
  static {
    memoryOfWatch = (watch) => watch.#memory();
    restoreWatch = (watch, memory) => watch.#restore(memory);
  }

  readonly #field: FenceField;
  /**
   * Those that something is under way with, wherever they are; all others are outside for certain, or were never looked
   * at.
   */
  readonly #awake = new Map<Plot, Post>();
  /** Those that their timetable has switched off. */
  readonly #off = new Set<Plot>();
  readonly #limits: CertaintyLimits;
  readonly #trusting: boolean;
  readonly #silences = new Silences();
  readonly #filter = new PathFilter();
  #last: Seen | undefined;
  /** Whether a gap follows on the last fix. */
  #broken = false;
  readonly #around: Around<Plot>;
  /** The fence whose edge is the nearest, while nothing can change at it, and while nothing can at any other. */
  #nearest: Plot | undefined;
  #calmOfNearest: Calm | undefined;
  #calm: Calm | undefined;

  /**
   * @param fences its own, or those that `sharedFences()` gives, which many watches look at.
   * @throws {InputError} for two fences of one id, and for a misspelt option or a value out of range.
   */
  constructor(fences: Iterable<Fence> | SharedFences, options: FenceWatchOptions = {}) {
    const shared = 'near' in fences;
    checkOptions('FenceWatch', options, {
      certainty: numberFrom(0.5, 0.999999, ''),
      mode: oneOf('certain', 'trusting'),
      passes: oneOf('pass', 'pair'),
      initial: oneOf('initial', 'enter'),
      index: (value) =>
        value instanceof Object && !shared ? undefined : 'must be fenceIndex(), where fences are not shared',
    });
    const { certainty = 0.95, passes = 'pass', initial = 'initial', mode, index } = options;
    this.#limits = { certainty, passes, initial };
    this.#trusting = mode === 'trusting';
    this.#field = shared
      ? (fences as unknown as FenceField)
      : new Field(fences as Iterable<Fence>, finderOf(index));
    this.#around = this.#field.around();
  }

  /** Ids of the fences the user is certainly inside of now. */
  get inside(): ReadonlySet<string> {
    const inside = [...this.#awake.values()].filter((post) => post.memory.side === 'inside');
    return new Set(inside.map((post) => post.fence.id));
  }

  /**
   * Where the user is as to a fence: `uncertain` as long as the fixes are too coarse for it, or after its edge was cut;
   * `undefined` if it is not watched now.
   */
  sideOf(id: string): 'inside' | 'outside' | 'uncertain' | undefined {
    const plot = this.#field.plot(id);
    if (plot === undefined || this.#off.has(plot)) return undefined;
    const post = this.#awake.get(plot);
    if (post === undefined) return this.#last === undefined ? 'uncertain' : 'outside';
    const { side, lastIn, lastOut } = post.memory;
    return (side === 'inside' ? lastOut : lastIn) === undefined ? (side ?? 'uncertain') : 'uncertain';
  }

  /** Metres from a position to the nearest edge of any fence, whichever side it is on; `Infinity` without fences. */
  nearestEdge({ lat, lon }: Position): number {
    let min = Infinity;
    for (let metres = AROUND; ; metres *= 8) {
      for (const plot of this.#field.near({ lat, lon }, metres))
        if (!this.#off.has(plot)) min = Math.min(min, Math.abs(plot.shape.depth(lat, lon)));
      if (min <= metres || metres > ALL) return min;
    }
  }

  /**
   * Watches one more fence; one of the same id takes the place of the other, which is closed if the user was inside.
   * What is told of that is given.
   *
   * @throws {InputError} for a fence that cannot be, and where the fences are shared.
   */
  add(fence: Fence): Crossing[] {
    const plot = { fence, shape: shapeOf(fence) };
    const reported = this.remove(fence.id);
    this.#field.add(plot);
    this.#begin(plot);
    return reported;
  }

  /**
   * Watches a fence no longer; `closed` is given if the user was inside. An id that is not there is no error.
   *
   * @throws {InputError} where the fences are shared.
   */
  remove(id: string): Crossing[] {
    const plot = this.#field.plot(id);
    if (plot === undefined) return [];
    this.#field.remove(plot);
    this.#off.delete(plot);
    return this.#end(plot, this.#last);
  }

  /**
   * Takes the next fix and gives what it brought about, in order of time. A fix marked wild, backwards or
   * duplicate, or older than its predecessor, changes nothing. A silence is a gap.
   */
  take(fix: Fix): Crossing[] {
    const { time } = fix;
    const last = this.#last;
    if (isUnsound(fix) || time < (last?.time ?? time)) return [];
    if (this.#silences.received(time, isSpared(fix))) {
      this.#filter.breakSegment();
      this.#break();
    }
    const reported = this.#field.timed.size === 0 ? [] : this.#switch(time);
    const seen = this.#placeOf(fix);
    if (seen === undefined) return reported;
    if (!isCalm(this.#calm, seen)) this.#advance(seen, reported, false);
    else if (this.#nearest !== undefined && !isCalm(this.#calmOfNearest, seen))
      this.#advance(seen, reported, true);
    this.#last = seen;
    this.#broken = false;
    return reported.length > 1 ? reported.sort((a, b) => a.time - b.time) : reported;
  }

  /** A pause or a gap: what the path did meanwhile is not known, so no edge is cut between the fixes around it. */
  breakSegment(): void {
    this.#silences.breakSegment();
    this.#filter.breakSegment();
    this.#break();
  }

  /** What has to be kept, so that nothing is told twice and nothing lost after a restart. */
  get state(): FenceWatchState {
    return watchStateOf(this.#memory());
  }

  /**
   * Goes on from a state that was kept. Fences that are new since then begin unknown, those that are gone are closed,
   * which is given.
   *
   * @throws {InputError} of kind `bad-value` for what is no such state, is damaged or of another version; then the
   * watch stays as it was.
   */
  restore(state: FenceWatchState): Crossing[] {
    return this.#restore(watchMemoryOf(state));
  }

  #memory(): WatchMemory {
    this.#know();
    const fences = Object.fromEntries(
      Array.from(this.#awake.values(), ({ fence: { id, name }, memory }) => [id, { name, ...memory }]),
    );
    return {
      last: this.#last,
      broken: this.#broken,
      received: this.#silences.state,
      path: this.#filter.state,
      fences,
    };
  }

  #restore({ last, broken, received, path, fences }: WatchMemory): Crossing[] {
    this.#silences.state = received;
    this.#filter.state = path;
    this.#lookAnew();
    this.#last = last;
    this.#broken = broken;
    if (last !== undefined) this.#switch(last.time);
    this.#awake.clear();
    if (last === undefined) return [];
    const reported: Crossing[] = [];
    for (const [id, { name, ...memory }] of Object.entries(fences)) {
      const plot = this.#field.plot(id);
      if (plot !== undefined && !this.#off.has(plot)) this.#awake.set(plot, new Post(plot, memory));
      else reported.push(...closing({ id, name }, last, memory));
    }
    for (const plot of this.#field.near(last, CERTAIN_BEYOND * (last.accuracy ?? 0))) {
      if (this.#awake.has(plot) || this.#off.has(plot)) continue;
      // One that the state does not name was outside for certain then; if it could not have been, it is new.
      const post = new Post(plot);
      if (!post.isOutside(last, this.#limits)) this.#awake.set(plot, post);
    }
    return reported;
  }

  /** Where the user was at a fix, most likely, and how sure that is; `undefined` when it cannot have been there. */
  #placeOf(fix: Fix): Seen | undefined {
    const { time, lat, lon, accuracy } = fix;
    // Without an accuracy there is nothing to weigh: it is taken at its word. All that is seen has one shape, for
    // speed.
    if (this.#trusting || accuracy === undefined) return { time, lat, lon, accuracy: undefined };
    const filter = this.#filter;
    const outcome = filter.take(fix);
    if (outcome === 'refused') return undefined;
    if (outcome === 'jump') this.#break();
    const { position } = filter;
    return { time, lat: position.lat, lon: position.lon, accuracy: filter.accuracy };
  }

  #begin(plot: Plot): void {
    this.#awake.set(plot, new Post(plot));
    this.#lookAnew();
  }

  #end(plot: Plot, at: Seen | undefined): Crossing[] {
    const reported = closing(plot.fence, at, this.#awake.get(plot)?.memory);
    this.#awake.delete(plot);
    this.#lookAnew();
    return reported;
  }

  /** Switches fences on and off as their timetables say. */
  #switch(time: number): Crossing[] {
    const reported: Crossing[] = [];
    for (const [plot, when] of this.#field.timed) {
      const off = this.#off.has(plot);
      if (when.isOn(time) !== off) continue;
      const last = this.#last;
      if (off) {
        this.#off.delete(plot);
        this.#begin(plot);
      } else {
        this.#off.add(plot);
        reported.push(...this.#end(plot, last && { ...last, time: when.offAfter(last.time, time) }));
      }
    }
    return reported;
  }

  /** As long as nothing could change at a fence its side was known, up to the last fix. */
  #know(): void {
    const known = this.#last?.time;
    if (known === undefined) return;
    for (const [plot, { memory }] of this.#awake)
      if (plot === this.#nearest ? this.#calmOfNearest : this.#calm) memory.known = known;
  }

  #break(): void {
    this.#lookAnew();
    this.#broken = true;
    for (const post of this.#awake.values()) post.breakSegment();
  }

  /** The next fix is taken to all fences that are near. */
  #lookAnew(): void {
    this.#know();
    this.#calm = this.#calmOfNearest = this.#nearest = undefined;
  }

  /** Takes a fix to the fences that something can change at: if all else is calm, to the nearest only. */
  #advance(fix: Seen, reported: Crossing[], nearestOnly: boolean): void {
    this.#know();
    const scale = metresPerDegree(fix.lat);
    const last = this.#broken ? undefined : this.#last;
    const flat = last === undefined ? 0 : flatDistance(last, fix, scale);
    const step = flat > LONG ? ALL : flat;
    // Who is so far from an edge has not cut it, and is on this side of it for certain.
    const reach = (step + CERTAIN_BEYOND * (fix.accuracy ?? 0)) / FLAT;
    const way = { last, fix, step, reach };
    if (nearestOnly && this.#nearest !== undefined) {
      this.#calmOfNearest = calmAround(fix, scale, this.#look(this.#nearest, way, reported));
      return;
    }
    let nearest: Plot | undefined;
    let first = Math.max(AROUND, STEPS * step, 2 * reach);
    let second = first;
    const look = (plot: Plot) => {
      const room = this.#look(plot, way, reported);
      if (room < first) [first, second, nearest] = [room, first, plot];
      else if (room < second) second = room;
    };
    const awake = [...this.#awake.keys()];
    for (const plot of awake) look(plot);
    for (const plot of this.#around(fix, Math.max(second, reach), scale)) {
      if (gapTo(plot.shape.bounds, fix, scale) > Math.max(second, reach)) continue;
      if (!awake.includes(plot) && !this.#off.has(plot)) look(plot);
    }
    this.#nearest = nearest;
    this.#calmOfNearest = calmAround(fix, scale, first);
    this.#calm = calmAround(fix, scale, second);
  }

  /** Takes a fix to one fence. Gives the metres within which nothing can change at it. */
  #look(plot: Plot, { last, fix, step, reach }: Way, reported: Crossing[]): number {
    const depth = plot.shape.depth(fix.lat, fix.lon);
    let post = this.#awake.get(plot);
    if (post === undefined) {
      if (-depth > reach) return -depth;
      // One that was not looked at before was outside for certain, unless nothing is known yet.
      const before = this.#last;
      post = new Post(plot, before && { side: 'outside', known: before.time, broken: last === undefined });
    }
    post.advance(last, fix, depth, step, this.#limits, reported);
    const { side: latest, known, lingered } = post.memory;
    // If it was not certain now, a cut may wait to be believed.
    const side = known === fix.time ? latest : undefined;
    if (side === 'outside') this.#awake.delete(plot);
    else this.#awake.set(plot, post);
    const lingers = side === 'inside' && plot.fence.linger !== undefined && lingered !== true;
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
