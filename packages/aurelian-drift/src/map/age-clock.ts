/** Milliseconds between two looks at an age: ages are written in seconds. */
const TICK = 1000;

/**
 * Ticks while something on the map has an age that grows by itself, without any fix: the fading of the kite, and ages
 * in words.
 */
export class AgeClock {
  readonly #tick: () => void;
  #timer: ReturnType<typeof setInterval> | undefined;

  constructor(tick: () => void) {
    this.#tick = tick;
  }

  run(on: boolean): void {
    if (!on) {
      clearInterval(this.#timer);
      this.#timer = undefined;
    } else {
      this.#timer ??= setInterval(this.#tick, TICK);
    }
  }
}
