/** Maximum number of characters of a value in an error. */
const LONGEST = 40;

/**
 * Formats a value for an error message: a text in quotation marks, lists and objects as JSON, long values shortened.
 * Never throws: a value that cannot be converted is named by its type.
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

/** A number for JSON: null for NaN. */
export function numberOrNull(value: number): number | null {
  return Number.isNaN(value) ? null : value;
}

/** Problem with a value that should be a finite number, in words; `undefined` when there is none. */
export function numberProblem(name: string, value: unknown): string | undefined {
  return Number.isFinite(value) ? undefined : `${name} must be a number, got ${formatValue(value)}`;
}
