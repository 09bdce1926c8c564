/**
 * Something that belongs to a screen: made when the screen appears, ended when it goes. A screen that goes and appears
 * again in the same turn, as frameworks do when they check effects, reload code or move an element, keeps it.
 */
export class OnScreen<T> {
  readonly #make: () => T;
  readonly #end: (value: T) => void;
  readonly #changed: (value: T | undefined) => void;
  #held: { readonly value: T; readonly key: readonly unknown[] } | undefined;
  #shown = false;

  /**
   * @param make is called when the screen appears, and when the key changes.
   * @param end is called with each made value, once.
   * @param changed is called with the new value; `undefined` when the screen has gone.
   */
  constructor(make: () => T, end: (value: T) => void, changed: (value: T | undefined) => void) {
    this.#make = make;
    this.#end = end;
    this.#changed = changed;
  }

  /**
   * The screen appears, or is drawn again.
   *
   * @param key what the value is made of: with another one, another value is made.
   */
  appear(key: readonly unknown[]): void {
    this.#shown = true;
    const before = this.#held;
    if (before !== undefined && isSame(before.key, key)) return;
    const value = this.#make();
    this.#held = { value, key };
    // The next is there before the last ends, so that what they share goes on.
    if (before !== undefined && before.value !== value) this.#end(before.value);
    this.#changed(value);
  }

  /** The screen goes. The value ends with the turn, unless the screen appears again before. */
  go(): void {
    this.#shown = false;
    queueMicrotask(() => {
      const held = this.#held;
      if (this.#shown || held === undefined) return;
      this.#held = undefined;
      this.#end(held.value);
      this.#changed(undefined);
    });
  }
}

function isSame(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((each, i) => Object.is(each, b[i]));
}

/** The texts, numbers and switches among options, as a key: other objects are often made anew for each drawing. */
export function plainKey(options: object | undefined): string {
  const plain = Object.entries(options ?? {}).filter(([, value]) =>
    ['string', 'number', 'boolean'].includes(typeof value),
  );
  return JSON.stringify(plain.sort(([a], [b]) => (a < b ? -1 : 1)));
}
