/** A part of a terminal that is drawn anew below what is printed for good. */
export class Panel {
  readonly #print: (text: string) => void;
  #lines = 0;

  constructor(print: (text: string) => void) {
    this.#print = print;
  }

  /** Prints a line above it, for good. */
  line(text: string): void {
    this.#clear();
    this.#print(`${text}\n`);
  }

  draw(text: string): void {
    this.#clear();
    this.#print(text);
    this.#lines = text.split('\n').length - 1;
  }

  #clear(): void {
    if (this.#lines > 0) this.#print(`\u001B[${this.#lines}A\u001B[0J`);
    this.#lines = 0;
  }
}
