import { callable, checkOptions, numberFrom, oneOf } from '../check/options.js';
import { isUnsound } from '../estimate/fix-order.js';
import { PathFilter } from '../estimate/path-filter.js';
import type { Fix } from '../fix/fix.js';
import { ClockOrder } from '../estimate/clock-order.js';
import { metresPerDegree } from '../geodesy/local-scale.js';
import type { Position } from '../geodesy/position.js';
import { Silences, isSpared } from '../distance/silence.js';
import { CERTAIN_BEYOND, calmAround, isCalm, type Calm } from './calm.js';
import type { Crossing } from './crossing.js';
import type { Fence } from './fence.js';
import { Field, type FenceField, type Plot } from './field.js';
import { finderOf, type Around, type FenceIndex } from './fence-search.js';
import { FLAT, LONG, flatDistance, gapTo } from './plane.js';
import { Post, closing, type Seen, type CertaintyLimits } from './post.js';
import { shapeOf } from './shape.js';
import type { SharedFences } from './shared-fences.js';
import { SizeCheck, type TooSmallFence } from './too-small.js';
import { watchMemoryOf, watchStateOf, type FenceWatchState, type WatchMemory } from './watch-state.js';

/** Options of `FenceWatch`. */
export interface FenceWatchOptions {
  /**
   * Probability from which the user counts as inside, 0.5…1 (1 excluded). Default 0.95. Being outside again needs a
   * higher certainty, with a twentieth of the remaining doubt (0.9975), so that noise at an edge gives no repeated
   * crossings. A fence may have its own limit.
   */
  readonly certainty?: number;
  /** `certain` uses the accuracy of a fix; `trusting` takes its position as exact. Default `certain`. */
  readonly mode?: 'certain' | 'trusting';
  /** Event for in and out between two fixes: one `pass`, or an `enter` and an `exit`. Default `pass`. */
  readonly passes?: 'pass' | 'pair';
  /** Event when the first certain fix is inside. Default `initial`, which is not a crossing. */
  readonly initial?: 'initial' | 'enter';
  /**
   * Index of the fences: `fenceIndex()` for thousands. Default: all fences are searched. Shared fences have their own.
   */
  readonly index?: FenceIndex;
  /**
   * Receives fences that are too small for the accuracy of the fixes, each once: after the first ten fixes, when one is
   * added later, or when the user is near one for a minute without a certain side. They are also listed in `tooSmall`.
   */
  readonly onTooSmall?: (fence: TooSmallFence) => void;
}

/** Minimum search radius in metres, and in steps as long as the last one, so that it includes the next fixes. */
const AROUND = 100;
const STEPS = 64;
/** Length in metres for a step that is too long for a local plane, so that all fences are searched. */
const ALL = 3e7;

/** State of a watch, and its restoration, for objects that store it as a part of their own state. */
export let memoryOfWatch: (watch: FenceWatch) => WatchMemory;
export let restoreWatch: (watch: FenceWatch, memory: WatchMemory) => Crossing[];

/**
 * Compares fixes with fences and reports each crossing once.
 *
 * A fix is a spread, not a point: a side is taken when its probability reaches `certainty`; the crossing then gets the
 * time at which the path last cut the edge. In between, nothing is reported, so noise at an edge gives no repeated
 * crossings.
 */
export class FenceWatch {
  static {
    memoryOfWatch = (watch) => watch.#memory();
    restoreWatch = (watch, memory) => watch.#restore(memory);
  }

  readonly #field: FenceField;
  /** Fences in a pending state, wherever they are. All others are certainly outside, or were never near. */
  readonly #awake = new Map<Plot, Post>();
  /** Fences that their timetable has switched off. */
  readonly #off = new Set<Plot>();
  readonly #limits: CertaintyLimits;
  readonly #trusting: boolean;
  readonly #sizes: SizeCheck;
  /** Whether the fences are those of many users, which are not all checked for each. */
  readonly #shared: boolean;
  readonly #silences = new Silences();
  readonly #order = new ClockOrder();
  readonly #filter = new PathFilter();
  #last: Seen | undefined;
  /** Whether a gap follows the last fix. */
  #broken = false;
  readonly #around: Around<Plot>;
  /** The fence with the nearest edge, while nothing can change at it and at any other fence. */
  #nearest: Plot | undefined;
  #calmOfNearest: Calm | undefined;
  #calm: Calm | undefined;

