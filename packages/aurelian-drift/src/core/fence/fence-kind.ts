import type { Rule } from '../check/options.js';
import type { Fence, FenceShape } from './fence.js';

/**
 * A kind of fence, as a watch sees it; the table is `kinds.ts`. Drawing is in `outlines.ts`, and GeoJSON in the readers
 * and writers.
 */
export interface FenceKind<Kind extends Fence> {
  /** Rules for the fields beside id and name. */
  readonly rules: Readonly<Record<string, Rule>>;
  /** The geometry of a checked fence. */
  readonly shape: (fence: Kind) => FenceShape;
}
