import type { Texts } from '../core/texts/texts.js';
import { languagesOf, loadTexts } from '../texts/load-texts.js';

/**
 * Texts of an element: those of the app, or those of the language of the page, loaded when the element is connected.
 */
export class ElementTexts {
  readonly #host: Element;
  readonly #onChange: () => void;
  #own: Texts | undefined;
  #loaded: Texts | undefined;

  /** @param onChange draws the element again. */
  constructor(host: Element, onChange: () => void) {
    this.#host = host;
    this.#onChange = onChange;
  }

  /** Texts that the app gave. */
  get own(): Texts | undefined {
    return this.#own;
  }
  set own(texts: Texts | undefined) {
    this.#own = texts;
    this.#onChange();
  }

  /** The texts to show; `undefined` for English. */
  get current(): Texts | undefined {
    return this.#own ?? this.#loaded;
  }

  /**
   * Loads the texts of the nearest `lang`. The texts stay English when the file cannot be fetched. Resolves in either
   * case.
   */
  load(): Promise<void> {
    return loadTexts(languagesOf(this.#host)).then(
      (texts) => {
        if (this.#loaded === texts) return;
        this.#loaded = texts;
        this.#onChange();
      },
      (error: unknown) => {
        // eslint-disable-next-line no-console -- the element goes on in English; its developer learns why
        console.warn(`${this.#host.localName} shows English: its texts cannot be loaded: ${String(error)}`);
      },
    );
  }
}
