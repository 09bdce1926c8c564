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
 * What is kept with a trail, as a note of its own kind and layout: the crossings that a fix brought about, and what the
 * watch remembers then.
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
 * The crossings of a trail, kept in the store with it, each with the fix that brought it about.
 *
 * While the recorder is paused, and once it is finished, nothing is taken: a pause is a gap. Removing the trail from
 * the store removes them too. After the app was killed `reopen` goes on: nothing is told twice and nothing lost.
 */
export class CrossingLog {
  readonly #watch: FenceWatch;
  readonly #recorder: Recorder | undefined;
  readonly #crossings = liveValue<readonly Crossing[]>([]);
  readonly #lifetime = new Lifetime(warnOfListener('a CrossingLog', consoleWarn));
  #last: number | undefined;

  /** @param recorder of the trail that they are kept with; without one they are in memory only. */
  constructor(watch: FenceWatch, recorder?: Recorder) {
    this.#watch = watch;
    this.#recorder = recorder;
    const unlisten = recorder?.$status.listen(({ state }) => state === 'paused' && this.breakSegment());
    if (unlisten !== undefined) this.#lifetime.add(unlisten);
  }

  /**
   * The log of a trail that broke off, to go on with. What was recorded after the last crossing that was kept is
   * followed again, which is where a crossing comes from that was told but not kept.
   *
   * @param watch a new one, with the same fences. @param recorder taken up from the same store.
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

  /**
   * Whether the watch goes on from a state that was kept; from one that is damaged it begins anew after the last
   * crossing.
   */
  #restore(state: FenceWatchState | undefined): boolean {
    if (state === undefined) return false;
    try {
      this.#keep(this.#watch.restore(state));
      return true;
    } catch (error) {
      if (!(error instanceof InputError)) throw error;
      consoleWarn(
        `what a log of crossings remembers is damaged, and the watch begins anew: ${error.message}`,
      );
      return false;
    }
  }

  /** Live, in order of time. */
  get $crossings(): LiveValue<readonly Crossing[]> {
    return this.#crossings;
  }

  /** Those that are wanted. */
  select(choice: CrossingChoice = {}): Crossing[] {
    return selectCrossings(this.#crossings.get(), choice);
  }

  /** How long the user was in each fence, up to the last fix. */
  get timeInside(): TimeInside[] {
    return timeInsideFrom(this.#crossings.get(), this.#last);
  }

  /** Takes all fixes of a follow, whatever its sampling, until what is returned is called. */
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

  /** Lets its follows and its recorder go; the crossings stay. Nothing is taken any more. Closing twice is harmless. */
  close(): void {
    this.#lifetime.end(new ClosedError('the log of crossings'));
  }

  /** As `close`, for `using`. */
  [DISPOSE](): void {
    this.close();
  }

  /** Takes a fix, and gives what it brought about; nothing while the recorder is paused or finished. */
  take(fix: Fix): Crossing[] {
    const state = this.#recorder?.state;
    if (this.#lifetime.aborted || state === 'paused' || state === 'finished' || state === 'closed') return [];
    return this.#advance(fix);
  }

  /** A pause or a gap. */
  breakSegment(): void {
    this.#watch.breakSegment();
  }

  /** Watches one more fence, or another of the same id; `closed` is kept and given if the user was inside of that. */
  addFence(fence: Fence): Crossing[] {
    return this.#keep(this.#watch.add(fence));
  }

  /** Watches a fence no longer; `closed` is kept and given if the user was inside. */
  removeFence(id: string): Crossing[] {
    return this.#keep(this.#watch.remove(id));
  }

  #advance(fix: Fix): Crossing[] {
    this.#last = Math.max(this.#last ?? fix.time, fix.time);
    return this.#keep(this.#watch.take(fix));
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

/** The crossings kept with a trail, and what the watch remembered at the last of them. */
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

/** A crossing as it is kept: its fields by names that stay. */
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

/** Whether a kept value has all that a crossing has. */
function isCrossing(value: unknown): value is Crossing {
  const { kind, fence, name, time, lat, lon } = (value ?? {}) as Partial<Record<keyof Crossing, unknown>>;
  return (
    CROSSING_KINDS.some((each) => each === kind) &&
    [fence, name].every((each) => typeof each === 'string') &&
    [time, lat, lon].every(Number.isFinite)
  );
}

/** The log of crossings that was kept with a trail, in order; empty when there is none. */
export async function readCrossings(store: TrailStore, id: string): Promise<Crossing[]> {
  return (await crossingsIn(store, id)).crossings;
}
