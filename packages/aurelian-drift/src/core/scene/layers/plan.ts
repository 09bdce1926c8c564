import type { Plan } from '../../plan/plan.js';
import type { Stretches } from '../../plan/stretches.js';
import type { LineLayer } from './line.js';

/** A plan as a layer of a map. @param done what was travelled of it, in metres along the line: `progress.travelled`. */
export function planLayer({ name, line }: Plan, done: Stretches = []): LineLayer {
  return {
    kind: 'line',
    line: { ...(name !== undefined && { name }), parts: [line.points] },
    done: { parts: done.filter(([from, to]) => to > from).map(([from, to]) => line.part(from, to)) },
  };
}
