import { ClosedError } from '../core/check/closed-error.js';
import { InputError } from '../core/check/input-error.js';
import { CROSSING_KINDS, type Crossing } from '../core/fence/crossing.js';
import { selectCrossings, timeInsideFrom, type CrossingChoice } from '../core/fence/crossing-list.js';
import type { Fence } from '../core/fence/fence.js';
import type { TimeInside } from '../core/fence/time-inside.js';
import { memoryOfWatch, type FenceWatch } from '../core/fence/watch.js';
import type { FenceWatchState } from '../core/fence/watch-state.js';
import type { Fix } from '../core/fix/fix.js';
import { DISPOSE } from '../live/dispose.js';
import { Lifetime } from '../live/lifetime.js';
import { warnOfListener } from '../live/listener.js';
import { liveValue, type LiveValue } from '../live/live-value.js';
import { consoleWarn } from '../live/warn.js';
import type { Follow } from '../receiver/follow.js';
import type { Recorder } from './recorder.js';
import type { TrailStore } from './trail-store.js';

/**
 * A note in the store with the trail, with a kind and a layout of its own: the crossings of one fix, and the state of
 * the watch after it.
 */
interface CrossingNote {
  readonly kind: typeof NOTE_KIND;
  readonly version: typeof NOTE_VERSION;
  readonly crossings: readonly Crossing[];
  readonly watch: FenceWatchState;
}

const NOTE_KIND = 'aurelian-drift crossings';
const NOTE_VERSION = 1;

/**
 * The crossings of a trail, stored with it, each together with its fix.
 *
 * While the recorder is paused, and after it is finished, nothing is taken: a pause is a gap. Removing the trail from
 * the store removes the crossings. After the app was killed, `reopen` continues: nothing is reported twice and nothing
 * is lost.
 */
export class CrossingLog {
  readonly #watch: FenceWatch;
  readonly #recorder: Recorder | undefined;
  readonly #crossings = liveValue<readonly Crossing[]>([]);
  readonly #lifetime = new Lifetime(warnOfListener('a CrossingLog', consoleWarn));
  #last: number | undefined;
  /** Number of the watch's fences that are too small and were reported. */
  #small = 0;

  /** @param recorder recorder of the trail; without one the crossings are in memory only. */
  constructor(watch: FenceWatch, recorder?: Recorder) {
    this.#watch = watch;
    this.#recorder = recorder;
    const unlisten = recorder?.$status.listen(({ state }) => state === 'paused' && this.breakSegment());
    if (unlisten !== undefined) this.#lifetime.add(unlisten);
  }

  /**
   * Opens the log of an unfinished trail again. The fixes after the last stored crossing are compared again, which
   * gives the crossings that were reported but not stored.
   *
   * @param watch a new watch with the same fences. @param recorder the reopened recorder of the trail.
   */
  static async reopen(
    id: string,
    store: TrailStore,
    watch: FenceWatch,
    recorder: Recorder,
  ): Promise<CrossingLog> {
    const log = new CrossingLog(watch, recorder);
    const { crossings, state } = await crossingsIn(store, id);
    log.#crossings.set(crossings);
    const restored = log.#restore(state);
    const after = (restored ? memoryOfWatch(watch).last?.time : crossings.at(-1)?.time) ?? -Infinity;
    const { trail } = recorder;
    for (const segment of trail.segments) {
      if (trail.number(segment.end - 1, 'time') < after) continue;
      for (const fix of trail.fixesOf(segment)) if (fix.time > after) log.#advance(fix);
      log.breakSegment();
    }
    return log;
  }

