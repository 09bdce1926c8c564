import { InputError } from './input-error.js';
import { shown } from './number.js';
import { suggestion } from './suggest.js';

/** What an option may hold. A rule gives the fault in words, or `undefined`. */
export type Rule = (value: unknown) => string | undefined;

/**
 * Checks an options object against one rule a name.
 *
 * @throws {InputError} of kind `unknown-option` with a suggestion, or `bad-value` with the range.
 */
export function checkOptions(owner: string, options: object, rules: Readonly<Record<string, Rule>>): void {
  for (const [name, value] of Object.entries(options)) {
    const rule = Object.hasOwn(rules, name) ? rules[name] : undefined;
    if (rule === undefined) {
      throw new InputError(
        'unknown-option',
        `${owner} has no option "${name}", ${suggestion(name, Object.keys(rules))}`,
      );
    }
    if (value === undefined) continue;
    const fault = rule(value);
    if (fault !== undefined) throw new InputError('bad-value', `${owner}: ${name} ${fault}`);
  }
}

/** A finite number from `least` to `most`, both allowed; `unit` is for the message, and may be empty. */
export function numberFrom(least: number, most: number, unit: string): Rule {
  const suffix = unit === '' ? '' : ` ${unit}`;
  return (value) => {
    if (typeof value !== 'number')
      return `must be a number${unit === '' ? '' : ` of ${unit}`}, got ${shown(value)}`;
    if (value >= least && value <= most) return undefined;
    const range = most === Infinity ? `${least} or more` : `${least} to ${most}`;
    return `must be ${range}${suffix}, got ${value}`;
  };
}

/** A duration in seconds up to a day; one over an hour that is whole thousands is taken for milliseconds. */
export function seconds(value: unknown): string | undefined {
  if (typeof value === 'number' && value >= 1000 && value % 500 === 0 && value > 3600) {
    return `is in seconds; ${value} would be ${Math.round(value / 60)} minutes, did you mean ${value / 1000} s?`;
  }
  return numberFrom(0, 86_400, 'seconds')(value);
}

/** One of some words. */
export function oneOf(...words: readonly string[]): Rule {
  return (value) => {
    if (typeof value === 'string' && words.includes(value)) return undefined;
    const hint = typeof value === 'string' ? suggestion(value, words) : `known: ${words.join(', ')}`;
    return `got ${shown(value)}, ${hint}`;
  };
}

/** A text that says something. */
export function someText(value: unknown): string | undefined {
  return typeof value === 'string' && value.trim() !== '' ? undefined : `must be a text, got ${shown(value)}`;
}

/** True or false, and nothing that merely looks like it. */
export function yesOrNo(value: unknown): string | undefined {
  return typeof value === 'boolean' ? undefined : `must be true or false, got ${shown(value)}`;
}

/** Anything: checked where it is used, or by its type alone. */
export function anything(): undefined {
  return undefined;
}

/** A function. */
export function callable(value: unknown): string | undefined {
  return typeof value === 'function' ? undefined : 'must be a function';
}
