import type { Note } from 'aurelian-drift';
import { printable } from './tables.js';

/** Notes told one by one; more are counted. */
const TOLD = 20;

/** Tells on standard error what was passed over in a file. */
export class NoteTeller {
  readonly #source: string;
  #count = 0;

  constructor(source: string) {
    this.#source = source;
  }

  tell({ line, text }: Note): void {
    if (++this.#count <= TOLD)
      process.stderr.write(`aurelian: ${this.#source}:${line}: ${printable(text)}\n`);
  }

  end(): void {
    if (this.#count > TOLD)
      process.stderr.write(`aurelian: ${this.#source}: ${this.#count - TOLD} more notes\n`);
  }
}
