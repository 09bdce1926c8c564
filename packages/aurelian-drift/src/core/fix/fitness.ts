import { checkOptions, numberFrom, someText } from '../check/options.js';
import { InputError } from '../check/input-error.js';
import type { Fix } from './fix.js';
import { ageText, lengthText } from './words.js';

/** What a fix is wanted for, in words, and what that takes. */
export interface FixNeed {
  /** As it stands in a sentence: `which section of the round`. */
  readonly purpose: string;
  /** Metres, the largest 95 % radius that will do. */
  readonly accuracy: number;
  /** Seconds, the greatest age that will do; any when left out. */
  readonly maxAge?: number;
}

/** Whether a fix will do, and why not. */
export type Fitness = { readonly fit: true } | { readonly fit: false; readonly reason: string };

/**
 * The verdict on a fix for a stated purpose. A fix that does not state its accuracy is fit for none: how good it is
 * is not known.
 *
 * @param now milliseconds since 1970 UTC; needed only when the need states an age.
 * @throws {InputError} for a misspelt or impossible need.
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
    throw new InputError('bad-value', 'a need with maxAge is judged at a time: pass now');
  const age = (now - fix.time) / 1000;
  return age <= maxAge ? { fit: true } : unfit(`it is from ${ageText(age)}, too old for ${purpose}`);
}

function unfit(reason: string): Fitness {
  return { fit: false, reason };
}
