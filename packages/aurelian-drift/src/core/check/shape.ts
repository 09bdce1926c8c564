import { InputError } from './input-error.js';

/**
 * Check of stored plain data that may be damaged. It returns the path to the first problem, the empty text for the
 * value itself, or `undefined` when there is none.
 */
export type Shape = (value: unknown) => string | undefined;

/** Check by a test of the whole value. */
export function shape(test: (value: unknown) => boolean): Shape {
  return (value) => (test(value) ? undefined : '');
}

export const finite = shape(Number.isFinite);
export const text = shape((value) => typeof value === 'string');
export const truth = shape((value) => typeof value === 'boolean');
/** A whole number, 0 or more. */
export const count = shape((value) => Number.isSafeInteger(value) && (value as number) >= 0);

/** A finite number in a closed range. */
export function within(min: number, max: number): Shape {
  return shape((value) => Number.isFinite(value) && (value as number) >= min && (value as number) <= max);
}

/** One of some words or numbers. */
export function among(...values: readonly unknown[]): Shape {
  return shape((value) => values.includes(value));
}

export function optional(inner: Shape): Shape {
  return (value) => (value === undefined ? undefined : inner(value));
}

/** JSON has null for an unknown number. */
export function nullable(inner: Shape): Shape {
  return (value) => (value === null ? undefined : inner(value));
}

/** An object with these fields. Other fields are allowed. */
export function objectOf(fields: Readonly<Record<string, Shape>>): Shape {
  return (value) => {
    if (typeof value !== 'object' || value === null) return '';
    return firstOf(Object.keys(fields), (key) => fields[key]?.((value as Record<string, unknown>)[key]));
  };
}

/** An object whose values all have the same shape. */
export function recordOf(inner: Shape): Shape {
  return (value) => {
    if (typeof value !== 'object' || value === null || Array.isArray(value)) return '';
    return firstOf(Object.keys(value), (key) => inner((value as Record<string, unknown>)[key]));
  };
}

/** A list whose items have the same shape, of a given length if one is given. */
export function listOf(inner: Shape, length?: number): Shape {
  return (value) => {
    if (!Array.isArray(value) || value.length !== (length ?? value.length)) return '';
    return firstOf([...value.keys()], (i) => inner(value[i]));
  };
}

/** Latitude and longitude, as fields of an object. */
export const PLACE = Object.freeze({ lat: within(-90, 90), lon: within(-180, 180) });

function firstOf<Key extends string | number>(
  keys: readonly Key[],
  problemAt: (key: Key) => string | undefined,
): string | undefined {
  for (const key of keys) {
    const problem = problemAt(key);
    if (problem !== undefined) return problem === '' ? String(key) : `${key}.${problem}`;
  }
  return undefined;
}

/**
 * Refuses stored data that does not have the expected shape.
 *
 * @param problem the problem as a whole, such as "this is not the state of a FenceWatch".
 * @throws {InputError} of kind `bad-value` with the path of the damage.
 */
export function refuseDamaged(value: unknown, shape: Shape, problem: string): void {
  const damaged = shape(value);
  if (damaged !== undefined)
    throw new InputError('bad-value', `${problem}: ${damaged === '' ? 'it' : damaged} is damaged`);
}
