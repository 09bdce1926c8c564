/** A value as an error shows it: a text in quotation marks, cut where it is long. */
export function shown(value: unknown): string {
  const known: unknown = value === undefined ? 'nothing' : value;
  return typeof value === 'string' ? `"${value.slice(0, 40)}"` : String(known);
}

/** What is wrong with a would-be finite number, in words, or `undefined` when nothing is. */
export function numberFault(name: string, value: unknown): string | undefined {
  return Number.isFinite(value) ? undefined : `${name} must be a number, got ${shown(value)}`;
}
