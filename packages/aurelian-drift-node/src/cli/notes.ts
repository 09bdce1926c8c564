import type { Note, TooSmallFence } from 'aurelian-drift';
import { printable } from './tables.js';

/** Maximum number of notes that are listed; more are counted. */
const REPORTED = 20;

/** Reports content of a file that was left out on standard error. */
export class NoteReporter {
  readonly #source: string;
  #count = 0;

  constructor(source: string) {
    this.#source = source;
  }

  report({ line, text }: Note): void {
    if (++this.#count <= REPORTED)
      process.stderr.write(`aurelian: ${this.#source}:${line}: ${printable(text)}\n`);
  }

  end(): void {
    if (this.#count > REPORTED)
      process.stderr.write(`aurelian: ${this.#source}: ${this.#count - REPORTED} more notes\n`);
  }
}

/** Returns a function that reports fences that are too small for the fixes on standard error, each once. */
export function reportTooSmall(): (fence: TooSmallFence) => void {
  const told = new Set<string>();
  return ({ fence, text }) => {
    if (!told.has(fence)) process.stderr.write(`aurelian: ${printable(text)}\n`);
    told.add(fence);
  };
}
