import { InputError } from '../core/check/input-error.js';
import { formatValue } from '../core/check/number.js';
import { suggestion } from '../core/check/suggest.js';
import * as english from '../core/texts/english.js';
import type { Texts } from '../core/texts/texts.js';

/** The whole table in English: what an app's own table has to follow. */
export const ENGLISH: Required<Texts> = Object.freeze({ language: 'en', ...english });

/**
 * Checks a table of texts from plain data, such as a JSON file of the app: each part and each text has a name that the
 * English table has, and each text is a string. What is left out is shown in English.
 *
 * @throws {InputError} of kind `unknown-option` with a suggestion for a misspelt name, or `bad-value` for a value that
 *   is not a text, each with the path to it.
 */
export function textsFrom(data: unknown): Texts {
  if (typeof data !== 'object' || data === null || Array.isArray(data))
    throw new InputError('bad-value', `texts must be an object, got ${formatValue(data)}`);
  const { language } = data as { readonly language?: unknown };
  if (typeof language !== 'string' || !isLanguage(language))
    throw new InputError(
      'bad-value',
      `texts: language must be a BCP 47 tag, like pt, got ${formatValue(language)}`,
    );
  check(data, { ...ENGLISH, appFailures: ENGLISH.failures }, []);
  return Object.freeze({ ...(data as Texts) });
}

function isLanguage(tag: string): boolean {
  try {
    return Intl.getCanonicalLocales(tag).length === 1;
  } catch {
    return false;
  }
}

function check(value: unknown, model: unknown, path: readonly (string | number)[]): void {
  const place = { path };
  if (typeof model === 'string') {
    if (typeof value !== 'string' || value.trim() === '')
      throw new InputError('bad-value', `must be a text, got ${formatValue(value)}`, place);
  } else if (Array.isArray(model)) {
    checkList(value, model, path);
  } else {
    if (typeof value !== 'object' || value === null || Array.isArray(value))
      throw new InputError('bad-value', `must be an object of texts, got ${formatValue(value)}`, place);
    const known = model as Readonly<Record<string, unknown>>;
    for (const [name, each] of Object.entries(value)) {
      if (!Object.hasOwn(known, name))
        throw new InputError(
          'unknown-option',
          `there is no text "${name}", ${suggestion(name, Object.keys(known))}`,
          place,
        );
      if (each !== undefined) check(each, known[name], [...path, name]);
    }
  }
}

/** A list of any length, whose items are like the first of the English list; a pair is a list of two texts. */
function checkList(value: unknown, model: readonly unknown[], path: readonly (string | number)[]): void {
  if (!Array.isArray(value))
    throw new InputError('bad-value', `must be a list, got ${formatValue(value)}`, { path });
  if (typeof model[0] === 'string' && value.length !== model.length)
    throw new InputError('bad-value', `must be a list of ${model.length} texts, got ${value.length}`, {
      path,
    });
  value.forEach((each, i) => check(each, model[0], [...path, i]));
}