  /**
   * @param fences a list, or the shared fences of `sharedFences()`.
   * @throws {InputError} for two fences with the same id, and for a misspelt option or a value out of range.
   */
  constructor(fences: Iterable<Fence> | SharedFences, options: FenceWatchOptions = {}) {
    const shared = 'near' in fences;
    checkOptions('FenceWatch', options, {
      certainty: numberFrom(0.5, 0.999999, ''),
      mode: oneOf('certain', 'trusting'),
      passes: oneOf('pass', 'pair'),
      initial: oneOf('initial', 'enter'),
      onTooSmall: callable,
      index: (value) =>
        value instanceof Object && !shared ? undefined : 'must be fenceIndex(), where fences are not shared',
    });
    const { certainty = 0.95, passes = 'pass', initial = 'initial', mode, index, onTooSmall } = options;
    this.#sizes = new SizeCheck(certainty, onTooSmall);
    this.#shared = shared;
    this.#limits = { certainty, passes, initial };
    this.#trusting = mode === 'trusting';
    this.#field = shared
      ? (fences as unknown as FenceField)
      : new Field(fences as Iterable<Fence>, finderOf(index));
    this.#around = this.#field.around();
  }

  /** Ids of the fences that the user is certainly inside. */
  get inside(): ReadonlySet<string> {
    const inside = [...this.#awake.values()].filter((post) => post.memory.side === 'inside');
    return new Set(inside.map((post) => post.fence.id));
  }

  /**
   * Side of a fence that the user is on: `uncertain` while the fixes are too coarse for it, or after its edge was cut;
   * `undefined` when it is not watched now.
   */
  sideOf(id: string): 'inside' | 'outside' | 'uncertain' | undefined {
    const plot = this.#field.plot(id);
    if (plot === undefined || this.#off.has(plot)) return undefined;
    const post = this.#awake.get(plot);
    if (post === undefined) return this.#last === undefined ? 'uncertain' : 'outside';
    const { side, lastIn, lastOut } = post.memory;
    return (side === 'inside' ? lastOut : lastIn) === undefined ? (side ?? 'uncertain') : 'uncertain';
  }

  /** Fences that turned out too small for the accuracy of the fixes, in the order in which they were found. */
  get tooSmall(): readonly TooSmallFence[] {
    return this.#sizes.found;
  }

  /** Metres from a position to the nearest edge of any fence, on either side; `Infinity` without fences. */
  nearestEdge({ lat, lon }: Position): number {
    let min = Infinity;
    for (let metres = AROUND; ; metres *= 8) {
      for (const plot of this.#field.near({ lat, lon }, metres))
        if (!this.#off.has(plot)) min = Math.min(min, Math.abs(plot.shape.depth(lat, lon)));
      if (min <= metres || metres > ALL) return min;
    }
  }

  /**
   * Watches another fence. It replaces one with the same id, which is closed if the user was inside. Returns the
   * resulting events.
   *
   * @throws {InputError} for an impossible fence, and where the fences are shared.
   */
  add(fence: Fence): Crossing[] {
    const plot = { fence, shape: shapeOf(fence) };
    const reported = this.remove(fence.id);
    this.#field.add(plot);
    this.#begin(plot);
    this.#sizes.check(plot, this.#last?.accuracy);
    return reported;
  }

  /**
   * Stops watching a fence; returns `closed` if the user was inside. An unknown id is not an error.
   *
   * @throws {InputError} where the fences are shared.
   */
  remove(id: string): Crossing[] {
    const plot = this.#field.plot(id);
    if (plot === undefined) return [];
    this.#field.remove(plot);
    this.#off.delete(plot);
    this.#sizes.forget(plot);
    return this.#end(plot, this.#last);
  }

  /**
   * Takes the next fix and returns the resulting events, in order of time. A fix marked `outlier`, `backwards`, `stale`
   * or
   * `duplicate`, or older than the one before, changes nothing. Three older ones in a row, whose own times go forward,
   * show a clock that was set back: they continue after a gap. A silence counts as a gap.
   */
  take(fix: Fix): Crossing[] {
    const { time } = fix;
    if (isUnsound(fix)) return [];
    const order = this.#order.judge(fix);
    if (order === 'older') return [];
    if (order === 'set' || time < (this.#last?.time ?? time)) this.#restartClock();
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
    if (this.#sizes.count() && !this.#shared)
      for (const plot of this.#field.near(seen, ALL)) this.#sizes.check(plot, seen.accuracy);
    return reported.length > 1 ? reported.sort((a, b) => a.time - b.time) : reported;
  }

  /** The clock was set back: times before cannot be compared with those that follow. */
  #restartClock(): void {
    this.breakSegment();
    for (const { memory } of this.#awake.values()) memory.entered = memory.since = memory.known = undefined;
    this.#last = undefined;
  }

  /** A pause or a gap: the path in between is unknown, so the fixes around it cut no edge. */
  breakSegment(): void {
    this.#order.forget();
    this.#silences.breakSegment();
    this.#filter.breakSegment();
    this.#break();
  }

  /** The state to store, so that nothing is reported twice and nothing is lost after a restart. */
  get state(): FenceWatchState {
    return watchStateOf(this.#memory());
  }

  /**
   * Restores a stored state. New fences begin unknown; missing ones are closed. Returns the resulting events.
   *
   * @throws {InputError} of kind `bad-value` for a value that is not a state, is damaged or of another version; the
   *   watch then stays as it was.
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
    this.#order.forget();
    if (last !== undefined) this.#order.judge({ time: last.time });
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
      // A fence that is not in the state was certainly outside; if that was impossible, it is new.
      const post = new Post(plot);
      if (!post.isOutside(last, this.#limits)) this.#awake.set(plot, post);
    }
    return reported;
  }

  /** Estimated position at a fix, with its accuracy; `undefined` for an outlier. */
  #placeOf(fix: Fix): Seen | undefined {
    const { time, lat, lon, accuracy } = fix;
    // Without an accuracy the position counts as exact. All values have the same object shape, for
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

  /** Switches fences on and off by their timetables. */
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

  /** While no fence could change, the sides were known up to the last fix. */
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

  /** Compares the next fix with all fences near it. */
  #lookAnew(): void {
    this.#know();
    this.#calm = this.#calmOfNearest = this.#nearest = undefined;
  }

  /** Compares a fix with the fences that can change: with the nearest only, if all others cannot. */
  #advance(fix: Seen, reported: Crossing[], nearestOnly: boolean): void {
    this.#know();
    const scale = metresPerDegree(fix.lat);
    const last = this.#broken ? undefined : this.#last;
    const flat = last === undefined ? 0 : flatDistance(last, fix, scale);
    const step = flat > LONG ? ALL : flat;
    // Beyond this distance an edge crossing is impossible, and the side is certain, so the fence is skipped.
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

  /** Compares a fix with one fence. Returns the metres within which the fence cannot change. */
  #look(plot: Plot, { last, fix, step, reach }: Way, reported: Crossing[]): number {
    const depth = plot.shape.depth(fix.lat, fix.lon);
    let post = this.#awake.get(plot);
    if (post === undefined) {
      if (-depth > reach) return -depth;
      // A fence that was never near was certainly outside, unless nothing is known yet.
      const before = this.#last;
      post = new Post(plot, before && { side: 'outside', known: before.time, broken: last === undefined });
    }
    post.advance(last, fix, depth, step, this.#limits, reported);
    const { side: latest, known, lingered } = post.memory;
    // If the side is not certain now, a cut may be pending.
    const side = known === fix.time ? latest : undefined;
    if (side === 'outside') this.#awake.delete(plot);
    else this.#awake.set(plot, post);
    this.#sizes.compared(plot, fix.accuracy, side !== undefined, fix.time);
    const lingers = side === 'inside' && plot.fence.linger !== undefined && lingered !== true;
    return side === undefined || lingers ? 0 : Math.abs(depth);
  }
}

/** The step to a fix. */
interface Way {
  /** `undefined` at the beginning and after a gap. */
  readonly last: Seen | undefined;
  readonly fix: Seen;
  /** Length in metres. */
  readonly step: number;
  /** Metres from an edge beyond which the side is certain, now and during the whole step. */
  readonly reach: number;
}
