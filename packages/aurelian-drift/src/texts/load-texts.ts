import type { Texts } from '../core/texts/texts.js';

/** Languages other than English, each loaded when it is asked for. */
const TABLES: Readonly<Record<string, () => Promise<Texts>>> = {
  de: async () => (await import('../core/texts/german.js')).german,
  fr: async () => (await import('../core/texts/french.js')).french,
  es: async () => (await import('../core/texts/spanish.js')).spanish,
};

/**
 * Loads the texts that users read, in the first of some languages for which the library has a table: English, German,
 * French or Spanish. Languages other than English are fetched as a file of their own.
 *
 * @param languages BCP 47 tags, the preferred one first. Default: the `lang` of the page, else the languages of the
 *   browser.
 * @returns the table, or `undefined` for English and for languages without a table: every option `texts` takes
 *   `undefined` as English.
 * @throws whatever the platform throws when the file of a language cannot be fetched.
 */
export async function loadTexts(
  languages: string | readonly string[] = pageLanguages(),
): Promise<Texts | undefined> {
  for (const tag of typeof languages === 'string' ? [languages] : languages) {
    const language = tag.toLowerCase().split('-')[0] ?? '';
    if (language === 'en') return undefined;
    if (Object.hasOwn(TABLES, language)) return TABLES[language]?.();
  }
  return undefined;
}

/** Languages of an element: the nearest `lang` around it, else those of the browser. */
export function languagesOf(element: Element): readonly string[] {
  const own = element.closest('[lang]')?.getAttribute('lang') ?? '';
  return own === '' ? navigator.languages : [own];
}

function pageLanguages(): readonly string[] {
  return typeof document === 'undefined' ? [] : languagesOf(document.documentElement);
}
