import { THEMES, type Theme } from '../core/scene/theme.js';

/** Themes of a map: a fixed one, or `auto` for day or dusk as the device prefers. */
export const THEME_CHOICES = [...THEMES, 'auto'] as const;
/** Colours of a map: those of a theme, or with `auto` day or dusk by the preference of the device. */
export type ThemeChoice = (typeof THEME_CHOICES)[number];

/** The theme of a map, by choice, by the preference of the device, and while the page is printed. */
export class PageTheme {
  #choice: ThemeChoice;
  readonly #onChange: () => void;
  readonly #dark = matchMedia('(prefers-color-scheme: dark)');
  readonly #paper = matchMedia('print');

  #watching = false;

  constructor(choice: ThemeChoice, onChange: () => void) {
    this.#choice = choice;
    this.#onChange = onChange;
  }

  get choice(): ThemeChoice {
    return this.#choice;
  }
  set choice(choice: ThemeChoice) {
    this.#choice = choice;
    this.#onChange();
  }

  get current(): Theme {
    if (this.#paper.matches) return 'print';
    if (this.#choice !== 'auto') return this.#choice;
    return this.#dark.matches ? 'dusk' : 'day';
  }

  /** Watches the device, or stops: a map that left the page would otherwise stay in memory with it. */
  watch(on: boolean): void {
    if (on === this.#watching) return;
    this.#watching = on;
    for (const query of [this.#dark, this.#paper]) {
      if (on) query.addEventListener('change', this.#changed);
      else query.removeEventListener('change', this.#changed);
    }
  }

  readonly #changed = (): void => {
    this.#onChange();
  };
}
