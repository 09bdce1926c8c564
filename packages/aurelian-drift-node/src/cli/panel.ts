/** A part of a terminal that is drawn again and again below the printed lines. */
export class Panel {
  readonly #print: (text: string) => void;
  #lines = 0;

  constructor(print: (text: string) => void) {
    this.#print = print;
  }

  /** Prints a line above the panel. */
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
