import { CIRCLE } from './circle.js';
import { CORRIDOR } from './corridor.js';
import type { Fence } from './fence.js';
import type { FenceKind } from './fence-kind.js';
import { POLYGON } from './polygon.js';

/** Every kind of fence. */
const TABLE = { circle: CIRCLE, polygon: POLYGON, corridor: CORRIDOR };

/** The kinds of fences by their names. */
export const FENCE_KINDS: Readonly<Record<Fence['kind'], FenceKind<never>>> = TABLE;
