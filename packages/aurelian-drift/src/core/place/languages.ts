import { InputError } from '../check/input-error.js';

/** BCP 47, as far as a tag's shape goes: parts of 1 to 8 letters or digits. */
const TAG = /^[a-z]{1,8}(?:-[a-z0-9]{1,8})*$/i;

/** What is wrong with a language, in words: one tag, or a list of them, most wanted first. */
export function languageProblem(value: unknown): string | undefined {
  const tags = Array.isArray(value) ? (value as unknown[]) : [value];
  const wrong = tags.find((tag) => typeof tag !== 'string' || !TAG.test(tag));
  return tags.length > 0 && wrong === undefined
    ? undefined
    : `must be a language tag like "en" or "pt-BR", or a list of them, got ${JSON.stringify(value)}`;
}

/** A name, and the language that it is in. */
export interface NameIn {
  readonly text: string;
  /** Absent when the data does not say. */
  readonly language: string | undefined;
  /** Whether it is in a language that was asked for. */
  readonly wanted: boolean;
}

/**
 * The name in the first language of a list that there is one in, found by RFC 4647 section 3.4 (lookup): `pt-BR` is
 * satisfied by `pt`, not the other way round. Else the plain name, marked as not wanted.
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

/** A tag without its last part, and without a single letter that would then be last. */
function shortened(tag: string): string {
  const parts = tag.split('-').slice(0, -1);
  if (parts.at(-1)?.length === 1) parts.pop();
  return parts.join('-');
}

/** Languages as a list. @throws {InputError} for what is no language tag. */
export function languagesOf(value: string | readonly string[] | undefined): readonly string[] {
  if (value === undefined) return [];
  const problem = languageProblem(value);
  if (problem !== undefined) throw new InputError('bad-value', `the language ${problem}`);
  return typeof value === 'string' ? [value] : value;
}
