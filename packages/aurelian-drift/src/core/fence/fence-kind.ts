import type { Rule } from '../check/options.js';
import type { Fence, FenceShape } from './fence.js';

/**
 * What a watch knows of a kind of fence: its table is `kinds.ts`. How it is drawn is in `outlines.ts`, and how GeoJSON
 * has it, in the readers and writers.
 */
export interface FenceKind<Kind extends Fence> {
  /** What such a fence has to have beside id and name. */
  readonly rules: Readonly<Record<string, Rule>>;
  /** Its geometry, once it is checked. */
  readonly shape: (fence: Kind) => FenceShape;
}
