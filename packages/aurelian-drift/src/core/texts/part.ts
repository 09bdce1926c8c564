import type { PluralText, TextParts, Texts } from './texts.js';

/** One part of a table, with the texts of English where the table has none. */
export function partOf<Part extends keyof TextParts>(
  texts: Texts | undefined,
  part: Part,
  english: TextParts[Part],
): TextParts[Part] {
  const own = texts?.[part] as Partial<TextParts[Part]> | undefined;
  return own === undefined ? english : { ...english, ...own };
}

/** A text with values in the place of its `{names}`. A name without a value stays as it is. */
export function filled(text: string, values: Readonly<Record<string, string | number>>): string {
  return text.replace(/\{(\w+)\}/g, (whole, name: string) =>
    Object.hasOwn(values, name) ? String(values[name]) : whole,
  );
}

/** The form of a text for a count, by the plural rules of its language, with `{count}` filled in. */
export function counted(
  { one, other }: PluralText,
  count: number,
  language: string,
  values: Readonly<Record<string, string | number>> = {},
): string {
  const form = new Intl.PluralRules(language).select(count) === 'one' ? one : other;
  return filled(form, { ...values, count });
}
