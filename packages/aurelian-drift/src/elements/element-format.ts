import { Formatter } from '../core/fix/formatter.js';
import { UNIT_SYSTEMS } from '../core/fix/units.js';

/** The formatter of an element, made once for a language and units: the platform takes long to load its tables. */
export class ElementFormat {
  #made: { readonly key: string; readonly format: Formatter } | undefined;

  /**
   * @param locale BCP 47 tag; empty for that of the platform.
   * @param units as an attribute has them; metric where they are none.
   */
  of(locale: string, units: string | null | undefined): Formatter {
    const system = UNIT_SYSTEMS.find((each) => each === units) ?? 'metric';
    const key = `${system} ${locale}`;
    if (this.#made?.key !== key) {
      const format = new Formatter({ units: system, ...(locale !== '' && { locale }) });
      this.#made = { key, format };
    }
    return this.#made.format;
  }
}
