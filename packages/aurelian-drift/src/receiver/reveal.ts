import type { Fix } from '../core/fix/fix.js';

/** Metres: a coarser fix does not reveal a map by itself. */
const REVEAL_WITHIN = 500;
/** Seconds after the first fix from which any fix reveals a map: a better one is not near. */
export const REVEAL_AFTER = 15;

/** Whether a fix is too coarse to begin a map with: coarser than demanded, or than 500 m where nothing is demanded. */
export function isTooCoarse({ accuracy = 0, marks }: Fix): boolean {
  return accuracy > REVEAL_WITHIN || marks?.includes('coarse') === true;
}
