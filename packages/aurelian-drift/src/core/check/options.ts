import { InputError } from './input-error.js';
import { formatValue } from './number.js';
import { suggestion } from './suggest.js';

/** Checks the value of one option. Returns the problem in words, or `undefined`. */
export type Rule = (value: unknown) => string | undefined;

/**
 * Checks an options object. There is one rule for each option that the type has.
 *
 * @throws {InputError} of kind `unknown-option` with a suggestion, or `bad-value` with the range.
 */
export function checkOptions<Options extends object>(
  owner: string,
  options: Options,
  rules: { readonly [Name in keyof Options]-?: Rule },
): void {
  for (const [name, value] of Object.entries(options)) {
    const rule = Object.hasOwn(rules, name) ? rules[name as keyof Options] : undefined;
    if (rule === undefined) {
      throw new InputError(
        'unknown-option',
        `${owner} has no option "${name}", ${suggestion(name, Object.keys(rules))}`,
      );
    }
    if (value === undefined) continue;
    const problem = rule(value);
    if (problem !== undefined) throw new InputError('bad-value', `${owner}: ${name} ${problem}`);
  }
}

/** Rule for a finite number from `min` to `max`, both included. The unit is for the message and may be empty. */
export function numberFrom(min: number, max: number, unit: string): Rule {
  const suffix = unit === '' ? '' : ` ${unit}`;
  return (value) => {
    if (typeof value !== 'number')
      return `must be a number${unit === '' ? '' : ` of ${unit}`}, got ${formatValue(value)}`;
    if (value >= min && value <= max) return undefined;
    const range = max === Infinity ? `${min} or more` : `${min} to ${max}`;
    return `must be ${range}${suffix}, got ${value}`;
  };
}

/** Longest durations in seconds: of an option, and of a time to wait. */
const DAY = 86_400;
const HOUR = 3600;
/** A multiple of this that is longer than an hour looks like milliseconds. */
const ROUND = 500;

/** A duration in seconds, 0 to a day. */
export function seconds(value: unknown): string | undefined {
  return secondsProblem(value, DAY);
}

/** A time to wait in seconds, 0 to an hour. */
export function patienceSeconds(value: unknown): string | undefined {
  return secondsProblem(value, HOUR);
}

/** Problem with a duration of 0 to `max` seconds, with a hint when the value would fit in milliseconds. */
function secondsProblem(value: unknown, max: number): string | undefined {
  const problem = numberFrom(0, max, 'seconds')(value);
  const meant = Number(value) / 1000;
  return problem !== undefined && meant > 0 && meant <= max
    ? `${problem}; did you mean ${meant} s?`
    : problem;
}

/**
 * Warning for a duration that was probably meant in milliseconds: longer than an hour and a multiple of 500.
 * `undefined` for other values. @param name name of the option, for the text.
 */
export function doubtfulSeconds(name: string, value: number | undefined): string | undefined {
  if (value === undefined || value <= HOUR || value % ROUND !== 0) return undefined;
  return `${name} is in seconds: ${value} is ${Number((value / 3600).toFixed(1))} hours; were ${value / 1000} s meant?`;
}

/** Rule for an `AbortSignal`, recognised by its shape. */
export function abortSignal(value: unknown): string | undefined {
  return typeof (value as Partial<Record<string, unknown>> | null)?.['aborted'] === 'boolean'
    ? undefined
    : 'must be an AbortSignal';
}

/** Rule for one of some words. */
export function oneOf(...words: readonly string[]): Rule {
  return (value) => {
    if (typeof value === 'string' && words.includes(value)) return undefined;
    return `got ${formatValue(value)}, ${suggestion(value, words)}`;
  };
}

/** Rule for a text that is not blank. */
export function someText(value: unknown): string | undefined {
  return typeof value === 'string' && value.trim() !== ''
    ? undefined
    : `must be a text, got ${formatValue(value)}`;
}

/** Rule for true or false. */
export function yesOrNo(value: unknown): string | undefined {
  return typeof value === 'boolean' ? undefined : `must be true or false, got ${formatValue(value)}`;
}

/** Rule that accepts any value: the value is checked where it is used, or by its type only. */
export function anything(): undefined {
  return undefined;
}

/** The same rule for an option that may be left out, where a rule is asked about missing ones too. */
export function optional(rule: Rule): Rule {
  return (value) => (value === undefined ? undefined : rule(value));
}

/** Whether a value was left out, although its type demands it: the callers of plain scripts have no types. */
export function isMissing(value: unknown): value is null | undefined {
  return value === undefined || value === null;
}

/** Rule for an object. */
export function someObject(value: unknown): string | undefined {
  return typeof value === 'object' && value !== null
    ? undefined
    : `must be an object, got ${formatValue(value)}`;
}

/** Rule for a list. */
export function list(value: unknown): string | undefined {
  return Array.isArray(value) ? undefined : `must be a list, got ${formatValue(value)}`;
}

/** Rule for a colour in the form #rrggbb. */
export function colour(value: unknown): string | undefined {
  return typeof value === 'string' && /^#[0-9a-f]{6}$/i.test(value)
    ? undefined
    : `must be a colour like #5b4a8a, got ${formatValue(value)}`;
}

/** Rule for a function. */
export function callable(value: unknown): string | undefined {
  return typeof value === 'function' ? undefined : 'must be a function';
}
