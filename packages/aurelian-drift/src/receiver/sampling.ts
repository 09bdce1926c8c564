import type { Fix } from '../core/fix/fix.js';
import { distance } from '../core/geodesy/distance.js';

/** Minimum spacing of fixes. */
export interface Sampling {
  /** Minimum seconds since the last fix that passed. Default 0. */
  readonly every?: number;
  /** Minimum metres from the last fix that passed. Default 0. */
  readonly beyond?: number;
}

/** Tolerance in metres: positions in doubles are exact to a nanometre. */
const ROUNDING = 1e-6;

/**
 * Sampling of fixes: the first passes; a later one passes when both `every` seconds and `beyond` metres are reached
 * since the last that passed, each limit included.
 */
export function samplingGate({ every = 0, beyond = 0 }: Sampling): (fix: Fix) => boolean {
  let last: Fix | undefined;
  return (fix) => {
    const passes =
      last === undefined ||
      fix.time < last.time || // a corrected clock
      (fix.time - last.time >= every * 1000 && (beyond === 0 || distance(last, fix) >= beyond - ROUNDING));
    if (passes) last = fix;
    return passes;
  };
}
