import { numberFrom } from '../check/options.js';

/** Rules for the numbers of a fence. */
export const FENCE_NUMBERS = {
  radius: numberFrom(0.001, 1e7, 'metres'),
  halfWidth: numberFrom(0.001, 1e6, 'metres'),
  linger: numberFrom(0.001, 1e9, 'seconds'),
  certainty: numberFrom(0.5, 0.999999, ''),
} as const;