  /** Whether the watch continues from a stored state. With a damaged one it begins anew after the last crossing. */
  #restore(state: FenceWatchState | undefined): boolean {
    if (state === undefined) return false;
    try {
      this.#keep(this.#watch.restore(state));
      return true;
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      consoleWarn(
        `the stored state of a log of crossings is damaged, and its watch begins anew: ${error.message}`,
      );
      return false;
    }
  }

  /** All crossings in order of time, live. */
  get $crossings(): LiveValue<readonly Crossing[]> {
    return this.#crossings;
  }

  /** Crossings that meet the conditions. */
  select(choice: CrossingChoice = {}): Crossing[] {
    return selectCrossings(this.#crossings.get(), choice);
  }

  /** Time of the user in each fence, up to the last fix. */
  get timeInside(): TimeInside[] {
    return timeInsideFrom(this.#crossings.get(), this.#last);
  }

  /** Takes all fixes of a follow, whatever its sampling, until the returned function is called. */
  follow(follow: Follow): () => void {
    const untap = follow.onFix((fix) => void this.take(fix), { all: true, unsampled: true });
    const unlisten = follow.onEvent(({ kind }) => kind === 'gap' && this.breakSegment());
    const forget = this.#lifetime.add(() => {
      untap();
      unlisten();
    });
    return () => {
      forget();
      untap();
      unlisten();
    };
  }

  /** Detaches the log from its follows and its recorder; the crossings stay. Closing twice is harmless. */
  close(): void {
    this.#lifetime.end(new ClosedError('the log of crossings'));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  /** Takes a fix, and returns the resulting events; none while the recorder is paused or finished. */
  take(fix: Fix): Crossing[] {
    const state = this.#recorder?.state;
    if (this.#lifetime.aborted || state === 'paused' || state === 'finished' || state === 'closed') return [];
    return this.#advance(fix);
  }

  /** A pause or a gap. */
  breakSegment(): void {
    this.#watch.breakSegment();
  }

  /**
   * Watches another fence, which replaces one with the same id; `closed` is stored and returned if the user was inside
   * that one.
   */
  addFence(fence: Fence): Crossing[] {
    return this.#keep(this.#watch.add(fence));
  }

  /** Stops watching a fence; `closed` is stored and returned if the user was inside. */
  removeFence(id: string): Crossing[] {
    return this.#keep(this.#watch.remove(id));
  }

  #advance(fix: Fix): Crossing[] {
    this.#last = Math.max(this.#last ?? fix.time, fix.time);
    const crossings = this.#watch.take(fix);
    const { tooSmall } = this.#watch;
    for (; this.#small < tooSmall.length; this.#small++) consoleWarn(tooSmall[this.#small]?.text ?? '');
    return this.#keep(crossings);
  }

  #keep(crossings: Crossing[]): Crossing[] {
    if (crossings.length === 0) return crossings;
    this.#crossings.set([...this.#crossings.get(), ...crossings]);
    this.#recorder?.keepNote({
      kind: NOTE_KIND,
      version: NOTE_VERSION,
      crossings: crossings.map(crossingLayout),
      watch: this.#watch.state,
    } satisfies CrossingNote);
    return crossings;
  }
}

/** The stored crossings of a trail, and the state of the watch at the last of them. */
async function crossingsIn(
  store: TrailStore,
  id: string,
): Promise<{ crossings: Crossing[]; state: FenceWatchState | undefined }> {
  const notes = (await store.notes(id)).filter(isCrossingNote);
  return { crossings: notes.flatMap((note) => note.crossings), state: notes.at(-1)?.watch };
}

function isCrossingNote(note: unknown): note is CrossingNote {
  const { kind, version, crossings, watch } = (note ?? {}) as Partial<Record<keyof CrossingNote, unknown>>;
  return (
    kind === NOTE_KIND &&
    version === NOTE_VERSION &&
    Array.isArray(crossings) &&
    crossings.every(isCrossing) &&
    typeof watch === 'string'
  );
}

/** A crossing in its stored layout, with field names that do not change. */
function crossingLayout({
  kind,
  fence,
  name,
  time,
  lat,
  lon,
  notBefore,
  certainty,
  course,
  accuracy,
  duration,
}: Crossing): Crossing {
  return {
    kind,
    fence,
    name,
    time,
    lat,
    lon,
    ...(notBefore !== undefined && { notBefore }),
    certainty,
    ...(course !== undefined && { course }),
    ...(accuracy !== undefined && { accuracy }),
    ...(duration !== undefined && { duration }),
  };
}

/** Whether a stored value has all fields of a crossing. */
function isCrossing(value: unknown): value is Crossing {
  const { kind, fence, name, time, lat, lon } = (value ?? {}) as Partial<Record<keyof Crossing, unknown>>;
  return (
    CROSSING_KINDS.some((each) => each === kind) &&
    [fence, name].every((each) => typeof each === 'string') &&
    [time, lat, lon].every(Number.isFinite)
  );
}

/** The stored crossings of a trail, in order; empty when there are none. */
export async function readCrossings(store: TrailStore, id: string): Promise<Crossing[]> {
  return (await crossingsIn(store, id)).crossings;
}
