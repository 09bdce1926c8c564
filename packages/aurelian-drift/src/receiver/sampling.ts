import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';

/** How seldom fixes are wanted. */
export interface Sampling {
  /** Seconds, at least, since the last fix that passed. Default 0. */
  readonly every?: number;
  /** Metres, at least, from the last fix that passed. Default 0. */
  readonly beyond?: number;
}

/** Metres: two positions in doubles are good to a nanometre, so a micrometre short is not short. */
const ROUNDING = 1e-6;

/**
 * The rule that lets fixes through: the first always; each later one exactly when both `every` seconds and
 * `beyond` metres are reached since the last that passed, each end included.
 */
export function samplingGate({ every = 0, beyond = 0 }: Sampling): (fix: Fix) => boolean {
  let last: Fix | undefined;
  return (fix) => {
    const passes =
      last === undefined ||
      fix.time < last.time || // a clock was put right
      (fix.time - last.time >= every * 1000 && (beyond === 0 || distance(last, fix) >= beyond - ROUNDING));
    if (passes) last = fix;
    return passes;
  };
}
