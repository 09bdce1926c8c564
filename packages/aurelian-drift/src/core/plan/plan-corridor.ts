import { cutsByDepth } from '../fence/cuts.js';
import type { Fence } from '../fence/fence.js';
import type { FenceField, Plot } from '../fence/field.js';
import type { SharedFences } from '../fence/shared-fences.js';
import type { Plan } from './plan.js';

/** Id of the corridor as a fence. */
export const PLAN = 'plan';
/**
 * Probability from which the user counts as in the corridor, also where it is narrower than the fixes are accurate:
 * keeping to the plan is presumed. Having left it needs 0.975.
 */
const PRESUMED = 0.5;

/** The corridor of a plan as the only fence of a watch, with the index of its line. */
export function corridorOf({ line, corridor, name = PLAN }: Plan): SharedFences {
  const depth = (lat: number, lon: number) => corridor - line.nearest({ lat, lon }).distance;
  const fence: Fence = {
    kind: 'corridor',
    id: PLAN,
    name,
    lines: [line.points],
    halfWidth: corridor,
    certainty: PRESUMED,
  };
  const plot: Plot = {
    fence,
    shape: {
      size: corridor,
      bounds: [-180, -90, 180, 90],
      depth,
      cuts: (from, to) => cutsByDepth(depth, from, to),
    },
  };
  const field: FenceField & SharedFences = {
    size: 1,
    timed: new Map(),
    plot: (id) => (id === PLAN ? plot : undefined),
    near: () => [plot],
    around: () => () => [plot],
    add() {},
    remove() {},
  };
  return field;
}
