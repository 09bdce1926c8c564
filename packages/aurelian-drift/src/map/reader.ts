import type { SheetStage } from './sheet-stage.js';

/** Milliseconds without a change after which the description is written anew: not in each frame of a move. */
const CALM = 250;
/** Milliseconds between two announcements of the own place. */
const SELDOM = 60_000;

/** Writes the map for screen readers: its description when it rests, and seldom the own place, aloud. */
export class Reader {
  readonly #page: SheetStage;
  readonly #describe: () => string;
  #timer: ReturnType<typeof setTimeout> | undefined;
  #said: { readonly text: string; readonly at: number } | undefined;

  constructor(page: SheetStage, describe: () => string) {
    this.#page = page;
    this.#describe = describe;
  }

  /** The map was drawn. @param ownPlace the own place in words. */
  changed(ownPlace: string): void {
    this.#timer ??= setTimeout(() => {
      this.#timer = undefined;
      this.#page.describe(this.#describe());
      this.#announce(ownPlace);
    }, CALM);
  }

  end(): void {
    clearTimeout(this.#timer);
  }

  #announce(text: string): void {
    const now = performance.now();
    // The first words are those that a user reads on arriving at the map: they are no news.
    if (this.#said !== undefined && this.#said.text !== text && now - this.#said.at >= SELDOM)
      this.#page.say(text);
    else if (this.#said !== undefined) return;
    this.#said = { text, at: now };
  }
}
