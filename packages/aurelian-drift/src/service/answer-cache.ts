import type { Clock } from '../receiver/clock.js';

interface Kept<Answer> {
  readonly answers: readonly Answer[];
  readonly until: number;
}

/** Answers by question, for a limited time; when there are too many, the least recently used one is dropped. */
export class AnswerCache<Answer> {
  readonly #clock: Clock;
  readonly #max: number;
  readonly #seconds: number;
  readonly #kept = new Map<string, Kept<Answer>>();

  constructor(clock: Clock, max: number, seconds: number) {
    this.#clock = clock;
    this.#max = max;
    this.#seconds = seconds;
  }

  get(key: string): readonly Answer[] | undefined {
    const kept = this.#kept.get(key);
    if (kept === undefined) return undefined;
    this.#kept.delete(key);
    if (kept.until < this.#clock.now()) return undefined;
    this.#kept.set(key, kept); // a map keeps the order of insertion: this makes it the newest
    return kept.answers;
  }

  set(key: string, answers: readonly Answer[]): void {
    if (this.#max === 0) return;
    this.#kept.delete(key);
    if (this.#kept.size >= this.#max) this.#kept.delete(this.#kept.keys().next().value ?? '');
    this.#kept.set(key, { answers, until: this.#clock.now() + this.#seconds * 1000 });
  }

  clear(): void {
    this.#kept.clear();
  }
}
