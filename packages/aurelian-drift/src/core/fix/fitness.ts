import { checkOptions, numberFrom, someText } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import type { Fix } from './fix.js';
import { ageText, lengthText } from './words.js';

/** Requirement for a fix: the purpose in words, the accuracy and the age. */
export interface FixNeed {
  /** As part of a sentence: `which section of the round`. */
  readonly purpose: string;
  /** Largest sufficient 95 % radius in metres. */
  readonly accuracy: number;
  /** Greatest sufficient age in seconds. Default: any. */
  readonly maxAge?: number;
}

/** Whether a fix meets a requirement, or the reason why not. */
export type Fitness = { readonly fit: true } | { readonly fit: false; readonly reason: string };

/**
 * Checks a fix against a requirement. A fix without an accuracy never meets one, because its quality is unknown.
 *
 * @param now milliseconds since 1970 UTC; needed only when the requirement has an age.
 * @throws {InputError} for a misspelt or impossible requirement.
 */
export function fitness(fix: Fix, need: FixNeed, now?: number): Fitness {
  checkOptions('a need', need, {
    purpose: someText,
    accuracy: numberFrom(0.1, 1e7, 'metres'),
    maxAge: numberFrom(0, 1e7, 'seconds'),
  });
  const { purpose, accuracy, maxAge } = need;
  if (fix.accuracy === undefined)
    return unfit(`how accurate it is, is not known; ${purpose} needs ±${lengthText(accuracy)}`);
  if (fix.accuracy > accuracy) {
    return unfit(
      `±${lengthText(fix.accuracy)} is too coarse for ${purpose}, which needs ±${lengthText(accuracy)}`,
    );
  }
  if (maxAge === undefined) return { fit: true };
  if (now === undefined)
    throw new InputError('bad-value', 'a requirement with maxAge needs the current time: pass now');
  const age = (now - fix.time) / 1000;
  return age <= maxAge ? { fit: true } : unfit(`it is from ${ageText(age)}, too old for ${purpose}`);
}

function unfit(reason: string): Fitness {
  return { fit: false, reason };
}
