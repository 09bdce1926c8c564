/**
 * What other writers put beside what the library knows, as text, so that it survives going from one format to another.
 * A key is the name of an XML element with its namespace, `{urn:example:quill}pulse`; of an element within others the
 * path, `{urn:example:quill}body/{urn:example:quill}pulse`.
 */
export type Extras = Readonly<Record<string, string>>;

/** Keys of a trail that are kept: a file of endless invented ones must not fill the memory. */
export const MAX_KEYS = 64;

/** Whether a text is the key of an extra. */
export function isExtraKey(key: string): boolean {
  return key.startsWith('{');
}

/** The extras among the properties of something. */
export function extrasAmong(properties: Readonly<Record<string, unknown>>): { readonly extras?: Extras } {
  const found = Object.entries(properties).filter(
    (entry): entry is [string, string] => isExtraKey(entry[0]) && typeof entry[1] === 'string',
  );
  return found.length === 0 ? {} : { extras: Object.fromEntries(found) };
}
