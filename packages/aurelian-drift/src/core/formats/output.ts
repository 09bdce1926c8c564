/**
 * Destination of a writer's text. A format in another order than the content needs to keep text aside; the output
 * decides whether that is in memory or in a file.
 */
export interface Output {
  write(text: string): void;
  /** Adds to a part that is kept aside. */
  aside(part: string, text: string): void;
  /**
   * Writes a part that was kept aside, or adds it to another one, and empties it. A part that was never begun is empty.
   */
  recall(part: string, into?: string): void;
  /** Empties a part without writing it. */
  drop(part: string): void;
}

/** An output in memory. */
export class TextOutput implements Output {
  readonly #texts: string[] = [];
  readonly #aside = new Map<string, string[]>();

  write(text: string): void {
    this.#texts.push(text);
  }

  aside(part: string, text: string): void {
    const texts = this.#aside.get(part);
    if (texts === undefined) this.#aside.set(part, [text]);
    else texts.push(text);
  }

  recall(part: string, into?: string): void {
    for (const text of this.#aside.get(part) ?? []) {
      if (into === undefined) this.#texts.push(text);
      else this.aside(into, text);
    }
    this.#aside.delete(part);
  }

  drop(part: string): void {
    this.#aside.delete(part);
  }

  get text(): string {
    return this.#texts.join('');
  }
}
