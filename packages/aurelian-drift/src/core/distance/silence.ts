import type { Fix } from '../fix/fix.js';

/** Milliseconds without a fix that are never a silence, however frequent fixes were before. */
const MIN = 20_000;
/** Length of a silence as a multiple of nearly all steps before it. */
const OFTEN = 8;
/** Share of the steps that counts as nearly all: a few silences among them do not hide the next one. */
const NEARLY_ALL = 0.95;
/** Number of steps needed before a silence can be found. */
const KNOWN = 8;
/** Powers of two of milliseconds that steps are counted by. */
export const POWERS = 64;

/** State as plain data: the number of steps of each power of two, and the time of the last fix. */
export interface SilencesState {
  readonly counts: readonly number[];
  readonly last?: number | undefined;
}

/**
 * Finds the silences of a trail: times without a fix that are long in relation to the usual steps between fixes. The
 * path during a silence is unknown. Writers that store a fix only where the course changes have steps of all lengths,
 * and few silences.
 *
 * Steps are counted by powers of two, so the cost of each is constant.
 */
export class Silences {
  #counts = new Array<number>(POWERS).fill(0);
  #total = 0;
  #last: number | undefined;
  /** The last step, and its power of two: most steps are alike. */
  #step = 0;
  #power = 0;

  /**
   * Takes the time of a fix, milliseconds since 1970 UTC. Returns whether a silence ends with it.
   *
   * @param spared the receiver was off by plan before the fix.
   */
  received(time: number, spared: boolean): boolean {
    const step = this.#last === undefined ? 0 : time - this.#last;
    this.#last = time;
    if (!(step > 0) || spared) return false;
    const silent = step > MIN && this.#total >= KNOWN && step > OFTEN * this.#usual();
    if (step !== this.#step) this.#power = Math.min(POWERS - 1, Math.ceil(Math.log2(step)));
    this.#step = step;
    const power = this.#power;
    this.#counts[power] = (this.#counts[power] ?? 0) + 1;
    this.#total++;
    return silent;
  }

  get state(): SilencesState {
    return { counts: [...this.#counts], last: this.#last };
  }
  set state({ counts, last }: SilencesState) {
    this.#counts = [...counts];
    this.#total = counts.reduce((sum, count) => sum + count, 0);
    this.#last = last;
  }

  /** Starts a new segment. */
  breakSegment(): void {
    this.#last = undefined;
  }

  /** Milliseconds that nearly all steps stay within. */
  #usual(): number {
    let seen = 0;
    for (let power = 0; power < POWERS; power++) {
      seen += this.#counts[power] ?? 0;
      if (seen >= NEARLY_ALL * this.#total) return 2 ** power;
    }
    return Infinity;
  }
}

/** Whether the receiver was off by plan before a fix. */
export function isSpared({ marks }: Fix): boolean {
  return marks?.includes('planned-gap') === true;
}
