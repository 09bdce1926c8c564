/** A value as an error shows it: a text in quotation marks, cut where it is long. */
export function shown(value: unknown): string {
  if (typeof value === 'string') return `"${value.slice(0, 40)}"`;
  return value === undefined ? 'nothing' : `${value as number}`;
}

/** What is wrong with a would-be finite number, in words, or `undefined` when nothing is. */
export function numberFault(name: string, value: unknown): string | undefined {
  return Number.isFinite(value) ? undefined : `${name} must be a number, got ${shown(value)}`;
}
