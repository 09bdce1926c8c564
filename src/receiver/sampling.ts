import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';

/** How seldom fixes are wanted. */
export interface Sampling {
  /** Seconds, at least, since the last fix that passed. Default 0. */
  readonly every?: number;
  /** Metres, at least, from the last fix that passed. Default 0. */
  readonly beyond?: number;
}

/**
 * The rule that lets fixes through: the first always; each later one exactly when both `every` seconds and
 * `beyond` metres are reached since the last that passed, each end included.
 */
export function samplingGate({ every = 0, beyond = 0 }: Sampling): (fix: Fix) => boolean {
  let last: Fix | undefined;
  return (fix) => {
    const passes =
      last === undefined ||
      (fix.time - last.time >= every * 1000 && (beyond === 0 || distance(last, fix) >= beyond));
    if (passes) last = fix;
    return passes;
  };
}
