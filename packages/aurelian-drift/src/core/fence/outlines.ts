import { ahead } from '../geodesy/ahead.js';
import type { Position } from '../geodesy/position.js';
import { corridorOutline } from './corridor-outline.js';
import type { CircleFence, Fence } from './fence.js';

type Outlines = readonly (readonly Position[])[];

/** Points of a circle: within 0.1 % of its radius. */
const POINTS = 72;

const OUTLINES: { readonly [Kind in Fence['kind']]: (fence: Extract<Fence, { kind: Kind }>) => Outlines } = {
  circle: ({ centre, radius }: CircleFence) => [
    Array.from({ length: POINTS }, (_, i) => ahead(centre, (i * 360) / POINTS, radius)),
  ],
  polygon: ({ parts }) => parts.flat(),
  corridor: corridorOutline,
};

/** Outlines of a fence, for drawing. Watches and pages without a map do not load them. */
export function outlinesOf(fence: Fence): Outlines {
  return OUTLINES[fence.kind](fence as never);
}
