import { InputError } from '../check/input-error.js';

/** Shape of a BCP 47 tag: parts of 1 to 8 letters or digits. */
const TAG = /^[a-z]{1,8}(?:-[a-z0-9]{1,8})*$/i;

/** Problem with a language option, in words: one tag, or a list of tags, the preferred one first. */
export function languageProblem(value: unknown): string | undefined {
  const tags = Array.isArray(value) ? (value as unknown[]) : [value];
  const wrong = tags.find((tag) => typeof tag !== 'string' || !TAG.test(tag));
  return tags.length > 0 && wrong === undefined
    ? undefined
    : `must be a language tag like "en" or "pt-BR", or a list of them, got ${JSON.stringify(value)}`;
}

/** A name with its language. */
export interface NameIn {
  readonly text: string;
  /** Absent when the data does not state it. */
  readonly language: string | undefined;
  /** Whether it is in a requested language. */
  readonly wanted: boolean;
}

/**
 * The name in the first available language of a list, by RFC 4647 section 3.4 (lookup): `pt` serves for `pt-BR`, not
 * vice versa. Otherwise the plain name, marked as not requested.
 */
export function nameIn(
  plain: string,
  plainLanguage: string | undefined,
  names: Readonly<Record<string, string>> | undefined,
  wanted: readonly string[],
): NameIn {
  const known = new Map(Object.entries(names ?? {}).map(([tag, text]) => [tag.toLowerCase(), { tag, text }]));
  if (plainLanguage !== undefined)
    known.set(plainLanguage.toLowerCase(), { tag: plainLanguage, text: plain });
  for (const range of wanted) {
    for (let part = range.toLowerCase(); part !== ''; part = shortened(part)) {
      const found = known.get(part);
      if (found !== undefined) return { text: found.text, language: found.tag, wanted: true };
    }
  }
  return { text: plain, language: plainLanguage, wanted: wanted.length === 0 };
}

/** A tag without its last part, and without a single letter at its end. */
function shortened(tag: string): string {
  const parts = tag.split('-').slice(0, -1);
  if (parts.at(-1)?.length === 1) parts.pop();
  return parts.join('-');
}

/** Languages as a list. @throws {InputError} for an invalid language tag. */
export function languagesOf(value: string | readonly string[] | undefined): readonly string[] {
  if (value === undefined) return [];
  const problem = languageProblem(value);
  if (problem !== undefined) throw new InputError('bad-value', `the language ${problem}`);
  return typeof value === 'string' ? [value] : value;
}
