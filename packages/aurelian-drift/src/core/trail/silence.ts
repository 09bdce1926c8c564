import type { Fix } from '../fix/fix.js';

/** Milliseconds without a fix that are no silence, however often fixes came before. */
const MIN = 20_000;
/** A silence is so many times as long as nearly all steps before it. */
const OFTEN = 8;
/** Share of the steps that are "nearly all": a few silences among them do not hide the next one. */
const NEARLY_ALL = 0.95;
/** Steps that must be known before anything is called a silence. */
const KNOWN = 8;
/** Powers of two of milliseconds that steps are counted by. */
export const POWERS = 64;

/**
 * What was heard, as JSON can hold it: how many steps there were of each power of two, and the time of the last fix.
 */
export interface SilencesState {
  readonly counts: readonly number[];
  readonly last?: number | undefined;
}

/**
 * Tells the silences of a trail: times without a fix that are long beside the steps between its fixes. Nobody knows
 * where the user went meanwhile. A writer that keeps a fix only where the course changes has steps of all lengths, and
 * few silences.
 *
 * The steps are counted by powers of two, so that each costs the same however many there were.
 */
export class Silences {
  #counts = new Array<number>(POWERS).fill(0);
  #total = 0;
  #last: number | undefined;
  /** The last step, and the power of two that it is within: most are alike. */
  #step = 0;
  #power = 0;

  /**
   * Takes the time of a fix, milliseconds since 1970 UTC. Returns whether a silence ends with it.
   *
   * @param spared the receiver was left off before it by plan, because nothing was to be missed.
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

  /** What comes next follows on nothing. */
  breakSegment(): void {
    this.#last = undefined;
  }

  /** Milliseconds that nearly all steps are within. */
  #usual(): number {
    let seen = 0;
    for (let power = 0; power < POWERS; power++) {
      seen += this.#counts[power] ?? 0;
      if (seen >= NEARLY_ALL * this.#total) return 2 ** power;
    }
    return Infinity;
  }
}

/** Whether the receiver was left off before a fix by plan. */
export function isSpared({ marks }: Fix): boolean {
  return marks?.includes('planned-gap') === true;
}
