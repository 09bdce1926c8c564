import type { Note } from 'aurelian-drift';
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
