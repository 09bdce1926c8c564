/** Characters of a value that an error shows. */
const LONGEST = 40;

/**
 * A value as an error shows it: a text in quotation marks, lists and objects as JSON, cut where they are long. Never
 * throws, whatever the value is: one that cannot be turned into text is named by its type.
 */
export function formatValue(value: unknown): string {
  switch (typeof value) {
    case 'undefined':
      return 'nothing';
    case 'string':
      return `"${cut(value)}"`;
    case 'number':
    case 'boolean':
    case 'bigint':
    case 'symbol':
      return value.toString();
    case 'function':
      return 'a function';
    default:
      try {
        return cut(JSON.stringify(value));
      } catch {
        return 'an object';
      }
  }
}

function cut(text: string): string {
  return text.length > LONGEST ? `${text.slice(0, LONGEST)}…` : text;
}

/** A number as JSON can hold it: null for NaN. */
export function numberOrNull(value: number): number | null {
  return Number.isNaN(value) ? null : value;
}

/** What is wrong with a would-be finite number, in words, or `undefined` when nothing is. */
export function numberProblem(name: string, value: unknown): string | undefined {
  return Number.isFinite(value) ? undefined : `${name} must be a number, got ${formatValue(value)}`;
}
