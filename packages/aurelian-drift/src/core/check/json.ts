import { InputError } from './input-error.js';
import { formatValue } from './number.js';

/** Maximum nesting of lists and objects: far more than data has, and far less than a parser can handle. */
const DEEPEST = 200;

/**
 * Writes a value as JSON text (RFC 8259) from which the same value can be read. Properties that are `undefined` are
 * left out.
 *
 * @param name name of the value, for the message.
 * @throws {InputError} of kind `bad-value`, with the path, for values that JSON cannot hold: functions, symbols, big
 *   integers, NaN and infinite numbers, `undefined` itself or in a list, dates and class instances, and objects that
 *   contain themselves.
 */
export function jsonText(name: string, value: unknown): string {
  const path: (string | number)[] = [];
  const problem = problemIn(value, path);
  if (problem !== undefined) {
    const where = path.length === 0 ? name : `${name}.${path.join('.')}`;
    throw new InputError('bad-value', `${where} ${problem}; JSON cannot hold it`, { path: [name, ...path] });
  }
  return JSON.stringify(value);
}

/** Problem with a value that JSON cannot hold, in words; `path` is extended to lead to it. */
function problemIn(value: unknown, path: (string | number)[]): string | undefined {
  if (value === null || typeof value === 'string' || typeof value === 'boolean') return undefined;
  if (typeof value === 'number') return Number.isFinite(value) ? undefined : `is ${value}`;
  if (typeof value !== 'object') return `is ${value === undefined ? 'undefined' : formatValue(value)}`;
  // A cycle is recognised by its depth.
  if (path.length >= DEEPEST) return `is nested more than ${DEEPEST} levels deep, or contains itself`;
  const isList = Array.isArray(value);
  if (!isList && !isPlain(value)) return 'is an instance of a class';
  for (const [key, each] of isList ? value.entries() : Object.entries(value)) {
    if (each === undefined && !isList) continue;
    path.push(key);
    const problem = problemIn(each, path);
    if (problem !== undefined) return problem;
    path.pop();
  }
  return undefined;
}

function isPlain(value: object): boolean {
  const prototype: unknown = Object.getPrototypeOf(value);
  // An object of another realm, such as a frame, has another Object.prototype, whose own prototype is null.
  return prototype === null || Object.getPrototypeOf(prototype) === null;
}
