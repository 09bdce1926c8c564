import { liveValue, type LiveValue } from '../live/live-value.js';
import type { Follow } from '../receiver/follow.js';
import { Recorder } from '../recorder/recorder.js';
import type { TrailStore } from '../recorder/trail-store.js';

/** Which trail a screen records. */
export interface ScreenTrail {
  readonly store: TrailStore;
  readonly name: string;
}

/** What a screen has of its recorder. */
export interface ScreenRecording {
  /** Absent until the store was read, and after a failure. */
  readonly recorder?: Recorder;
  /** Why there is none: another tab writes the trail, or the store fails. */
  readonly error?: Error;
}

/**
 * The recorder of a screen that comes and goes: it goes on with the trail that the screen left unfinished. While the
 * screen has a follow, that is recorded.
 */
export class ScreenRecorder {
  readonly #state = liveValue<ScreenRecording>({});
  #follow: Follow | undefined;
  #closed = false;

  constructor(trail: ScreenTrail) {
    void this.#open(trail);
  }

  get $recording(): LiveValue<ScreenRecording> {
    return this.#state;
  }

  /** Records a follow from now on; `undefined`: pauses until the next. */
  record(follow: Follow | undefined): void {
    this.#follow = follow;
    const { recorder } = this.#state.get();
    if (recorder === undefined || this.#closed) return;
    if (follow === undefined) recorder.pause();
    else if (recorder.state === 'paused') recorder.resume(follow);
    else if (recorder.state !== 'finished') recorder.start(follow);
  }

  /** Leaves the trail as it is, to be taken up again. */
  close(): void {
    this.#closed = true;
    void this.#state.get().recorder?.close();
  }

  async #open(trail: ScreenTrail): Promise<void> {
    try {
      const recorder = await Recorder.resumeOrBegin(trail);
      if (this.#closed) {
        void recorder.close();
        return;
      }
      this.#state.set({ recorder });
      this.record(this.#follow);
    } catch (error) {
      this.#state.set({ error: error as Error });
    }
  }
}
