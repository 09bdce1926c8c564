/**
 * Additional data of other writers, as text, so that it survives a conversion between formats. A key is the name of an
 * XML element with its namespace, `{urn:example:quill}pulse`, or for nested elements the path,
 * `{urn:example:quill}body/{urn:example:quill}pulse`.
 */
export type Extras = Readonly<Record<string, string>>;

/** Maximum number of keys of a trail: a hostile file cannot fill the memory. */
export const MAX_KEYS = 64;

/** Whether a text is the key of an extra. */
export function isExtraKey(key: string): boolean {
  return key.startsWith('{');
}

/** The extras among the properties of an object. */
export function extrasAmong(properties: Readonly<Record<string, unknown>>): { readonly extras?: Extras } {
  const found = Object.entries(properties).filter(
    (entry): entry is [string, string] => isExtraKey(entry[0]) && typeof entry[1] === 'string',
  );
  return found.length === 0 ? {} : { extras: Object.fromEntries(found) };
}
